// Reads a gateway's streams with a reader of CloudEvents: node read_stream.mjs ADDRESS
import { CloudEvent, HTTP } from "cloudevents";

const [address] = process.argv.slice(2);
let failures = 0;

async function messages(path, count) {
  const stop = new AbortController();
  const answer = await fetch(address + path, { signal: stop.signal });
  const all = [];
  let rest = "";
  for await (const bytes of answer.body.pipeThrough(new TextDecoderStream())) {
    rest += bytes;
    const blocks = rest.split("\n\n");
    rest = blocks.pop();
    for (const block of blocks) {
      const data = block
        .split("\n")
        .filter((line) => line.startsWith("data: "))
        .map((line) => line.slice(6))
        .join("\n");
      if (data) all.push(data);
    }
    if (all.length >= count) break;
  }
  stop.abort();
  return all;
}

for (const [path, count] of [
  ["/events", 60],
  ["/run", 300],
]) {
  const all = await messages(path, count);
  const ids = new Set();
  for (const data of all) {
    try {
      const event = HTTP.toEvent({ headers: { "content-type": "application/cloudevents+json" }, body: data });
      if (!(event instanceof CloudEvent) || !event.validate()) throw new Error("it is not valid");
      if (path === "/events" && event.type === "wired-courier.payload" && ids.has(event.id))
        throw new Error("its id was there before");
      ids.add(event.id);
    } catch (error) {
      failures += 1;
      console.log(`${path}: ${error.message}: ${data.slice(0, 200)}`);
    }
  }
  console.log(`${path}: ${all.length} events were read`);
  if (all.length < count) failures += 1;
}
process.exit(failures === 0 ? 0 : 1);
