// The page on a recording: as a report, from disk, and served.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import path from "node:path";
import { after, before, test } from "node:test";
import { gunzipSync } from "node:zlib";
import { closeBrowser, eventually, open, start, tool, view } from "./support.mjs";
import { fromColumns } from "./src/model/from_columns.js";
import { routesOf } from "./src/model/routes.js";
import { whyNot } from "./src/model/why_not.js";

let run;
before(() => {
  assert.equal(tool("demo", "--seed", "7", "--quiet", "--careless", "--record", "night.jsonl").code, 0);
  const made = tool("report", "night.jsonl", "-o", "night.html");
  assert.equal(made.code, 0, made.error);
  const inside = /id="recording">([^<]*)</.exec(readFileSync("night.html", "utf8"))[1];
  run = fromColumns(gunzipSync(Buffer.from(inside, "base64")));
});
after(closeBrowser);

test("a report opens from disk and asks nobody for anything", async () => {
  const page = await open(`file://${path.resolve("night.html")}`);
  for (const [name, seen] of [["Now", "td.channel:has-text('barges.moved')"], ["Events", ".line"], ["Lanes", "canvas[data-single]"], ["Map", "svg.map rect"],
    ["Parties", "td:has-text('ordinary')"], ["Findings", "section .wrong"], ["Wiring", ":text('This is a recording')"], ["Actions", ":text('This is a recording')"]]) {
    await view(page, name);
    await page.waitForSelector(`main ${seen}`);
  }
  assert.deepEqual(page.faults, []);
  assert.deepEqual(page.requests.filter((url) => !url.startsWith("file:") && !url.startsWith("data:")), []);
  assert.equal(page.requests.filter((url) => url.startsWith("file:")).length, 1);
});

test("an event shows its causes and effects, with lines of code, and one leads to the next", async () => {
  const page = await open(`file://${path.resolve("night.html")}`);
  await view(page, "Events");
  await page.fill("header input[aria-label=Channel]", "hoist.raised");
  await page.locator(".line").first().click();
  const tree = page.locator(".tree");
  await eventually("a chain", async () => (await tree.locator("circle").count()) > 2);
  assert.match(await tree.textContent(), /demo\/hoist\.cpp:\d+/);
  const before = await page.textContent("section[aria-label=Event] h2");
  await tree.locator("g").first().click();
  await eventually("the cause", async () => (await page.textContent("section[aria-label=Event] h2")) !== before);
});

test("findings are those of the audit, and lead to the place", async () => {
  const page = await open(`file://${path.resolve("night.html")}`);
  await view(page, "Findings");
  const told = JSON.parse(tool("audit", "night.jsonl", "--json").out);
  const count = (told.findings ?? told).length;
  assert.equal(await page.locator("main section").count(), count);
  await page.locator("main section button.channel").first().click();
  await page.waitForSelector("main[aria-label=Events]");
});

test("why-not answers agree with the tool's", async () => {
  const parties = ["horn", "lamp", "watch board", "harbour", "keeper", "tides", "nobody at all"];
  const channels = ["weather.thundered", "wyrms.sighted", "barges.moved", "barges.bitten", "harbour.hails", "lookout.danger"];
  let heard = 0;
  for (const party of parties) {
    for (const channel of channels) {
      for (const frames of ["", "20:60"]) {
        const asked = tool("explain", "night.jsonl", "--why-not", party, "--channel", channel, ...(frames ? ["--frames", frames] : []), "--json");
        const theirs = JSON.parse(asked.out);
        const ours = whyNot(run, party, channel, ...(frames ? [20, 60] : []));
        assert.equal(ours.published, theirs.published, `${party} ${channel}`);
        assert.equal(ours.heard, theirs.heard, `${party} ${channel}`);
        assert.equal(ours.reasons.reduce((n, r) => n + r.events, 0) > 0, theirs.reasons.some((r) => r.events > 0), `${party} ${channel}`);
        heard += ours.heard;
      }
    }
  }
  assert.ok(heard > 20);
  const page = await open(`file://${path.resolve("night.html")}`);
  await view(page, "Events");
  await page.fill("input[aria-label=Party]", "horn");
  await page.fill("input[aria-label='On channel']", "weather.thundered");
  await page.click("button:has-text('Why not?')");
  await page.waitForSelector("section[aria-label='Why not'] li:has-text('published on weather.thundered')");
});

test("the run in the page is the run in the file", () => {
  const lines = readFileSync("night.jsonl", "utf8").trim().split("\n").map((line) => JSON.parse(line));
  const events = lines.filter((line) => /\.(event|post)$/.test(line.type)).sort((a, b) => a.id - b.id);
  assert.equal(run.count, events.length);
  events.forEach((event, i) => {
    assert.equal(run.get(i, "id"), Number(event.id));
    assert.equal(run.get(i, "cause"), Number(event.cause ?? 0));
    assert.equal(run.get(i, "frame"), event.frame);
    assert.equal(run.channelName(i), event.subject);
    assert.equal(run.text(i, "at"), event.data.at);
    assert.deepEqual(run.heardOf(i), event.data.heard ?? []);
    assert.deepEqual(run.missedOf(i).map((m) => m.subscription), (event.data.missed ?? []).map((m) => m[0]));
    assert.equal(run.payloadOf(i), event.data.payload === undefined ? "" : JSON.stringify(event.data.payload));
  });
  const map = JSON.parse(tool("map", "night.jsonl", "--json").out);
  const routes = new Map(routesOf(run).map((r) => [r.name, r]));
  for (const theirs of map.routes ?? map) assert.equal(routes.get(theirs.channel).events, theirs.events, theirs.channel);
});

test("a recording is served, and can be looked at", async () => {
  const served = await start("serve", "night.jsonl");
  const page = await open(served.page);
  await page.waitForSelector("td.channel:has-text('barges.moved')");
  await page.selectOption("select[aria-label=Phase]", "watch: storm");
  await view(page, "Events");
  await page.waitForSelector(".line");
  const frames = (await page.locator(".line span:first-child").allTextContents()).map((t) => Number(t.replace("frame ", "")));
  const storm = run.phases.find((set) => set.name === "watch").history.find((step) => step.to === "storm").frame;
  assert.ok(frames.every((frame) => frame >= storm));
  assert.deepEqual(page.faults, []);
  assert.equal(await served.end(), 0);
});

test("what came from another process says from where", async () => {
  assert.equal(tool("demo", "--reefs", "2", "--quiet", "--record", "far.jsonl").code, 0);
  assert.equal(tool("report", "far-office.jsonl", "-o", "far.html").code, 0);
  const lines = readFileSync("far-office.jsonl", "utf8").trim().split("\n").map((line) => JSON.parse(line));
  const arrived = lines.find((line) => line.subject === "office.under_way" && line.data.from_event);
  const page = await open(`file://${path.resolve("far.html")}`);
  await view(page, "Events");
  await page.fill("header input[aria-label=Channel]", "office.under_way");
  await page.locator(".line").first().click();
  const origin = `from event ${arrived.data.from_event} of ${arrived.data.from}`;
  await page.waitForSelector(`section[aria-label=Event] :text('${origin}')`);
  assert.match(await page.textContent("section[aria-label=Event]"), new RegExp(`${origin}, run ${arrived.data.from_run}`));
  assert.match(await page.textContent(".tree"), new RegExp(`ferry gannet/barges/\\+, ${origin}`));
});
