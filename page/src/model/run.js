// SPDX-License-Identifier: MIT
// A run, as the teller has it: the library's own code, in WebAssembly. What is drawn is read where it lies; all
// questions are answered there.
export const noFilter = { channel: "", party: "", address: "", phase: "" };
export const isEmpty = (filter) => !Object.values(filter).some(Boolean);
const mostKnown = 64; // answers that are kept
const asked = (filter, more = {}) => ({ ...filter, ...more, by_part: true });

const coder = new TextEncoder();
const reader = new TextDecoder();

export async function openTeller(bytes) {
  const teller = {};
  const nothing = () => 0; // of the system there is only memory
  const system = new Proxy({}, { get: () => nothing });
  const failed = (at, size) => {
    throw new Error(reader.decode(new Uint8Array(teller.memory.buffer, at, size).slice()));
  };
  const made = await WebAssembly.instantiate(bytes, { page: { failed }, wasi_snapshot_preview1: system });
  Object.assign(teller, made.instance.exports);
  teller._initialize();
  return teller;
}

export class Run {
  constructor(teller) {
    this.teller = teller;
    this.version = 0; // rises with each change
    this.missing = 0; // events that a live reader did not get
    this.layout = new Map(this.ask("layout").map((field) => [field.name, field]));
    this.size = teller.event_size();
    this.changed();
  }

  changed() {
    ++this.version;
    this.texts = [];
    this.known = {};
    this.views = null;
  }
  // Memory that has grown lies elsewhere.
  look() {
    const { buffer } = this.teller.memory;
    if (this.views?.bytes.buffer !== buffer) {
      const t = this.teller;
      this.views = {
        bytes: new Uint8Array(buffer),
        words: new Uint32Array(buffer),
        events: t.events(),
        heard: t.heard() >> 2,
        took: t.took() >> 2,
        payloads: t.payloads(),
      };
    }
    return this.views;
  }

  put(text) {
    const bytes = typeof text === "string" ? coder.encode(text) : text;
    const at = this.teller.room(bytes.length);
    new Uint8Array(this.teller.memory.buffer, at, bytes.length).set(bytes);
  }
  ask(name, question = {}) {
    this.put(`${name}\n${JSON.stringify(question)}`);
    const size = this.teller.ask();
    return JSON.parse(reader.decode(new Uint8Array(this.teller.memory.buffer, this.teller.answer(), size)));
  }
  // Asked once for each version.
  once(name, question = {}) {
    const key = name + JSON.stringify(question);
    if (!(key in this.known) && Object.keys(this.known).length >= mostKnown) this.known = {};
    return (this.known[key] ??= this.ask(name, question));
  }

  openImage(bytes) {
    this.put(bytes);
    if (!this.teller.open_image()) throw new Error("the recording in this page is damaged, or of another version");
    this.changed();
  }
  beginLive() {
    this.teller.begin_live();
    this.missing = 0;
    this.changed();
  }
  takeLines(lines, most) {
    this.put(lines.join("\n"));
    this.teller.take_lines(most);
    this.changed();
  }

  // Of all of it.
  get about() {
    return this.once("run");
  }
  get count() {
    return this.teller.event_count();
  }
  get frames() {
    return this.about.frames;
  }
  timeOfFrame(frame) {
    return this.teller.begin_of(Math.max(0, frame));
  }
  rates(filter, span) {
    return this.once("rates", { filter: asked(filter), span });
  }
  // By column of a picture: all events, those that pass, and calls of handlers that failed.
  density(filter, first, last, columns) {
    return this.once("density", { filter: asked(filter), first, last, columns });
  }
  slowest(filter) {
    return this.once("slowest", asked(filter));
  }
  routes(filter = {}) {
    return this.once("routes", asked(filter));
  }
  subscriptions(filter) {
    return this.once("subscriptions", asked(filter));
  }
  whyNot(party, channel, from, to) {
    return this.ask("why_not", { party, channel, first_frame: from, last_frame: to, by_part: false });
  }

  // Of one event, by its place.
  get(i, name) {
    const { offset, size } = this.layout.get(name);
    const { bytes, words, events } = this.look();
    const at = events + i * this.size + offset;
    return size === 1 ? bytes[at] : size === 4 ? words[at >> 2] : words[at >> 2] + words[(at >> 2) + 1] * 2 ** 32;
  }
  textOf(number) {
    return (this.texts[number] ??= reader.decode(
      new Uint8Array(this.teller.memory.buffer, this.teller.text(number), this.teller.text_size(number)),
    ));
  }
  text(i, name) {
    return this.textOf(this.get(i, name));
  }
  channelName(i) {
    return this.about.channels[this.get(i, "channel")].name;
  }
  isPost(i) {
    return this.get(i, "is_post") !== 0;
  }
  isUnheard(i) {
    return this.teller.is_unheard(i) !== 0;
  }
  payloadOf(i) {
    const from = this.look().payloads + this.get(i, "payload");
    return reader.decode(this.look().bytes.subarray(from, from + this.get(i, "payload_size")));
  }
  detailsOf(id) {
    return this.once("event", { id });
  }
  // Nanoseconds of who heard it, in the order of these; 0 where it was not measured.
  tookBy(i) {
    const { words, heard, took } = this.look();
    const times = new Map();
    for (let k = this.get(i, "first_took"), left = this.get(i, "timed"); left > 0; ++k, --left)
      times.set(words[took + 2 * k], words[took + 2 * k + 1]);
    const first = heard + this.get(i, "first_heard");
    return Array.from({ length: this.get(i, "heard") }, (_, k) => times.get(words[first + k]) ?? 0);
  }
  // Where an event is, by its number; -1 where it is not known.
  find(id) {
    return this.teller.find(id);
  }

  // A function that says whether an event passes; null: all do.
  passer(filter) {
    if (isEmpty(filter)) return null;
    const key = `${this.version} ${JSON.stringify(filter)}`;
    if (this.passing?.key !== key) {
      this.put(JSON.stringify(asked(filter)));
      const at = this.teller.select();
      const all = new Uint8Array(this.teller.memory.buffer, at, this.count).slice();
      this.passing = { key, passes: (i) => all[i] !== 0 };
    }
    return this.passing.passes;
  }

  // {names, from, end, to}: by event the lane that it comes from, and where those end that it goes to.
  lanes() {
    const names = this.ask("lanes");
    const t = this.teller;
    const numbers = (at, count) => new Uint32Array(t.memory.buffer, at, count).slice();
    return {
      names,
      from: numbers(t.lane_from(), this.count),
      end: numbers(t.lane_end(), this.count),
      to: numbers(t.lane_to(), t.lane_to_count()),
    };
  }
}
