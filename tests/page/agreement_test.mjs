// The page answers as the tool does, word for word, on every night of the demo.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { reportOf, runIn, tool } from "./support.mjs";

const nights = {
  plain: ["--seed", "7"],
  careless: ["--seed", "7", "--careless"],
  shaken: ["--seed", "11", "--order-seed", "3"],
  reefs: ["--processes", "2"],
};

for (const [night, options] of Object.entries(nights)) {
  test(`${night}: makers, reasons, routes, lanes and rates`, async () => {
    assert.equal(tool("demo", ...options, "--quiet", "--record", `${night}.jsonl`).code, 0);
    const file = night === "reefs" ? "reefs-reef-1.jsonl" : `${night}.jsonl`;
    const run = await runIn(reportOf(file));
    const json = (...args) => JSON.parse(tool(...args, "--json").out);
    const lines = readFileSync(file, "utf8")
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line));
    const events = lines.filter((line) => /\.(event|post)$/.test(line.type)).sort((a, b) => a.id - b.id);
    assert.equal(run.count, events.length);

    const chart = json("lanes", file, "--limit", "10000");
    assert.equal(chart.messages.length, run.count);
    const { names, from, end, to } = run.lanes();
    assert.deepEqual(names, chart.lanes);
    chart.messages.forEach((message, i) => {
      assert.equal(run.get(i, "id"), message.event);
      assert.equal(run.text(i, "maker"), message.maker, `the maker of event ${message.event}`);
      assert.equal(from[i], message.from);
      assert.deepEqual([...new Set(to.slice(i ? end[i - 1] : 0, end[i]))], message.to);
    });
    events.forEach((event, i) => {
      assert.equal(run.get(i, "frame"), event.frame);
      assert.equal(run.get(i, "cause"), Number(event.cause ?? 0));
      assert.equal(run.channelName(i), event.subject ?? "");
      assert.equal(run.text(i, "at"), event.data.at);
      assert.equal(run.payloadOf(i), event.data.payload === undefined ? "" : JSON.stringify(event.data.payload));
    });

    assert.deepEqual(run.routes(), json("map", file));

    const { parties, channels } = run.about;
    let reasons = 0;
    for (const party of [...parties, "nobody at all"]) {
      for (const [first, last] of party === "horn" || party === "keeper"
        ? [
            [0, 2 ** 32 - 1],
            [20, 60],
          ]
        : [[0, 2 ** 32 - 1]]) {
        const all = json("explain", file, "--why-not", party, ...(last === 60 ? ["--frames", "20:60"] : []));
        assert.equal(all.length, channels.length);
        for (const path of all) {
          assert.deepEqual(
            run.ask("why_not_path", { party, channel: path[0].channel, first_frame: first, last_frame: last }),
            path,
          );
          reasons += path[0].reasons.length;
        }
      }
    }
    assert.ok(reasons > 20);

    const stats = new Map(json("stats", file).channels.map((c) => [c.channel, c]));
    for (const row of run.rates({}, 120).channels) {
      const theirs = stats.get(row.channel);
      assert.deepEqual(
        [row.published, row.deliveries, row.unheard],
        [theirs.published, theirs.deliveries, theirs.unheard],
        row.channel,
      );
    }
    const told = tool("explain", file, String(run.get(run.count - 1, "id"))).out;
    assert.equal(told.split("\n")[0], run.detailsOf(run.get(run.count - 1, "id")).sentence);
  });
}
