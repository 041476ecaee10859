// A run in memory: what happened, in columns, and who is there. It comes as a whole, from a recording, or line by
// line, from a live game; then the oldest events go when there are too many.
import { Column, Texts } from "./column.js";

export const flag = { post: 1, combined: 2, turnedAway: 4, stopped: 8, outside: 16, retained: 32, refused: 64, vacant: 128, cut: 256 };
export const misses = ["paused", "outside its period", "condition", "filtered", "stopped", "threw", "gone"];

const eventColumns = {
  id: Float64Array, cause: Float64Array, frame: Uint32Array, channel: Uint32Array, at: Uint32Array, by: Uint32Array,
  to: Uint32Array, inHandler: Uint32Array, outbox: Uint32Array, flags: Uint16Array, stoppedBy: Uint32Array,
  heardEnd: Uint32Array, missedEnd: Uint32Array, tookEnd: Uint32Array, payloadEnd: Float64Array,
};
const listColumns = { heard: Uint32Array, missed: Uint32Array, missedWhy: Uint8Array, tookBy: Uint32Array, tookNs: Uint32Array };

const fileOf = (path) => path.slice(path.lastIndexOf("/") + 1);
// Whose a subscription is: the subscriber's name, or where it was made.
export const partyOf = (s) => s.name || fileOf(s.at);

export class Run {
  constructor({ most = 200_000 } = {}) {
    this.most = most;
    this.source = "";
    this.facts = {};
    this.texts = new Texts();
    this.whys = new Texts([]);
    this.channels = []; // {name, payload, hub, query, open}
    this.channelNumbers = new Map();
    this.subscriptions = new Map(); // by number: {number, channel, party, name, at, stage, to, since, until, after, closed, pauses}
    this.origins = new Map(); // of what came from other processes, by event: {process, run, event}
    this.events = {};
    for (const [name, Kind] of Object.entries(eventColumns)) this.events[name] = new Column(Kind);
    for (const [name, Kind] of Object.entries(listColumns)) this[name] = new Column(Kind);
    this.payloads = null; // bytes, of a recording; else `payloadTexts`
    this.payloadTexts = [];
    this.frames = 0; // that are over
    this.frameTimes = new Column(Float64Array); // seconds of game time, of frames from `firstFrame` on
    this.firstFrame = 0;
    this.systems = [];
    this.phases = [];
    this.waiting = { sequences: [], boxes: [] };
    this.findings = [];
    this.skipped = 0;
    this.missing = 0; // events that a live reader did not get
    this.dropped = 0; // the oldest ones, here
    this.finished = false;
    this.version = 0; // rises with each change
    this.baseHeard = this.baseMissed = this.baseTook = this.basePayload = 0;
    this.index = null;
  }

  get count() { return this.events.id.length; }
  get(i, name) { return this.events[name].all[i]; }
  channelNumber(name) {
    let found = this.channelNumbers.get(name);
    if (found === undefined) {
      found = this.channels.length;
      this.channels.push({ name, payload: "", hub: "", query: false, open: 0 });
      this.channelNumbers.set(name, found);
    }
    return found;
  }
  channelName(i) { return this.channels[this.get(i, "channel")].name; }
  text(i, name) { return this.texts.all[this.get(i, name)]; }
  is(i, which) { return (this.get(i, "flags") & which) !== 0; }

  // Ranges in the lists.
  range(i, end) {
    const from = i === 0 ? 0 : this.events[end].all[i - 1];
    return [from, this.events[end].all[i]];
  }
  heardOf(i) {
    const [from, end] = this.range(i, "heardEnd");
    return Array.from(this.heard.all.subarray(from, end));
  }
  missedOf(i) {
    const [from, end] = this.range(i, "missedEnd");
    const all = [];
    for (let k = from; k < end; ++k) all.push({ subscription: this.missed.all[k], why: this.whys.all[this.missedWhy.all[k]] });
    return all;
  }
  tookOf(i) {
    const [from, end] = this.range(i, "tookEnd");
    const all = [];
    for (let k = from; k < end; ++k) all.push({ subscription: this.tookBy.all[k], ns: this.tookNs.all[k] });
    return all;
  }
  payloadOf(i) {
    if (!this.payloads) return this.payloadTexts[i] ?? "";
    const [from, end] = this.range(i, "payloadEnd");
    return new TextDecoder().decode(this.payloads.subarray(from, end));
  }

  nameOf(subscription) {
    const s = this.subscriptions.get(subscription);
    return s ? partyOf(s) : "?";
  }
  // The publisher, else the subscriber in whose handler it was made, else the file.
  makerOf(i) {
    if (this.get(i, "by")) return this.text(i, "by");
    const inside = this.get(i, "inHandler");
    if (inside) return this.nameOf(inside);
    const [, file, line] = /^(.*):(\d+)$/.exec(this.text(i, "at")) ?? [];
    return file === undefined ? this.text(i, "at") : line === "0" ? file : fileOf(file);
  }
  // What came from another process, in words; else nothing.
  originOf(i) {
    const from = this.origins.get(this.get(i, "id"));
    return from ? `from ${from.event ? `event ${from.event} of ` : ""}${from.process}` : "";
  }
  timeOfFrame(frame) { return this.frameTimes.all[Math.min(Math.max(frame - this.firstFrame, 0), this.frameTimes.length - 1)] ?? 0; }

  // Where an event is, by its number; -1 where it is not known.
  find(id) {
    const ids = this.events.id.all;
    let low = 0;
    let high = this.count;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (ids[middle] < id) low = middle + 1;
      else high = middle;
    }
    return low < this.count && ids[low] === id ? low : -1;
  }
  // The first event of a frame, or of a later one.
  firstOfFrame(frame) {
    const frames = this.events.frame.all;
    let low = 0;
    let high = this.count;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (frames[middle] < frame) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  // All that led to it, the first cause first.
  chain(i) {
    const all = [i];
    for (let at = i; all.length < 1000; ) {
      const cause = this.get(at, "cause");
      const next = cause ? this.find(cause) : -1;
      if (next < 0 || all.includes(next)) break;
      all.unshift(next);
      at = next;
    }
    return all;
  }
  // What it caused at once, for each event: made when it is first asked for.
  effects(i) {
    if (!this.index || this.index.version !== this.version) {
      const first = new Int32Array(this.count).fill(-1);
      const next = new Int32Array(this.count).fill(-1);
      for (let k = this.count - 1; k >= 0; --k) {
        const cause = this.events.cause.all[k];
        const at = cause ? this.find(cause) : -1;
        if (at >= 0) {
          next[k] = first[at];
          first[at] = k;
        }
      }
      this.index = { version: this.version, first, next };
    }
    const all = [];
    for (let k = this.index.first[i]; k >= 0; k = this.index.next[k]) all.push(k);
    return all;
  }

  parties() {
    const names = new Set();
    for (const s of this.subscriptions.values()) names.add(partyOf(s));
    for (const number of new Set(this.events.by.all.subarray(0, this.count))) if (number) names.add(this.texts.all[number]);
    return [...names].sort();
  }

  // When there are too many, the oldest quarter goes.
  dropOldest() {
    if (this.count <= this.most) return;
    const count = this.most >> 2;
    const cut = {};
    for (const [list, end] of [["heard", "heardEnd"], ["missed", "missedEnd"], ["tookBy", "tookEnd"]]) cut[list] = this.events[end].all[count - 1];
    this.heard.dropFirst(cut.heard);
    this.missed.dropFirst(cut.missed);
    this.missedWhy.dropFirst(cut.missed);
    this.tookBy.dropFirst(cut.tookBy);
    this.tookNs.dropFirst(cut.tookBy);
    for (const column of Object.values(this.events)) column.dropFirst(count);
    for (const [list, end] of [["heard", "heardEnd"], ["missed", "missedEnd"], ["tookBy", "tookEnd"]]) {
      const ends = this.events[end];
      for (let i = 0; i < ends.length; ++i) ends.all[i] -= cut[list];
    }
    this.payloadTexts.splice(0, count);
    this.dropped += count;
    for (const id of this.origins.keys()) if (id < this.get(0, "id")) this.origins.delete(id);
    for (const [number, s] of this.subscriptions) {
      if (s.until !== null && s.until < this.get(0, "frame")) this.subscriptions.delete(number);
    }
  }
}
