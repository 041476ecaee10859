// A recording as a report holds it: CBOR (RFC 8949) with typed arrays (RFC 8746), compressed with gzip.
import { decode } from "cborg";
import { Column, Texts } from "./column.js";
import { Run } from "./run.js";

export async function unpacked(bytes) {
  const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream("gzip"));
  return new Uint8Array(await new Response(stream).arrayBuffer());
}

// Little-endian arrays, as all machines that browsers run on have them.
const tags = [];
for (const [tag, Kind] of [[64, Uint8Array], [69, Uint16Array], [70, Uint32Array], [86, Float64Array]]) {
  tags[tag] = (decoder) => {
    const raw = decoder instanceof Uint8Array ? decoder : decoder();
    return new Kind(raw.slice().buffer);
  };
}

export function fromColumns(bytes) {
  const all = decode(bytes, { tags, allowBigInt: false });
  const run = new Run({ most: Infinity });
  Object.assign(run, {
    source: all.source, facts: all.facts, frames: all.frames, systems: all.systems, phases: all.phases, waiting: all.waiting,
    findings: all.findings, skipped: all.skipped, finished: all.finished, file: all.file, payloads: all.payloads,
  });
  run.texts = new Texts(all.texts);
  run.whys = new Texts(all.whys);
  for (const one of all.channels) Object.assign(run.channels[run.channelNumber(one.name)], one);
  for (const { id, ...from } of all.origins ?? []) run.origins.set(id, from);
  for (const one of all.subscriptions) run.subscriptions.set(one.number, one);
  for (const name of Object.keys(run.events)) {
    const { Kind } = run.events[name];
    run.events[name] = new Column(Kind, all.events[name] instanceof Kind ? all.events[name] : Kind.from(all.events[name]));
  }
  for (const name of ["heard", "missed", "missedWhy", "tookBy", "tookNs"]) run[name] = new Column(run[name].Kind, all[name]);
  run.frameTimes = new Column(Float64Array, all.frameTimes);
  run.version = 1;
  return run;
}
