// The page on a recording: as a report, from disk, and served.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import path from "node:path";
import { after, before, test } from "node:test";
import { closeBrowser, eventually, open, reportOf, runIn, start, tool, view } from "./support.mjs";

let run;
before(async () => {
  assert.equal(tool("demo", "--seed", "7", "--quiet", "--careless", "--record", "night.jsonl").code, 0);
  run = await runIn(reportOf("night.jsonl"));
});
after(closeBrowser);

test("a report opens from disk and asks nobody for anything", async () => {
  const page = await open(`file://${path.resolve("night.html")}`);
  for (const [name, seen] of [["Now", "td.channel:has-text('barges.moved')"], ["Events", ".line"], ["Lanes", "canvas[data-single]"], ["Map", "svg.map [role=button]"],
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

test("why something was not heard is answered in the tool's words", async () => {
  const page = await open(`file://${path.resolve("night.html")}`);
  await view(page, "Events");
  await page.fill("input[aria-label=Party]", "horn");
  await page.fill("input[aria-label='On channel']", "weather.thundered");
  await page.click("button:has-text('Why not?')");
  const said = tool("explain", "night.jsonl", "--why-not", "horn", "--channel", "weather.thundered").out.trim().split("\n");
  await page.waitForSelector("section[aria-label='Why not'] li");
  assert.deepEqual(await page.locator("section[aria-label='Why not'] li").allTextContents(), said.map((line) => line.trim()));
});

test("a recording is served, and can be looked at", async () => {
  const served = await start("serve", "night.jsonl");
  const page = await open(served.page);
  await page.waitForSelector("td.channel:has-text('barges.moved')");
  await page.selectOption("select[aria-label=Phase]", "watch: storm");
  await view(page, "Events");
  await page.waitForSelector(".line");
  const frames = (await page.locator(".line span:first-child").allTextContents()).map((t) => Number(t.replace("frame ", "")));
  const storm = run.about.phases.find((set) => set.name === "watch").history.find((step) => step.to === "storm").frame;
  assert.ok(frames.every((frame) => frame >= storm));
  assert.deepEqual(page.faults, []);
  assert.equal(await served.end(), 0);
});

test("what came from another process says from where", async () => {
  assert.equal(tool("demo", "--processes", "2", "--quiet", "--record", "far.jsonl").code, 0);
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
