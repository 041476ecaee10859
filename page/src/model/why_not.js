// Why a payload did not reach somebody: the answers that `courier explain --why-not` gives,
// in its words.
import { flag, partyOf } from "./run.js";

const ofTurn = {
  paused: "paused", "outside its period": "outside its period", filtered: "filtered by its pipeline",
  stopped: "stopped by a verdict", failed: "failed: its handler threw",
};

class Examination {
  constructor(run, party, channelName, first, last) {
    Object.assign(this, { run, party, first, last });
    this.channel = run.channelNumbers.get(channelName);
    this.onIt = [...run.subscriptions.values()].filter((s) => s.channel === this.channel).sort((a, b) => a.number - b.number);
    this.mine = this.onIt.filter((s) => partyOf(s) === party);
    this.numbers = new Set(this.mine.map((s) => s.number));
    this.made = { published: 0, heard: 0, firstHeard: 0, reasons: [], before: null, after: null };
    this.found = new Map();
  }

  note(why, i, where, more = "") {
    const key = why + "\n" + where + more;
    const known = this.found.get(key) ?? { why, where, more, events: 0, example: this.run.get(i, "id"), frame: this.run.get(i, "frame") };
    known.events++;
    this.found.set(key, known);
  }

  // A later post of the same outbox went into this one, and was delivered in its stead.
  combinedLater(i) {
    const { run } = this;
    for (let k = i + 1; k < run.count; ++k) {
      if (run.get(k, "channel") === this.channel && run.get(k, "outbox") === run.get(i, "outbox") && run.is(k, flag.post) && run.is(k, flag.combined)) return true;
      if (run.get(k, "frame") > run.get(i, "frame") + 1) return false;
    }
    return false;
  }

  post(i, delivered) {
    const at = this.run.text(i, "at");
    const outbox = `outbox '${this.run.text(i, "outbox")}'`;
    if (this.run.is(i, flag.turnedAway)) this.note("turned away by a full outbox", i, at, outbox);
    else if (!delivered.has(this.run.get(i, "id"))) this.note(this.combinedLater(i) ? "combined with another post" : "waits in an outbox", i, at, outbox);
  }

  // The subscription that had the best chance of hearing it.
  nearestTo(i) {
    const [id, frame, to] = [this.run.get(i, "id"), this.run.get(i, "frame"), this.run.text(i, "to")];
    let best = this.mine[0];
    let bestScore = -1;
    for (const s of this.mine) {
      const wasThere = s.after < id;
      const stillThere = s.until === null || s.until > frame;
      const score = (wasThere && stillThere ? 4 : 0) + (!s.to || !to || s.to === to ? 2 : 0) + (wasThere ? 1 : 0);
      if (score >= bestScore) [bestScore, best] = [score, s];
    }
    return best;
  }

  sincePause(s, frame) {
    const pause = s.pauses.find(([from, until]) => from <= frame && (until === null || until >= frame));
    return pause ? `since frame ${pause[0]}${pause[1] === null ? "" : ` until frame ${pause[1]}`}` : "";
  }

  event(i) {
    const { run } = this;
    const [id, frame, to] = [run.get(i, "id"), run.get(i, "frame"), run.text(i, "to")];
    this.made.published++;
    if (run.is(i, flag.refused)) return this.note("refused, nested too deeply", i, run.text(i, "at"));
    if (this.mine.length === 0) {
      const names = [...new Set(this.onIt.map(partyOf))].sort();
      return this.note("nobody subscribed", i, run.text(i, "at"), names.length ? `those who did: ${names.join(", ")}` : "nobody ever did");
    }
    if (run.heardOf(i).some((s) => this.numbers.has(s))) {
      if (this.made.heard++ === 0) this.made.firstHeard = id;
      return undefined;
    }
    const s = this.nearestTo(i);
    const miss = run.missedOf(i).find((m) => this.numbers.has(m.subscription));
    if (miss) {
      const missed = run.subscriptions.get(miss.subscription);
      return this.note(ofTurn[miss.why] ?? "condition did not hold", i, missed.at, miss.why === "paused" ? this.sincePause(missed, frame) : "");
    }
    if (s.after >= id) return this.note("not subscribed yet", i, s.at, `it came in frame ${s.since}`);
    if (s.until !== null && s.until <= frame) return this.note(s.closed ? "its channel had ended" : "no longer subscribed", i, s.at, `it left in frame ${s.until}`);
    const listens = s.to ? `it listens at ${s.to}` : "";
    if (s.to && to && s.to !== to) return this.note("for another address", i, s.at, listens);
    if (run.is(i, flag.cut)) return this.note("not recorded, too much for a line", i, s.at);
    if (run.is(i, flag.stopped)) {
      const by = run.get(i, "stoppedBy");
      return this.note("stopped by a verdict", i, run.subscriptions.get(by)?.at ?? "", `by ${run.nameOf(by)}`);
    }
    return this.note("for another address", i, s.at, listens);
  }

  examine() {
    const { run, made } = this;
    const all = [];
    const delivered = new Set();
    for (let i = 0; i < run.count; ++i) {
      if (run.events.channel.all[i] !== this.channel) continue;
      all.push(i);
      if (!run.is(i, flag.post)) delivered.add(run.get(i, "cause"));
    }
    const isIn = (i) => run.get(i, "frame") >= this.first && run.get(i, "frame") <= this.last;
    for (const i of all) if (run.is(i, flag.post) && isIn(i)) this.post(i, delivered);
    for (const i of all) {
      if (run.is(i, flag.post)) continue;
      if (isIn(i)) this.event(i);
      else if (run.get(i, "frame") < this.first) made.before = run.get(i, "frame");
      else made.after ??= run.get(i, "frame");
    }
    made.reasons = [...this.found.values()].sort((a, b) => b.events - a.events);
    return made;
  }
}

// {published, heard, firstHeard, reasons: [{why, events, example, frame, where, more}], before, after}
export function whyNot(run, party, channelName, first = 0, last = Infinity) {
  return new Examination(run, party, channelName, first, last).examine();
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
