// Lanes, sorted for drawing any part of a run.
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
  return { names, places, to, end, made, heard };
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
