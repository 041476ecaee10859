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
  for (const [name, seen] of [
    ["Now", "td.channel:has-text('barges.moved')"],
    ["Events", ".line"],
    ["Lanes", "canvas[data-single]"],
    ["Map", "svg.map [role=button]"],
    ["Parties", "td:has-text('ordinary')"],
    ["Findings", "section .wrong"],
    ["Wiring", ":text('This is a recording')"],
    ["Actions", ":text('This is a recording')"],
  ]) {
    await view(page, name);
    await page.waitForSelector(`main ${seen}`);
  }
  assert.deepEqual(page.faults, []);
  assert.deepEqual(
    page.requests.filter((url) => !url.startsWith("file:") && !url.startsWith("data:")),
    [],
  );
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
  const said = tool("explain", "night.jsonl", "--why-not", "horn", "--channel", "weather.thundered")
    .out.trim()
    .split("\n");
  await page.waitForSelector("section[aria-label='Why not'] li");
  assert.deepEqual(
    await page.locator("section[aria-label='Why not'] li").allTextContents(),
    said.map((line) => line.trim()),
  );
});

test("a recording is served, and can be looked at", async () => {
  const served = await start("serve", "night.jsonl");
  const page = await open(served.page);
  await page.waitForSelector("td.channel:has-text('barges.moved')");
  await page.selectOption("select[aria-label=Phase]", "watch: storm");
  await view(page, "Events");
  await page.waitForSelector(".line");
  const frames = (await page.locator(".line span:first-child").allTextContents()).map((t) =>
    Number(t.replace("frame ", "")),
  );
  const storm = run.about.phases.find((set) => set.name === "watch").history.find((step) => step.to === "storm").frame;
  assert.ok(frames.every((frame) => frame >= storm));
  assert.deepEqual(page.faults, []);
  assert.equal(await served.end(), 0);
});

test("what came from another process says from where", async () => {
  assert.equal(tool("demo", "--processes", "2", "--quiet", "--record", "far.jsonl").code, 0);
  assert.equal(tool("report", "far-office.jsonl", "-o", "far.html").code, 0);
  const lines = readFileSync("far-office.jsonl", "utf8")
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line));
  const arrived = lines.find((line) => line.subject === "office.under_way" && line.data.from_event);
  const page = await open(`file://${path.resolve("far.html")}`);
  await view(page, "Events");
  await page.fill("header input[aria-label=Channel]", "office.under_way");
  await page.locator(".line").first().click();
  const origin = `from event ${arrived.data.from_event} of ${arrived.data.from}`;
  await page.waitForSelector(`section[aria-label=Event] :text('${origin}')`);
  assert.match(
    await page.textContent("section[aria-label=Event]"),
    new RegExp(`${origin}, run ${arrived.data.from_run}`),
  );
  assert.match(await page.textContent(".tree"), new RegExp(`ferry gannet/barges/\\+, ${origin}`));
});

test("a checker of accessibility finds nothing serious in any view, in light and dark", async () => {
  // Only colours differ in the dark.
  for (const [colorScheme, rules] of [
    ["light", {}],
    ["dark", { runOnly: ["color-contrast"] }],
  ]) {
    const page = await open(`file://${path.resolve("night.html")}`, { colorScheme, bypassCSP: true });
    await page.addScriptTag({ path: "node_modules/axe-core/axe.min.js" });
    for (const name of ["Now", "Events", "Lanes", "Map", "Parties", "Findings", "Wiring", "Actions"]) {
      await view(page, name);
      if (name === "Events") await page.locator(".list .line").first().click();
      await page.waitForTimeout(200);
      const serious = await page.evaluate(
        async (rules) =>
          (await axe.run(rules)).violations
            .filter((one) => /serious|critical/.test(one.impact))
            .map((one) => `${one.id}: ${one.nodes[0].html}`),
        rules,
      );
      assert.deepEqual(serious, [], `${name}, ${colorScheme}`);
    }
  }
});

test("what is wrong comes first, and leads to its place", async () => {
  const page = await open(`file://${path.resolve("night.html")}`);
  const count = JSON.parse(tool("audit", "night.jsonl", "--json").out).findings.length;
  await page.waitForSelector(`.trouble h2:has-text("Findings: ${count}")`);
  const slowest = JSON.parse(tool("stats", "night.jsonl", "--json").out).slowest[0];
  await page.locator(".trouble", { hasText: "Slowest calls" }).locator("button").first().click();
  await page.waitForSelector(`section[aria-label=Event] h2:has-text("event ${slowest.longest}:")`);
});

test("a stretch of the time line is what every view shows, and an address leads back to it", async () => {
  const file = `file://${path.resolve("night.html")}`;
  const page = await open(`${file}#frames=30:39`);
  const inside = Array.from({ length: run.count }, (_, i) => i).filter(
    (i) => run.get(i, "frame") >= 30 && run.get(i, "frame") <= 39,
  );
  const row = page.locator("tr", { has: page.locator("td.channel", { hasText: /^barges\.moved$/ }) });
  assert.equal(
    Number(await row.locator("td").nth(3).textContent()),
    inside.filter((i) => run.channelName(i) === "barges.moved" && !run.isPost(i)).length,
  );
  await view(page, "Events");
  await eventually("its events", async () =>
    (await page.textContent("main .faint")).startsWith(`${inside.length} events`),
  );
  await view(page, "Map");
  await page.waitForSelector("svg.map [role=button]");
  const routes = JSON.parse(tool("map", "night.jsonl", "--frames", "30:39", "--json").out);
  assert.deepEqual(run.routes({ first_frame: 30, last_frame: 39 }), routes);
  // Dragged to twice as many frames.
  const canvas = page.locator("section.time canvas");
  const box = await canvas.boundingBox();
  const at = (frame) => box.x + (frame / run.frames) * box.width;
  await page.mouse.move(at(40), box.y + 30);
  await page.mouse.down();
  await page.mouse.move(at(50), box.y + 30, { steps: 4 });
  await page.mouse.up();
  await eventually("more frames", async () => /frames 30 to (49|50)/.test(await page.textContent("section.time")));
  await page.goBack();
  await page.waitForSelector("main[aria-label=Events]");
  await page.locator("section.time canvas").focus();
  await page.keyboard.press("Home");
  await eventually("all events", async () => (await page.textContent("main .faint")).startsWith(`${run.count} events`));
  assert.deepEqual(page.faults, []);
});

test("the map fits with its groups closed, opens one, and shows a path", async () => {
  const page = await open(`file://${path.resolve("night.html")}#view=Map`);
  const box = (name) => page.locator(`svg.map g[aria-label^='${name}']`);
  await box("group bell (").waitFor();
  const whole = await page.locator("svg.map").boundingBox();
  for (const node of await page.locator("svg.map g[role=button]").all()) {
    const { x, width } = await node.boundingBox();
    assert.ok(x >= whole.x && x + width <= whole.x + whole.width, await node.getAttribute("aria-label"));
  }
  const small = await page.evaluate(() =>
    Math.min(...[...document.querySelectorAll("svg.map text")].map((t) => t.getBoundingClientRect().height)),
  );
  assert.ok(small >= 11, `text is ${small} pixels high`);
  await box("group bell (").dblclick();
  await box("channel bell.ring").first().click();
  await box("group sound.cpp (").click({ modifiers: ["Shift"] });
  await page.waitForSelector("section[aria-label=Neighbours] p:has-text('→')");
  await page.keyboard.press("f");
  await page.fill("dialog input", "lookout dang");
  await page.keyboard.press("Enter");
  await page.waitForSelector("main[aria-label=Events]");
  assert.equal(await page.inputValue("header input[aria-label=Channel]"), "lookout.danger");
  assert.deepEqual(page.faults, []);
});
