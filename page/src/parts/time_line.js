// SPDX-License-Identifier: MIT
// The run as one band above every view: how much happened when, in which phase, and the stretch that the views show.
import { useEffect, useRef, useState } from "preact/hooks";
import { isEmpty } from "../model/run.js";
import { coloursOf, stepOf } from "./drawing.js";

const bandHeight = 13; // of a set of phases
const mostBands = 2;
const axis = 13;
const nearEdge = 5; // pixels, to take hold of an edge of the stretch

// [{from, to, name}] of one set: frames and the phase they were in.
function bandsOf(set, first, last) {
  const bands = [];
  let from = first;
  for (const step of set.history) {
    if (step.frame > from) bands.push({ from, to: step.frame, name: step.from });
    from = Math.max(from, step.frame);
  }
  bands.push({ from, to: last, name: set.now });
  return bands;
}

function drawBands(pen, sets, view, x, colour) {
  sets.forEach((set, row) => {
    bandsOf(set, view.whole[0], view.whole[1]).forEach((band, k) => {
      const left = Math.max(0, x(band.from));
      const width = Math.min(view.width, x(band.to)) - left;
      if (width <= 0) return;
      pen.fillStyle = k % 2 ? colour.chosen : colour.ground;
      pen.fillRect(left, row * bandHeight, width, bandHeight - 1);
      pen.fillStyle = colour.lamp;
      if (k) pen.fillRect(left, row * bandHeight, 1, bandHeight - 1);
      const text = band.name.replaceAll("_", " ");
      if (pen.measureText(text).width + 8 > width) return;
      pen.fillStyle = colour.faint;
      pen.fillText(text, left + 5, row * bandHeight + 10);
    });
  });
}

function drawDensity(pen, density, width, top, height, colour, narrowed) {
  const most = Math.max(1, ...density.all);
  const tall = (n) => (n ? Math.max(2, Math.sqrt(n / most) * height) : 0); // or the busiest frame hides all others
  const each = width / density.all.length;
  const bar = (i, n) => pen.fillRect(i * each, top + height - tall(n), Math.max(1, each - 1), tall(n));
  pen.fillStyle = narrowed ? colour.edge : colour.sea;
  density.all.forEach((n, i) => bar(i, n));
  pen.fillStyle = colour.sea;
  if (narrowed) density.passing.forEach((n, i) => bar(i, n));
  pen.fillStyle = colour.rust;
  density.failed.forEach((n, i) => n && pen.fillRect((i + 0.5) * each - 2, top, 4, 6));
}

function draw(canvas, run, view, shown, filter, selected) {
  const ratio = devicePixelRatio || 1;
  view.width = canvas.clientWidth;
  const height = canvas.clientHeight;
  canvas.width = view.width * ratio;
  canvas.height = height * ratio;
  const pen = canvas.getContext("2d");
  pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  pen.font = "11px system-ui, sans-serif";
  const colour = (view.colours ??= coloursOf());
  const x = (frame) => ((frame - view.first) / (view.last - view.first)) * view.width;
  const sets = [...run.about.phases].sort((a, b) => b.moves - a.moves).slice(0, mostBands);
  drawBands(pen, sets, view, x, colour);
  const top = sets.length * bandHeight + 2;
  // A bar for each frame, as far as there is room.
  const columns = Math.max(1, Math.round(Math.min(view.width, view.last - view.first)));
  drawDensity(
    pen,
    run.density(filter, view.first, view.last, columns),
    view.width,
    top,
    height - top - axis,
    colour,
    !isEmpty(filter),
  );
  const step = stepOf(view.last - view.first, view.width / 64);
  pen.fillStyle = colour.faint;
  for (let frame = Math.ceil(view.first / step) * step; frame < view.last; frame += step) {
    pen.fillRect(x(frame), height - axis, 1, 3);
    pen.fillText(frame.toLocaleString("en"), x(frame) + 3, height - 2);
  }
  if (shown) {
    const [left, right] = [x(shown.first), x(shown.last)];
    pen.globalAlpha = 0.6;
    pen.fillStyle = colour.sheet;
    pen.fillRect(0, 0, Math.max(0, left), height - axis);
    pen.fillRect(right, 0, view.width, height - axis);
    pen.globalAlpha = 1;
    pen.strokeStyle = colour.lamp;
    pen.lineWidth = 1.5;
    pen.strokeRect(left, 1, Math.max(2, right - left), height - axis - 1);
  }
  const at = selected ? run.find(selected) : -1;
  if (at >= 0) {
    pen.fillStyle = colour.lamp;
    pen.fillRect(x(run.get(at, "frame") + 0.5) - 1, 0, 2, height - axis);
  }
}

// `shown`: the stretch, as {first, last} in frames; null: all. `follow`: of a live run, whether it moves with the newest frame.
export function TimeLine({ run, live, filter, shown, setStretch, follow, setFollow, selected, paused }) {
  const canvas = useRef();
  const kept = useRef({ zoomed: false });
  const [, redraw] = useState(0);
  const view = kept.current;
  view.whole = [
    run.count ? run.get(0, "frame") : 0,
    Math.max(run.frames, run.count ? run.get(run.count - 1, "frame") + 1 : 1),
  ];
  if (!view.zoomed) Object.assign(view, { first: view.whole[0], last: Math.max(view.whole[1], view.whole[0] + 1) });

  const zoom = (by, place) => {
    const [begin, end] = view.whole;
    const span = Math.min((view.last - view.first) * by, end - begin);
    const first = Math.min(
      Math.max(place - ((place - view.first) / (view.last - view.first)) * span, begin),
      end - span,
    );
    Object.assign(view, { zoomed: span < end - begin, first, last: first + Math.max(span, 1) });
    redraw((n) => n + 1);
  };
  const set = (first, last) => {
    const [begin, end] = view.whole;
    const span = Math.min(Math.max(last - first, 1), end - begin);
    const from = Math.min(Math.max(first, begin), end - span);
    setStretch({ first: Math.floor(from), last: Math.ceil(from + span) });
  };

  useEffect(() => draw(canvas.current, run, view, shown, filter, selected));
  useEffect(() => {
    const again = () => {
      view.colours = null;
      redraw((n) => n + 1);
    };
    addEventListener("resize", again);
    return () => removeEventListener("resize", again);
  }, []);
  // What the listeners below call is today's.
  useEffect(() => {
    Object.assign(view, { set, zoom, shown });
  });
  useEffect(() => {
    const element = canvas.current;
    const frameAt = (event) => view.first + (event.offsetX / element.clientWidth) * (view.last - view.first);
    let drag = null;
    const down = (event) => {
      const at = frameAt(event);
      const reach = (nearEdge / element.clientWidth) * (view.last - view.first);
      const now = view.shown;
      const fixed =
        now && Math.abs(at - now.first) < reach ? now.last : now && Math.abs(at - now.last) < reach ? now.first : at;
      const holds = now && fixed === at && at > now.first && at < now.last ? now : null;
      drag = { x: event.offsetX, at, fixed, holds, moved: false };
      element.setPointerCapture(event.pointerId);
    };
    const moved = (event) => {
      if (!drag) return;
      drag.moved ||= Math.abs(event.offsetX - drag.x) > 3;
      if (!drag.moved) return;
      const at = frameAt(event);
      if (drag.holds) view.set(drag.holds.first + at - drag.at, drag.holds.last + at - drag.at);
      else view.set(Math.min(drag.fixed, at), Math.max(drag.fixed, at));
    };
    const up = () => {
      if (drag && !drag.moved && !drag.holds) setStretch(null);
      drag = null;
    };
    const wheel = (event) => {
      event.preventDefault();
      view.zoom(Math.exp(event.deltaY / 300), frameAt(event));
    };
    element.addEventListener("pointerdown", down);
    element.addEventListener("pointermove", moved);
    element.addEventListener("pointerup", up);
    element.addEventListener("wheel", wheel, { passive: false });
  }, []);
  const key = (event) => {
    const now = shown ?? { first: view.whole[0], last: view.whole[1] };
    const span = now.last - now.first;
    const done = {
      ArrowLeft: () => set(now.first - Math.max(1, span / 4), now.last - Math.max(1, span / 4)),
      ArrowRight: () => set(now.first + Math.max(1, span / 4), now.last + Math.max(1, span / 4)),
      "+": () => set(now.first + span / 4, now.last - span / 4),
      "=": () => set(now.first + span / 4, now.last - span / 4),
      "-": () => set(now.first - span / 2, now.last + span / 2),
      Home: () => setStretch(null),
    }[event.key];
    if (!done) return;
    event.preventDefault();
    done();
  };
  const seconds = (frame) => run.timeOfFrame(Math.floor(frame)).toFixed(1);
  return (
    <section class="time" aria-label="Time line">
      <div class="about">
        <div>{shown ? `frames ${Math.floor(shown.first)} to ${Math.ceil(shown.last) - 1}` : "all frames"}</div>
        <div class="faint">
          {shown ? `${seconds(shown.first)} to ${seconds(shown.last)} s` : `${seconds(view.whole[1])} s`}
        </div>
        <div class="row">
          <button
            onClick={() => {
              setStretch(null);
              view.zoomed = false;
            }}
            disabled={!shown && !view.zoomed}
          >
            All
          </button>
          {live && (
            <button aria-pressed={follow} disabled={paused} onClick={() => setFollow(!follow)}>
              Follow
            </button>
          )}
        </div>
      </div>
      <canvas
        ref={canvas}
        tabIndex="0"
        role="img"
        onKeyDown={key}
        aria-label="Events by frame; drag to choose a stretch, arrows move it, plus and minus change it, Home shows all"
      />
    </section>
  );
}
