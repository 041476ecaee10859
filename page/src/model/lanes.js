// Which events are on which lane, and where in time, for pictures of any part of a run.

// The place of an event in time: its frame, and within that its turn.
export function lanesOf(run) {
  const count = run.count;
  const places = new Float64Array(count);
  const frames = run.events.frame.all;
  for (let i = 0; i < count; ) {
    let end = i;
    while (end < count && frames[end] === frames[i]) ++end;
    for (let k = i; k < end; ++k) places[k] = frames[i] + (k - i + 0.5) / (end - i);
    i = end;
  }
  const names = [];
  const numbers = new Map();
  const numberOf = (name) => {
    let found = numbers.get(name);
    if (found === undefined) {
      found = names.length;
      names.push(name);
      numbers.set(name, found);
    }
    return found;
  };
  // Names are looked up once for each subscription and line of code.
  const bySubscription = [];
  const laneOfSubscription = (s) => (bySubscription[s] ??= numberOf(run.nameOf(s)) + 1) - 1;
  const byText = [];
  const makers = new Uint32Array(count);
  for (let i = 0; i < count; ++i) {
    const inside = run.events.inHandler.all[i];
    if (inside && run.subscriptions.get(inside)?.name) makers[i] = laneOfSubscription(inside);
    else {
      const text = run.events.by.all[i] || run.events.at.all[i];
      makers[i] = (byText[text] ??= numberOf(run.makerOf(i)) + 1) - 1;
    }
  }
  const heardEnds = run.events.heardEnd.all;
  const heardCount = count ? heardEnds[count - 1] : 0;
  const hearers = new Uint32Array(heardCount);
  for (let k = 0; k < heardCount; ++k) hearers[k] = laneOfSubscription(run.heard.all[k]);
  // For each lane the events made there, and heard there, in the order of time.
  const madeSizes = new Uint32Array(names.length);
  const heardSizes = new Uint32Array(names.length);
  for (let i = 0; i < count; ++i) madeSizes[makers[i]]++;
  for (let k = 0; k < heardCount; ++k) heardSizes[hearers[k]]++;
  const made = Array.from(madeSizes, (n) => new Uint32Array(n));
  const heard = Array.from(heardSizes, (n) => new Uint32Array(n));
  madeSizes.fill(0);
  heardSizes.fill(0);
  let k = 0;
  for (let i = 0; i < count; ++i) {
    made[makers[i]][madeSizes[makers[i]]++] = i;
    for (; k < heardEnds[i]; ++k) heard[hearers[k]][heardSizes[hearers[k]]++] = i;
  }
  return { names, places, makers, hearers, made, heard };
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
