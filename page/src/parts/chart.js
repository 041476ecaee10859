// Charts: a small one in a line of a table, and a large one.
import { useEffect, useRef } from "preact/hooks";
import uPlot from "uplot";

export function Spark({ values, width = 120, height = 20 }) {
  const most = Math.max(1, ...values);
  const step = width / Math.max(1, values.length - 1);
  const path = Array.from(values, (v, i) => `${i ? "L" : "M"}${(i * step).toFixed(1)} ${(height - 1 - (v / most) * (height - 3)).toFixed(1)}`).join("");
  return (
    <svg width={width} height={height} role="img" aria-label={`at most ${most} in a frame`}>
      <path d={path} fill="none" stroke="var(--sea)" stroke-width="1.2" />
    </svg>
  );
}

export function Chart({ title, xs, ys }) {
  const place = useRef();
  const plot = useRef();
  useEffect(() => {
    const color = (name) => getComputedStyle(document.documentElement).getPropertyValue(name);
    const resolved = (name) => {
      const probe = document.createElement("span");
      probe.style.color = `var(${name})`;
      place.current.append(probe);
      const made = getComputedStyle(probe).color;
      probe.remove();
      return made || color(name);
    };
    const axis = { stroke: resolved("--faint"), grid: { stroke: resolved("--edge"), width: 1 }, ticks: { show: false }, font: "11px system-ui" };
    plot.current = new uPlot({
      width: place.current.clientWidth, height: 150, title: "", cursor: { drag: { x: true, y: false } }, legend: { show: false },
      scales: { x: { time: false }, y: { range: (u, low, high) => [0, Math.max(1, high)] } },
      series: [{}, { stroke: resolved("--sea"), fill: resolved("--chosen"), width: 1.3, points: { show: false } }],
      axes: [{ ...axis, label: "frame", labelSize: 14, labelFont: "11px system-ui", size: 28 }, { ...axis, size: 38 }],
    }, [xs, ys], place.current);
    const resize = () => plot.current?.setSize({ width: place.current.clientWidth, height: 150 });
    addEventListener("resize", resize);
    return () => {
      removeEventListener("resize", resize);
      plot.current.destroy();
    };
  }, []);
  useEffect(() => plot.current?.setData([xs, ys]), [xs, ys]);
  return <div><div class="faint">{title}</div><div ref={place} /></div>;
}
