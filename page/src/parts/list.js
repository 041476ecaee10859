// SPDX-License-Identifier: MIT
// A list of any length: only the lines that are seen are there.
import { useEffect, useLayoutEffect, useRef, useState } from "preact/hooks";

const height = 24;
const tallest = 8_000_000; // pixels, which browsers can scroll

export function List({ count, line, head, selected, select, label, follow }) {
  const place = useRef();
  const [view, setView] = useState({ top: 0, rows: 40 });
  const all = count * height;
  const scale = all > tallest ? all / tallest : 1;
  const measure = () => {
    const element = place.current;
    if (element) setView({ top: element.scrollTop, rows: Math.ceil(element.clientHeight / height) + 1 });
  };
  useLayoutEffect(measure, []);
  useEffect(() => {
    addEventListener("resize", measure);
    return () => removeEventListener("resize", measure);
  }, []);
  useLayoutEffect(() => {
    const element = place.current;
    if (follow && selected < 0) element.scrollTop = element.scrollHeight;
  }, [count, follow]);
  useLayoutEffect(() => {
    const element = place.current;
    if (selected < 0) return;
    const top = (selected * height) / scale;
    if (top < element.scrollTop || top + height > element.scrollTop + element.clientHeight)
      element.scrollTop = top - element.clientHeight / 2;
    measure();
  }, [selected]);
  const first = Math.max(0, Math.min(count - 1, Math.floor((view.top * scale) / height)));
  const lines = [];
  for (let i = first; i < Math.min(count, first + view.rows); ++i) {
    lines.push(
      <div
        key={i}
        class="line"
        role="option"
        aria-selected={i === selected}
        style={`top:${view.top + (i - first) * height - (scale === 1 ? view.top % height : 0)}px`}
        onClick={() => select(i)}
      >
        {line(i)}
      </div>,
    );
  }
  const key = (event) => {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: view.rows - 2, PageUp: 2 - view.rows }[event.key];
    const to =
      event.key === "Home"
        ? 0
        : event.key === "End"
          ? count - 1
          : step
            ? selected < 0
              ? count - 1
              : selected + step
            : -1;
    if (to < 0 && !step) return;
    event.preventDefault();
    select(Math.max(0, Math.min(count - 1, to)));
  };
  return (
    <div class="listing">
      <div class="head" aria-hidden="true">
        {head.map((name) => (
          <span key={name}>{name}</span>
        ))}
      </div>
      <div class="list" ref={place} role="listbox" tabIndex="0" aria-label={label} onScroll={measure} onKeyDown={key}>
        <div style={`height:${Math.min(all, tallest)}px`} />
        {lines}
      </div>
    </div>
  );
}
