// SPDX-License-Identifier: MIT
// Lanes, sorted for drawing any part of a run.
import { fileOfParties } from "./route_graph.js";

export function lanesOf(run) {
  const count = run.count;
  const { names, from, end, to } = run.lanes();
  // The place of an event in time: its frame, and within that its turn.
  const places = new Float64Array(count);
  const frames = Uint32Array.from({ length: count }, (_, i) => run.get(i, "frame"));
  for (let i = 0; i < count; ) {
    let next = i;
    while (next < count && frames[next] === frames[i]) ++next;
    for (let k = i; k < next; ++k) places[k] = frames[i] + (k - i + 0.5) / (next - i);
    i = next;
  }
  // For each lane the events that come from it, and that come to it, in the order of time.
  const madeSizes = new Uint32Array(names.length);
  const heardSizes = new Uint32Array(names.length);
  for (const lane of from) madeSizes[lane]++;
  for (const lane of to) heardSizes[lane]++;
  const made = Array.from(madeSizes, (n) => new Uint32Array(n));
  const heard = Array.from(heardSizes, (n) => new Uint32Array(n));
  madeSizes.fill(0);
  heardSizes.fill(0);
  for (let i = 0, k = 0; i < count; ++i) {
    made[from[i]][madeSizes[from[i]]++] = i;
    for (; k < end[i]; ++k) heard[to[k]][heardSizes[to[k]]++] = i;
  }
  return { names, places, from, to, end, made, heard };
}

// The first in `list` whose event is at `place` or later.
export function lowerBound(list, places, place, from = 0) {
  let low = from;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (places[list[middle]] < place) low = middle + 1;
    else high = middle;
  }
  return low;
}

const mostCounted = 20_000; // events, the newest, for the order of lanes

// Which lanes are shown, and in what order: those of one file of code together, and next to whom they talk to most.
// Observers hear more than half of all events and make none; their lines would cross all others.
export function orderOf(lanes, about, passes, withObservers) {
  const fileOf = fileOfParties(about);
  const groupOf = lanes.names.map((name) => fileOf(name) ?? name);
  const count = lanes.places.length;
  const isObserver = (lane) =>
    lanes.names.length > 3 && lanes.made[lane].length === 0 && lanes.heard[lane].length > count / 2;
  const all = lanes.names.map((_, lane) => lane).filter((lane) => lanes.made[lane].length + lanes.heard[lane].length);
  const observers = all.filter(isObserver);
  const isShown = (lane) =>
    (withObservers || !isObserver(lane)) &&
    (!passes || lanes.made[lane].some(passes) || lanes.heard[lane].some(passes));
  // How much each group says to each other one.
  const talk = new Map();
  const add = (a, b) => {
    if (!talk.has(a)) talk.set(a, new Map());
    talk.get(a).set(b, (talk.get(a).get(b) ?? 0) + 1);
  };
  const first = Math.max(0, count - mostCounted);
  for (let i = first, k = first ? lanes.end[first - 1] : 0; i < count; ++i) {
    for (; k < lanes.end[i]; ++k) {
      const [from, to] = [groupOf[lanes.from[i]], groupOf[lanes.to[k]]];
      if (from === to || isObserver(lanes.to[k])) continue;
      add(from, to);
      add(to, from);
    }
  }
  // From the busiest group on, always to the one that it talks to most.
  const said = (group) => [...(talk.get(group)?.values() ?? [])].reduce((a, b) => a + b, 0);
  const rank = new Map();
  const walk = [...new Set(all.map((lane) => groupOf[lane]))]
    .map((group) => [group, said(group)])
    .sort((a, b) => a[1] - b[1])
    .map(([group]) => group);
  while (walk.length) {
    const group = walk.pop();
    if (rank.has(group)) continue;
    rank.set(group, rank.size);
    walk.push(
      ...[...(talk.get(group) ?? [])]
        .filter(([to]) => !rank.has(to))
        .sort((a, b) => a[1] - b[1])
        .map(([to]) => to),
    );
  }
  return {
    shown: all.filter(isShown).sort((a, b) => rank.get(groupOf[a]) - rank.get(groupOf[b]) || a - b),
    observers: observers.length,
  };
}
