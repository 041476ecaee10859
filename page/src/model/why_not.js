// Why a payload did not reach somebody: the answers that `courier explain --why-not` gives.
import { flag } from "./run.js";

const words = {
  waits_in_outbox: "waits in an outbox", combined: "went into another one", turned_away: "turned away, as an outbox was full",
  nobody_subscribed: "never subscribed", not_yet: "had not subscribed yet", no_longer: "had left", channel_ended: "its channel had ended",
  stopped: "stopped by a verdict", other_address: "was for another address", too_deep: "refused: nested too deeply",
  not_recorded: "who heard it was not recorded",
};

function pausedAt(s, frame) {
  return s.pauses.some(([from, until]) => from <= frame && (until === null || frame < until));
}

// Of one event and the subscriptions that somebody had, or has, on its channel.
function reasonFor(run, i, mine) {
  const id = run.get(i, "id");
  const frame = run.get(i, "frame");
  if (run.is(i, flag.refused)) return { why: words.too_deep, where: run.text(i, "at") };
  for (const miss of run.missedOf(i)) {
    const s = mine.find((one) => one.number === miss.subscription);
    if (s) return { why: miss.why, where: s.at };
  }
  if (run.is(i, flag.cut)) return { why: words.not_recorded, where: run.text(i, "at") };
  if (mine.length === 0) return { why: words.nobody_subscribed, where: run.text(i, "at") };
  const live = mine.filter((s) => s.since <= frame && s.after < id && (s.until === null || s.until >= frame));
  if (live.length === 0) {
    const gone = mine.find((s) => s.until !== null && s.until <= frame);
    const later = mine.find((s) => s.since > frame || s.after >= id);
    if (gone) return { why: gone.closed ? words.channel_ended : words.no_longer, where: gone.at, more: `in frame ${gone.until}` };
    if (later) return { why: words.not_yet, where: later.at, more: `it came in frame ${later.since}` };
    return { why: words.no_longer, where: mine[0].at };
  }
  const paused = live.find((s) => pausedAt(s, frame));
  if (paused) return { why: "paused", where: paused.at };
  if (run.is(i, flag.stopped)) return { why: words.stopped, where: live[0].at, more: `by ${run.nameOf(run.get(i, "stoppedBy"))}` };
  const to = run.text(i, "to");
  if (live.every((s) => s.to && s.to !== to)) return { why: words.other_address, where: live[0].at, more: to ? `it was for ${to}` : "" };
  return { why: words.no_longer, where: live[0].at };
}

// {published, heard, firstHeard, reasons: [{why, events, example, frame, where, more}], before, after}
export function whyNot(run, party, channelName, first = 0, last = Infinity) {
  const channel = run.channelNumbers.get(channelName);
  const mine = [...run.subscriptions.values()].filter((s) => s.channel === channel && (s.name || s.at) === party);
  const numbers = new Set(mine.map((s) => s.number));
  const made = { published: 0, heard: 0, firstHeard: 0, reasons: [], before: null, after: null };
  const found = new Map();
  const note = (i, reason) => {
    const key = reason.why + "\n" + reason.where;
    const known = found.get(key) ?? { ...reason, more: reason.more ?? "", events: 0, example: run.get(i, "id"), frame: run.get(i, "frame") };
    known.events++;
    found.set(key, known);
  };
  for (let i = 0; i < run.count; ++i) {
    if (run.events.channel.all[i] !== channel) continue;
    const frame = run.get(i, "frame");
    if (run.is(i, flag.post)) {
      if (frame < first || frame > last) continue;
      if (run.is(i, flag.turnedAway)) note(i, { why: words.turned_away, where: run.text(i, "at") });
      else if (!run.is(i, flag.combined) && run.finished && run.effects(i).length === 0) note(i, { why: words.waits_in_outbox, where: run.text(i, "at"), more: run.text(i, "outbox") });
      continue;
    }
    if (frame < first) made.before = frame;
    else if (frame > last) made.after ??= frame;
    if (frame < first || frame > last) continue;
    made.published++;
    if (run.heardOf(i).some((s) => numbers.has(s))) {
      made.heard++;
      made.firstHeard ||= run.get(i, "id");
    } else {
      note(i, reasonFor(run, i, mine));
    }
  }
  made.reasons = [...found.values()].sort((a, b) => b.events - a.events);
  return made;
}

export function inWords(answer, party, channel) {
  const lines = [`${answer.published} published on ${channel}, ${answer.heard} heard by ${party}${answer.firstHeard ? ` (first event ${answer.firstHeard})` : ""}`];
  if (answer.published === 0) {
    lines.push(`nobody published on it then${answer.before !== null ? `; before that in frame ${answer.before}` : ""}${answer.after !== null ? `; next in frame ${answer.after}` : ""}`);
  }
  for (const r of answer.reasons) lines.push(`${r.events} ${r.why}${r.more ? `: ${r.more}` : ""} (${r.where}), such as event ${r.example} in frame ${r.frame}`);
  if (answer.published && answer.reasons.length === 0) lines.push("nothing kept any of them back");
  return lines;
}
