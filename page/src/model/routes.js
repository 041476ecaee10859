// Who publishes on which channel, and who hears it.
import { flag, partyOf } from "./run.js";

export function routesOf(run) {
  const routes = run.channels.map((c) => ({ ...c, events: 0, unheard: 0, from: new Map(), to: new Map() }));
  for (const s of run.subscriptions.values()) routes[s.channel].to.set(partyOf(s), 0);
  for (let i = 0; i < run.count; ++i) {
    if (run.is(i, flag.post)) continue;
    const route = routes[run.get(i, "channel")];
    route.events++;
    const maker = run.makerOf(i);
    route.from.set(maker, (route.from.get(maker) ?? 0) + 1);
    const [from, end] = run.range(i, "heardEnd");
    if (from === end && !run.is(i, flag.cut)) route.unheard++;
    for (let k = from; k < end; ++k) {
      const name = run.nameOf(run.heard.all[k]);
      route.to.set(name, (route.to.get(name) ?? 0) + 1);
    }
  }
  return routes;
}

// Publishes by channel and frame, of the latest `span` frames, for those that pass the filter.
export function ratesOf(run, span, passes) {
  const last = run.frames;
  const first = Math.max(0, last - span);
  const rows = run.channels.map((c) => ({ name: c.name, number: 0, total: 0, deliveries: 0, unheard: 0, byFrame: new Uint32Array(span), latest: -1 }));
  for (let i = 0; i < run.count; ++i) {
    if (run.is(i, flag.post) || (passes && !passes(i))) continue;
    const row = rows[run.get(i, "channel")];
    const [from, end] = run.range(i, "heardEnd");
    row.total++;
    row.deliveries += end - from;
    if (from === end) row.unheard++;
    row.latest = i;
    const frame = run.get(i, "frame");
    if (frame >= first && frame < last) row.byFrame[frame - first]++;
  }
  // A game's clock may begin anew, with a level or a night: only what passes counts.
  let seconds = 0;
  for (let f = first; f < last; ++f) seconds += Math.max(0, run.timeOfFrame(f + 1) - run.timeOfFrame(f));
  return { first, span, seconds, rows: rows.filter((r) => r.total > 0) };
}
