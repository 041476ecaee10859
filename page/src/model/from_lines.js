// Lines of a live run into a Run, as docs/recordings.md describes them.
import { flag } from "./run.js";

const prefix = "wired-courier.";

// Events come when their publish has ended, so that what one caused comes before it; here they are in the order of
// their numbers.
function insert(run, row) {
  const ids = run.events.id;
  let place = ids.length;
  while (place > 0 && ids.all[place - 1] > row.id) --place;
  if (place > 0 && ids.all[place - 1] === row.id) return; // known already
  const last = (column) => (column.length ? column.all[column.length - 1] : 0);
  const lists = { heardEnd: row.heard.length, missedEnd: row.missed.length, tookEnd: row.took.length };
  const starts = {};
  for (const name of Object.keys(lists)) starts[name] = place > 0 ? run.events[name].all[place - 1] : 0;
  for (const [name, column] of Object.entries(run.events)) {
    column.push(last(column));
    if (name in lists) {
      for (let k = column.length - 1; k > place; --k) column.all[k] = column.all[k - 1] + lists[name];
      column.all[place] = starts[name] + lists[name];
    } else {
      column.all.copyWithin(place + 1, place, column.length - 1);
      column.all[place] = row[name] ?? 0;
    }
  }
  const splice = (column, at, values) => {
    for (const value of values) column.push(value);
    if (values.length && at !== column.length - values.length) {
      column.all.copyWithin(at + values.length, at, column.length - values.length);
      column.all.set(values, at);
    }
  };
  splice(run.heard, starts.heardEnd, row.heard);
  splice(run.missed, starts.missedEnd, row.missed.map((m) => m[0]));
  splice(run.missedWhy, starts.missedEnd, row.missed.map((m) => run.whys.number(m[1])));
  splice(run.tookBy, starts.tookEnd, row.took.map((t) => t[0]));
  splice(run.tookNs, starts.tookEnd, row.took.map((t) => t[1]));
  run.payloadTexts.splice(place, 0, row.payload);
}

function event(run, line, data, isPost) {
  if (data.from) run.origins.set(Number(line.id), { process: data.from, run: data.from_run ?? "", event: Number(data.from_event ?? 0) });
  const flags =
    (isPost ? flag.post : 0) | (data.combined ? flag.combined : 0) | (data.turned_away ? flag.turnedAway : 0) |
    ("stopped" in data ? flag.stopped : 0) | (data.outside ? flag.outside : 0) | (data.retained ? flag.retained : 0) |
    (data.refused ? flag.refused : 0) | (data.vacant ? flag.vacant : 0) | (data.left_out ? flag.cut : 0);
  insert(run, {
    id: Number(line.id), cause: Number(line.cause ?? 0), frame: line.frame, channel: run.channelNumber(line.subject ?? ""),
    at: run.texts.number(data.at ?? ""), by: run.texts.number(data.by ?? ""), to: run.texts.number(data.to ?? ""),
    inHandler: data.in_handler ?? 0, outbox: run.texts.number(data.outbox ?? ""), flags, stoppedBy: data.stopped ?? 0,
    heard: data.heard ?? [], missed: data.missed ?? [], took: data.took ?? [],
    payload: data.payload === undefined ? "" : JSON.stringify(data.payload),
  });
}

const takers = {
  recording(run, line, data) {
    run.source = decodeURIComponent(line.source.replace(/^\//, ""));
    run.facts = data.facts;
  },
  channel(run, line, data) {
    Object.assign(run.channels[run.channelNumber(line.subject ?? "")], { payload: data.payload, hub: data.hub ?? "", query: Boolean(data.query), open: 1 });
  },
  closed(run, line) {
    run.channels[run.channelNumber(line.subject ?? "")].open = 0;
  },
  subscribed(run, line, data) {
    if (run.subscriptions.get(data.subscription)?.until === null) return;
    run.subscriptions.set(data.subscription, {
      number: data.subscription, channel: run.channelNumber(line.subject ?? ""), party: data.party ?? 0, name: data.name ?? "",
      at: data.at, stage: data.stage, to: data.to ?? "", since: line.frame, until: null, closed: false,
      after: run.count ? run.get(run.count - 1, "id") : 0, pauses: data.paused ? [[line.frame, null]] : [],
    });
  },
  ended(run, line, data) {
    const s = run.subscriptions.get(data.subscription);
    if (s) Object.assign(s, { until: line.frame, closed: Boolean(data.closed) });
  },
  paused(run, line, data) {
    run.subscriptions.get(data.subscription)?.pauses.push([line.frame, null]);
  },
  resumed(run, line, data) {
    const pauses = run.subscriptions.get(data.subscription)?.pauses;
    if (pauses?.length) pauses[pauses.length - 1][1] = line.frame;
  },
  event: (run, line, data) => event(run, line, data, false),
  post: (run, line, data) => event(run, line, data, true),
  frame(run, line) {
    const seconds = Number(/^PT([\d.]+)S$/.exec(line.gametime ?? "")?.[1] ?? 0);
    if (line.frame < run.frames) return;
    if (run.frameTimes.length === 0) run.firstFrame = line.frame;
    run.frames = line.frame + 1;
    while (run.firstFrame + run.frameTimes.length < run.frames) run.frameTimes.push(seconds);
  },
  waiting(run, line, data) { run.waiting = { sequences: data.sequences ?? [], boxes: data.boxes ?? [] }; },
  systems(run, line, data) { run.systems = data.systems; },
  phases(run, line, data) { run.phases = data.sets; },
  skipped(run, line, data) { run.skipped += data.events; },
  finished(run) { run.finished = true; },
  missed(run, line, data) { run.missing += data.events; },
};

export function takeLine(run, line) {
  const type = line.type.startsWith(prefix) ? line.type.slice(prefix.length) : "";
  takers[type]?.(run, line, line.data ?? {});
  run.version++;
}
