// Holds the demo's catalogue and recording to what others understand by AsyncAPI and
// by JSON Schema: node validate.js CATALOGUE RECORDING
import { readFileSync } from "node:fs";

import { Parser } from "@asyncapi/parser";
import Ajv from "ajv";
import { parse } from "smol-toml";

const [, , catalogueFile, recordingFile, root] = process.argv;
const text = readFileSync(catalogueFile, "utf8");
let failures = 0;
const fail = (what) => {
  failures += 1;
  console.log(what);
};

const { document, diagnostics } = await new Parser().parse(text);
for (const one of diagnostics.filter((d) => d.severity <= 1)) {
  fail(`AsyncAPI: ${one.code} at ${one.path.join("/")}: ${one.message}`);
}
if (!document || document.channels().length === 0) {
  fail("AsyncAPI: no channels were found");
}

const raw = JSON.parse(text);
const ajv = new Ajv({ strict: false });
ajv.addSchema({ $id: "catalogue", ...raw });
const schemaOf = new Map();
for (const [name, channel] of Object.entries(raw.channels)) {
  const message = `#/components/messages/${name}/payload`;
  schemaOf.set(channel.title, ajv.compile({ $ref: `catalogue${message}` }));
}

// What was recorded is as the schemas say.
let events = 0;
for (const line of readFileSync(recordingFile, "utf8").split("\n").filter(Boolean)) {
  const event = JSON.parse(line);
  const schema = event.type === "wired-courier.event" ? schemaOf.get(event.subject) : undefined;
  if (schema && event.data.payload !== undefined) {
    events += 1;
    if (!schema(event.data.payload)) {
      fail(`${event.subject} ${JSON.stringify(event.data.payload)}: ${ajv.errorsText(schema.errors)}`);
    }
  }
}
if (events < 100) {
  fail(`only ${events} events were compared`);
}
// Wiring files are as their schema for editors says.
const read = (name) => readFileSync(`${root}/${name}`, "utf8");
const isWiring = new Ajv({ strict: false }).compile(JSON.parse(read("docs/schema/wiring.schema.json")));
const blocks = [...read("docs/wiring.md").matchAll(/```toml\n(.*?)```/gs)].map((block) => block[1]);
for (const wiring of [read("demo/reef.toml"), ...blocks]) {
  if (!isWiring(parse(wiring))) {
    fail(`wiring: ${ajv.errorsText(isWiring.errors)}: ${wiring.slice(0, 80)}`);
  }
}
if (blocks.length < 6 || isWiring(parse(read("demo/mistakes.toml")))) {
  fail("wiring: too few files were compared, or the faulty one is accepted");
}
console.log(`${schemaOf.size} schemas, ${events} recorded payloads, ${failures} failures`);
process.exit(failures === 0 ? 0 : 1);
