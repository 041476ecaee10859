// What is looked at: by who, channel, address and phase.
import { partyOf } from "./run.js";
export const noFilter = { who: "", channel: "", address: "", phase: "" };

export function isEmpty(filter) {
  return !filter.who && !filter.channel && !filter.address && !filter.phase;
}

// Frames in which a phase went on: "watch: storm".
function framesOf(run, wanted) {
  const [name, phase] = wanted.split(": ");
  const set = run.phases.find((one) => one.name === name);
  if (!set) return () => true;
  const spans = [];
  let from = set.history?.[0]?.from === phase || (!set.history?.length && set.now === phase) ? 0 : null;
  for (const step of set.history ?? []) {
    if (step.to === phase && from === null) from = step.frame;
    if (step.from === phase && from !== null) {
      spans.push([from, step.frame]);
      from = step.to === phase ? step.frame : null;
    }
  }
  if (from !== null) spans.push([from, Infinity]);
  return (frame) => spans.some(([a, b]) => a <= frame && frame <= b);
}

// A function that says whether an event passes; null: all do.
export function passerOf(run, filter) {
  if (isEmpty(filter)) return null;
  const text = (t) => t.toLowerCase();
  const channels = new Set();
  run.channels.forEach((c, number) => {
    if (text(c.name).includes(text(filter.channel))) channels.add(number);
  });
  const who = text(filter.who);
  const hears = new Set();
  for (const s of run.subscriptions.values()) if (who && text(partyOf(s)).includes(who)) hears.add(s.number);
  const inPhase = filter.phase ? framesOf(run, filter.phase) : null;
  return (i) => {
    if (filter.channel && !channels.has(run.get(i, "channel"))) return false;
    if (filter.address && run.text(i, "to") !== filter.address) return false;
    if (inPhase && !inPhase(run.get(i, "frame"))) return false;
    if (!who || text(run.makerOf(i)).includes(who)) return true;
    const [from, end] = run.range(i, "heardEnd");
    for (let k = from; k < end; ++k) if (hears.has(run.heard.all[k])) return true;
    return run.missedOf(i).some((m) => hears.has(m.subscription));
  };
}
