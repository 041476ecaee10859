// SPDX-License-Identifier: MIT
// Who told whom, along time: from the whole run down to one frame.
import { useEffect, useMemo, useRef, useState } from "preact/hooks";
import { lanesOf, lowerBound, orderOf } from "../model/lanes.js";
import { coloursOf, stepOf } from "../parts/drawing.js";

const laneHeight = 26;
const top = 24;
const left = 176;
const fewest = 1; // frames across
const mostSingle = 4000; // events that are drawn one by one
const mostLines = 400; // of these, events whose lines to those who heard them are drawn
const liveSpan = 60; // frames of a live run, unless a stretch was chosen

// Which lanes are shown, and where time begins and ends; all that drawing needs.
function draw(canvas, run, lanes, order, view, chosen, chain, passes) {
  const ratio = devicePixelRatio || 1;
  const width = canvas.clientWidth;
  const height = canvas.clientHeight;
  if (canvas.width !== width * ratio || canvas.height !== height * ratio) {
    canvas.width = width * ratio;
    canvas.height = height * ratio;
  }
  const pen = canvas.getContext("2d");
  pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  pen.clearRect(0, 0, width, height);
  const colour = view.colours;
  const scale = (width - left) / (view.last - view.first);
  const x = (place) => left + (place - view.first) * scale;
  const y = (row) => top + (row + 0.5) * laneHeight - view.down;
  pen.font = "12px system-ui, sans-serif";
  drawFrames(pen, run, view, colour, x, width, height);
  let single = 0;
  for (const lane of order)
    single +=
      lowerBound(lanes.made[lane], lanes.places, view.last) - lowerBound(lanes.made[lane], lanes.places, view.first);
  const rowOf = new Map(order.map((lane, row) => [lane, row]));
  order.forEach((lane, row) => {
    if (y(row) < top - laneHeight || y(row) > height + laneHeight) return;
    pen.fillStyle = colour.edge;
    pen.fillRect(left, y(row), width - left, 1);
    if (single > mostSingle) {
      drawDense(pen, lanes.heard[lane], lanes, view, y(row), width, colour.kelp, 4, passes);
      drawDense(pen, lanes.made[lane], lanes, view, y(row), width, colour.sea, -9, passes);
    }
  });
  if (single <= mostSingle)
    drawEach(pen, run, lanes, order, rowOf, view, { x, y, scale }, colour, {
      chosen,
      chain,
      passes,
      withLines: single <= mostLines,
    });
  pen.fillStyle = colour.sheet;
  pen.fillRect(0, top, left, height);
  order.forEach((lane, row) => {
    if (y(row) < top) return;
    pen.fillStyle = colour.lamp;
    pen.fillText(
      lanes.names[lane].length > 24 ? `${lanes.names[lane].slice(0, 23)}…` : lanes.names[lane],
      8,
      y(row) + 4,
    );
  });
  return single;
}

function drawFrames(pen, run, view, colour, x, width, height) {
  pen.fillStyle = colour.sheet;
  pen.fillRect(0, 0, width, top);
  const span = view.last - view.first;
  const step = stepOf(span, 14);
  for (let frame = Math.ceil(view.first / step) * step; frame <= view.last; frame += step) {
    pen.fillStyle = colour.edge;
    pen.fillRect(x(frame), top - 6, 1, height);
    pen.fillStyle = colour.faint;
    pen.fillText(`${frame}`, x(frame) + 3, 14);
  }
  if (span < 40) {
    pen.fillStyle = colour.edge;
    for (let frame = Math.ceil(view.first); frame <= view.last; ++frame) pen.fillRect(x(frame), top, 1, height);
  }
  const text = `frame, ${run.timeOfFrame(Math.floor(view.first)).toFixed(1)} s`;
  pen.fillStyle = colour.faint;
  pen.fillText(text, 8, 14);
}

// How many there are in each column of pixels, as how dark it is.
function drawDense(pen, list, lanes, view, y, width, colour, up, passes) {
  const perPixel = (view.last - view.first) / (width - left);
  let at = lowerBound(list, lanes.places, view.first);
  pen.fillStyle = colour;
  for (let pixel = 0; pixel < width - left && at < list.length; ++pixel) {
    const next = lowerBound(list, lanes.places, view.first + (pixel + 1) * perPixel, at);
    let count = next - at;
    if (passes && count) {
      count = 0;
      for (let k = at; k < next && count < 4; ++k) count += passes(list[k]) ? 1 : 0;
    }
    if (count) {
      pen.globalAlpha = Math.min(1, 0.35 + count / 6);
      pen.fillRect(left + pixel, y + up, 1, 6);
    }
    at = next;
  }
  pen.globalAlpha = 1;
}

// All of one kind are drawn at once, since each stroke takes its time. The chain of the chosen event stands out.
function drawEach(pen, run, lanes, order, rowOf, view, { x, y, scale }, colour, { chosen, chain, passes, withLines }) {
  const frameSeconds = run.timeOfFrame(1) - run.timeOfFrame(0) || 1 / 60;
  const inks = { bright: layers(), faint: layers(), chosen: layers() };
  const names = [];
  for (const lane of order) {
    const list = lanes.made[lane];
    for (
      let k = lowerBound(list, lanes.places, view.first);
      k < list.length && lanes.places[list[k]] <= view.last;
      ++k
    ) {
      const i = list[k];
      const id = run.get(i, "id");
      const isChosen = id === chosen;
      const isLinked = chain.has(id);
      const ink = isLinked ? inks.chosen : passes && !passes(i) ? inks.faint : inks.bright;
      const from = { x: x(lanes.places[i]), y: y(rowOf.get(lane)) };
      const first = i ? lanes.end[i - 1] : 0;
      const took = run.isPost(i) ? [] : run.tookBy(i);
      for (let h = first; h < lanes.end[i]; ++h) {
        const row = rowOf.get(lanes.to[h]);
        if (row === undefined) continue;
        if (withLines || isLinked) {
          ink.lines.moveTo(from.x, from.y);
          ink.lines.lineTo(from.x, y(row));
        }
        const ns = took[h - first];
        ink.heard.rect(from.x, y(row) - 2, ns ? Math.max(3, (ns / 1e9 / frameSeconds) * scale) : 3, 5);
      }
      const radius = isChosen ? 5 : 3;
      const dots = run.isUnheard(i) ? ink.unheard : ink.made;
      dots.moveTo(from.x + radius, from.y);
      dots.arc(from.x, from.y, radius, 0, 7);
      if (scale > 400 || isLinked) names.push([run.channelName(i), from.x + 6, from.y - 5]);
    }
  }
  for (const [name, alpha] of [
    ["faint", 0.12],
    ["bright", 1],
    ["chosen", 1],
  ]) {
    const ink = inks[name];
    const one = name === "chosen" ? colour.lamp : null;
    pen.globalAlpha = alpha;
    pen.lineWidth = one ? 2 : 1;
    pen.strokeStyle = one ?? colour.sea;
    pen.globalAlpha = one ? 1 : alpha * 0.3;
    pen.stroke(ink.lines);
    pen.globalAlpha = alpha;
    for (const [path, own] of [
      [ink.heard, colour.kelp],
      [ink.made, colour.sea],
      [ink.unheard, colour.rust],
    ]) {
      pen.fillStyle = one ?? own;
      pen.fill(path);
    }
  }
  pen.globalAlpha = 1;
  pen.fillStyle = colour.ink;
  for (const [text, left, base] of names) pen.fillText(text, left, base);
}

const layers = () => ({ lines: new Path2D(), heard: new Path2D(), made: new Path2D(), unheard: new Path2D() });

export function Lanes({ run, live, named, stretch, setStretch, selected, setSelected, show }) {
  const canvas = useRef();
  const [withObservers, setWithObservers] = useState(false);
  const passes = run.passer(named); // the stretch is what is drawn
  const lanes = useMemo(() => lanesOf(run), [run, run.version]);
  const ordered = useMemo(() => orderOf(lanes, run.about, passes, withObservers), [lanes, passes, withObservers]);
  const chain = useMemo(
    () => new Set(selected && run.find(selected) >= 0 ? run.detailsOf(selected).tree.map((row) => row.id) : []),
    [run, run.version, selected],
  );
  const whole = [
    run.count ? run.get(0, "frame") : 0,
    Math.max(run.frames, run.count ? run.get(run.count - 1, "frame") + 1 : 1),
  ];
  const kept = useRef({ down: 0, colours: coloursOf() });
  const [, redraw] = useState(0);
  const now = kept.current;
  Object.assign(now, stretch ?? { first: live ? Math.max(whole[0], whole[1] - liveSpan) : whole[0], last: whole[1] });

  // Lanes in which nothing happens now are left out.
  const isBusy = (list) => lowerBound(list, lanes.places, now.first) < lowerBound(list, lanes.places, now.last);
  const order = {
    ...ordered,
    shown: ordered.shown.filter((lane) => isBusy(lanes.made[lane]) || isBusy(lanes.heard[lane])),
  };

  const set = (first, last) => {
    const span = Math.min(Math.max(last - first, fewest), whole[1] - whole[0] || 1);
    const begin = Math.min(Math.max(first, whole[0]), whole[1] - span);
    setStretch({ first: begin, last: begin + span });
  };
  const zoom = (by, place = (now.first + now.last) / 2) =>
    set(place - (place - now.first) * by, place + (now.last - place) * by);
  const move = (part) => set(now.first + (now.last - now.first) * part, now.last + (now.last - now.first) * part);

  useEffect(() => {
    const begun = performance.now();
    const single = draw(canvas.current, run, lanes, order.shown, now, selected, chain, passes);
    canvas.current.dataset.single = single;
    canvas.current.dataset.took = (performance.now() - begun).toFixed(1);
  });
  useEffect(() => {
    const element = canvas.current;
    const again = () => {
      now.colours = coloursOf();
      redraw((n) => n + 1);
    };
    const placeAt = (event) =>
      now.first + ((event.offsetX - left) / (element.clientWidth - left)) * (now.last - now.first);
    const wheel = (event) => {
      event.preventDefault();
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
        return set(...shifted(event.deltaX || event.deltaY));
      if (event.ctrlKey || event.offsetX > left) return element.zoom(Math.exp(event.deltaY / 400), placeAt(event));
      now.down = Math.max(0, now.down + event.deltaY);
      redraw((n) => n + 1);
    };
    const shifted = (pixels) => {
      const by = (pixels / (element.clientWidth - left)) * (now.last - now.first);
      return [now.first + by, now.last + by];
    };
    let drag = null;
    const down = (event) => {
      drag = { x: event.offsetX, y: event.offsetY, first: now.first, last: now.last, down: now.down, moved: false };
      element.setPointerCapture(event.pointerId);
    };
    const moved = (event) => {
      if (!drag) return;
      const by = ((drag.x - event.offsetX) / (element.clientWidth - left)) * (drag.last - drag.first);
      drag.moved ||= Math.abs(drag.x - event.offsetX) + Math.abs(drag.y - event.offsetY) > 4;
      if (!drag.moved) return;
      now.down = Math.max(0, drag.down + drag.y - event.offsetY);
      element.set(drag.first + by, drag.last + by);
    };
    const up = (event) => {
      if (drag && !drag.moved) element.pick(event);
      drag = null;
    };
    element.addEventListener("wheel", wheel, { passive: false });
    element.addEventListener("pointerdown", down);
    element.addEventListener("pointermove", moved);
    element.addEventListener("pointerup", up);
    addEventListener("resize", again);
    return () => removeEventListener("resize", again);
  }, []);
  // What the listeners above call is today's.
  useEffect(() => {
    Object.assign(canvas.current, {
      set,
      zoom,
      pick(event) {
        const place =
          now.first + ((event.offsetX - left) / (canvas.current.clientWidth - left)) * (now.last - now.first);
        const lane = order.shown[Math.floor((event.offsetY - top + now.down) / laneHeight)];
        if (lane === undefined) return;
        const near = [lanes.made[lane], lanes.heard[lane]].flatMap((list) => {
          const k = lowerBound(list, lanes.places, place);
          return [list[k - 1], list[k]].filter((i) => i !== undefined);
        });
        near.sort((a, b) => Math.abs(lanes.places[a] - place) - Math.abs(lanes.places[b] - place));
        if (near.length) setSelected(run.get(near[0], "id"));
      },
    });
  });
  const key = (event) => {
    const done = {
      ArrowLeft: () => move(-0.2),
      ArrowRight: () => move(0.2),
      "+": () => zoom(0.6),
      "=": () => zoom(0.6),
      "-": () => zoom(1.7),
      Home: () => set(...whole),
      ArrowDown: () => {
        now.down += laneHeight;
        redraw((n) => n + 1);
      },
      ArrowUp: () => {
        now.down = Math.max(0, now.down - laneHeight);
        redraw((n) => n + 1);
      },
    }[event.key];
    if (done) {
      event.preventDefault();
      done();
    }
  };
  const at = selected ? run.find(selected) : -1;
  return (
    <>
      <div class="row">
        <button onClick={() => zoom(0.5)} aria-label="Zoom in">
          +
        </button>
        <button onClick={() => zoom(2)} aria-label="Zoom out">
          −
        </button>
        <button onClick={() => setStretch(null)}>All</button>
        <button onClick={() => at >= 0 && set(run.get(at, "frame"), run.get(at, "frame") + 1)} disabled={at < 0}>
          Its frame
        </button>
        {order.observers > 0 && (
          <button
            aria-pressed={withObservers}
            title="Parties that hear most of all events and make none"
            onClick={() => setWithObservers(!withObservers)}
          >
            Observers ({order.observers})
          </button>
        )}
        <span class="faint">
          frames {now.first.toFixed(now.last - now.first < 10 ? 1 : 0)} to{" "}
          {now.last.toFixed(now.last - now.first < 10 ? 1 : 0)}; <span style="color:var(--sea)">made</span>,{" "}
          <span class="good">heard</span>, <span class="wrong">unheard</span>
        </span>
        <span style="flex:1" />
        {at >= 0 && (
          <button onClick={() => show("Events", { event: selected })}>
            event {selected}: {run.channelName(at)}
          </button>
        )}
      </div>
      <div class="lanes">
        <canvas
          ref={canvas}
          style="width:100%;height:100%"
          tabIndex="0"
          role="img"
          onKeyDown={key}
          aria-label={`Lanes of ${order.shown.length} parties; arrows move, plus and minus zoom, Home shows all`}
        />
      </div>
    </>
  );
}
