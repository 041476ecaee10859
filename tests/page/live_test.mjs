// The page on a live game.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { after, before, test } from "node:test";
import { between, closeBrowser, eventually, open, start, view } from "./support.mjs";

let game;
before(async () => {
  game = await start(
    "demo",
    "--serve",
    "--pace",
    "60",
    "--frames",
    "600",
    "--wiring",
    "reef.toml",
    "--folder",
    process.env.HUD,
  );
});
after(async () => {
  await closeBrowser();
  assert.equal(await game.end(), 0);
});

const eventsOf = async (page) =>
  Number((await page.textContent("header [role=status]")).match(/([\d,]+) events/)[1].replaceAll(",", ""));

test("values move while the game runs, and stand still while the page is paused", async () => {
  const page = await open(game.page);
  await page.waitForSelector("td.channel:has-text('barges.moved')");
  const row = page.locator("tr", { has: page.locator("td.channel", { hasText: /^barges\.moved$/ }) });
  const published = async () => Number((await row.locator("td").nth(3).textContent()).replaceAll(",", ""));
  const first = await published();
  await eventually("more publishes", async () => (await published()) > first + 3);
  await page.keyboard.press("p");
  await page.waitForTimeout(300);
  const paused = await published();
  await page.waitForTimeout(700);
  assert.equal(await published(), paused);
  await page.keyboard.press("p");
  await eventually("it goes on", async () => (await published()) > paused);
  assert.ok(!(await page.url()).includes("token"), "the token does not stay in the address");
  assert.deepEqual(page.faults, []);
});

test("an action sent from the page changes the game", async () => {
  const page = await open(game.page);
  await view(page, "Actions");
  const form = page.locator("form[aria-label='bell.ring']");
  await form.locator("select").selectOption("south bell");
  await form.locator("input").fill("7");
  await form.locator("button").click();
  await eventually("an answer", async () => (await form.locator("[role=status]").textContent()).startsWith("done"));
  await page.fill("header input[aria-label=Channel]", "bell.ring");
  await view(page, "Events");
  await page.waitForTimeout(1500);
  await page.click("header button:has-text('Pause')"); // or the line moves away, on a slow machine before it is seen
  await page.locator("[role=listbox]").focus();
  await eventually("the event", async () => {
    const isSeen = (await page.locator(".line", { hasText: '{"strokes":7}' }).count()) > 0;
    if (!isSeen) await page.keyboard.press("PageUp");
    return isSeen;
  });
  await page.locator(".line", { hasText: '{"strokes":7}' }).first().click();
  await page.waitForSelector("section[aria-label=Event] :text('POST /actions/bell.ring')");
  assert.deepEqual(page.faults, []);
});

test("what does not fit is told at the form, and a wrong token is refused", async () => {
  const page = await open(game.page.split("#")[0] + "#token=wrong");
  await view(page, "Actions");
  const form = page.locator("form[aria-label='horn.sound']");
  await form.locator("button").click();
  await eventually("a refusal", async () =>
    (await form.locator(".wrong").allTextContents()).join().includes("Authorization: Bearer"),
  );
  const got = await fetch(`http://127.0.0.1:${game.port}/actions/horn.sound`, {
    method: "POST",
    headers: { "Content-Type": "application/json", Authorization: `Bearer ${game.token}` },
    body: '{"parameters":{"how":"lound"}}',
  });
  assert.equal(got.status, 422);
  assert.equal((await got.json()).errors[0].pointer, "#/parameters/how");
});

test("a wire made on the page fires and is in the file", async () => {
  const page = await open(game.page);
  await view(page, "Wiring");
  const maker = page.locator("form[aria-label='New wire']");
  await maker.getByLabel("name", { exact: true }).fill("from the page");
  await maker.getByLabel("cause").selectOption("barges.moved");
  await maker.getByLabel("only if").selectOption("barge");
  await maker.getByLabel("value", { exact: true }).fill("2");
  await maker.getByLabel("and if 2").selectOption("to_go");
  await maker.getByLabel("test 2").selectOption("at_least");
  await maker.getByLabel("value 2").fill("0");
  await maker.getByLabel("reaction").selectOption("board.note");
  await maker.getByLabel("text", { exact: true }).fill("4 barges, {barge} has moved");
  await maker.getByLabel("then 2").selectOption("board.note");
  await maker.getByLabel("text 2").fill("and another");
  await maker.getByLabel("times").fill("500");
  await maker.getByText("Run it once").click();
  await eventually("it was tried", async () =>
    /conditions did not hold|it fired/.test(await page.textContent("main [role=status]")),
  );
  await maker.getByText("Add it to the file").click();
  await eventually("the file is right", async () =>
    (await page.locator("section .good[role=status]").allTextContents()).includes("right"),
  );
  await page.getByText("Save", { exact: true }).click();
  await eventually("it is saved", async () => (await page.textContent("main [role=status]")).includes("1 new"));
  await eventually(
    "it fires",
    async () => {
      const row = page.locator("tr", { hasText: "from the page" }).locator("td.number").first();
      return (await row.count()) > 0 && Number(await row.textContent()) > 0;
    },
    200,
  );
  const file = readFileSync("reef.toml", "utf8");
  assert.match(
    file,
    /name = "from the page"\nwhen = "barges\.moved"\nif = \{ "barge" = 2, "to_go" = \{ at_least = 0 \} \}\ntimes = 500\ndo = \[\n/,
  );
  assert.ok(file.startsWith("# What happens at Gannet Reef"), "the rest is as it was");
  assert.deepEqual(page.faults, []);
});

test("wires of a file are copied, switched off, removed, and all of that undone, by buttons", async () => {
  const page = await open(game.page);
  await view(page, "Wiring");
  const area = page.getByLabel("Wiring file");
  const wires = page.getByRole("table", { name: "Wires in this file" });
  await wires.waitFor();
  const text = await area.inputValue();
  const first = await wires.locator("tbody tr").first().locator("button").first().textContent();
  const count = await wires.locator("tbody tr").count();
  const becomes = (what, test) => eventually(what, async () => test(await area.inputValue()));
  await page.getByLabel(`Copy ${first}`, { exact: true }).click();
  await becomes("copied", (now) => now.startsWith(text.trimEnd()) && now.includes(`${first}, copied`));
  await eventually("it is listed", async () => (await wires.locator("tbody tr").count()) === count + 1);
  await page.getByLabel(`${first} is on`, { exact: true }).click();
  await becomes("switched off", (now) => now.includes("enabled = false"));
  await eventually(
    "it is unchecked",
    async () => !(await page.getByLabel(`${first} is on`, { exact: true }).isChecked()),
  );
  await page.getByLabel(`Remove ${first}`, { exact: true }).click();
  await becomes("removed", (now) => !now.includes(`name = "${first}"`));
  for (let i = 0; i < 3; ++i) await page.getByText("Undo", { exact: true }).click();
  await becomes("undone", (now) => now === text);
  assert.deepEqual(page.faults, []);
});

test("faults are seen as one types, and what is wrong is not saved", async () => {
  const page = await open(game.page);
  await view(page, "Wiring");
  const area = page.getByLabel("Wiring file");
  await eventually("the file", async () => (await area.inputValue()).length > 100);
  await area.fill((await area.inputValue()).replace('action = "horn.sound"', 'action = "horn.sond"'));
  await page.waitForSelector("ul[aria-label=Faults] :text('horn.sond')");
  assert.ok(await page.getByText("Save", { exact: true }).isDisabled());
  await page.getByText("Undo all").click();
  assert.ok((await area.inputValue()).includes('action = "horn.sound"'));
});

test("a broken connection goes on where it stopped, without loss", async () => {
  const way = await between(game.port);
  const page = await open(`http://127.0.0.1:${way.port}/page`);
  await view(page, "Events");
  await eventually("events", async () => (await eventsOf(page)) > 20);
  const first = Number(await page.locator(".line").first().locator("span").nth(1).textContent());
  for (let round = 0; round < 2; ++round) {
    way.breakAll();
    await page.waitForSelector("header :text('no connection')");
    const then = await eventsOf(page);
    await page.waitForTimeout(1200);
    way.mend();
    await eventually("it goes on", async () => (await eventsOf(page)) > then + 50);
  }
  await page.keyboard.press("p");
  await page.waitForTimeout(300);
  assert.ok(!(await page.textContent("header [role=status]")).includes("not here"));
  const list = page.locator("[role=listbox]");
  await list.focus();
  await page.keyboard.press("Home");
  const oldest = Number(await page.locator(".line").first().locator("span").nth(1).textContent());
  await page.keyboard.press("End");
  await page.waitForTimeout(200);
  const newest = Number(await page.locator(".line").last().locator("span").nth(1).textContent());
  assert.ok(oldest <= first);
  assert.equal(newest - oldest + 1, await eventsOf(page), "each event's number is there");
  way.close();
});

test("everything is within reach of the keyboard", async () => {
  const page = await open(game.page);
  await page.keyboard.press("2");
  await page.waitForSelector("main[aria-label=Events]");
  await page.keyboard.press("p");
  await page.locator("[role=listbox]").focus();
  await page.keyboard.press("ArrowUp");
  await page.keyboard.press("ArrowUp");
  await page.waitForSelector("section[aria-label=Event]");
  await page.keyboard.press("3");
  await page.waitForSelector("main canvas");
  await page.locator("main canvas").focus();
  const before = await page.textContent("main .faint");
  await page.keyboard.press("+");
  await eventually("it zooms", async () => (await page.textContent("main .faint")) !== before);
  await page.keyboard.press("4");
  await page.locator("svg.map g[role=button]").first().focus();
  await page.keyboard.press("Enter");
  await page.waitForSelector("section[aria-label=Neighbours] li");
  await page.keyboard.press("/");
  await page.keyboard.type("lamp");
  assert.equal(await page.inputValue("header input[aria-label=Who]"), "lamp");
  await page.keyboard.press("Escape");
  await page.keyboard.press("?");
  await page.waitForSelector("dialog[open]");
  await page.keyboard.press("Escape");
  // From one control to the next, and into each of them.
  await page.keyboard.press("8");
  const reached = new Set();
  for (let i = 0; i < 60; ++i) {
    await page.keyboard.press("Tab");
    reached.add(
      await page.evaluate(() => document.activeElement.tagName + document.activeElement.textContent.slice(0, 12)),
    );
  }
  assert.ok([...reached].some((one) => one.startsWith("BUTTONDo it")));
  assert.deepEqual(page.faults, []);
});

test("every view fits a phone", async () => {
  const page = await open(game.page, { viewport: { width: 390, height: 844 } });
  for (const name of ["Now", "Events", "Lanes", "Map", "Parties", "Findings", "Wiring", "Actions"]) {
    await view(page, name);
    await page.waitForTimeout(250);
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    assert.ok(wide <= 390, `${name} is ${wide} wide`);
  }
  assert.deepEqual(page.faults, []);
});

test("the display of one's own draws the reef, rings a bell, and says what is wrong", async () => {
  const page = await open(game.top);
  const x = async () => (await page.locator("#barges g[aria-label='barge 1']").getAttribute("transform")) ?? "";
  await eventually("barges", async () => (await page.locator("#barges g").count()) > 0, 200);
  await eventually("live", async () => (await page.textContent("#connection")) === "live");
  const before = await x();
  await eventually("it moves", async () => (await x()) !== before, 200);
  await page.click("[data-bell='south bell']");
  await eventually("it rang", async () => (await page.textContent("#answer")) === "The south bell rang.");
  assert.deepEqual(page.faults, []);
  const spoil = (file, from, to, contentType) =>
    page.route(file, async (route) => {
      const text = await (await route.fetch()).text();
      assert.ok(text.includes(from));
      await route.fulfill({ body: text.replace(from, to), contentType });
    });
  await spoil((url) => url.pathname === "/", 'data-value="board.lost"', 'data-value="board.losst"', "text/html");
  await page.reload();
  const lost = () => page.textContent("[data-value='board.losst']");
  await eventually("the wrong value", async () => /board\.losst.*did you mean 'board\.lost'/s.test(await lost()));
  await spoil("**/hud.js", "lampLit", "lampLitt", "text/javascript");
  await page.reload();
  await eventually("the wrong name", async () => /lampLitt/.test(await page.textContent("#connection")));
});

test("an input is bound to a value both ways by one attribute", async () => {
  const page = await open(game.top);
  const asked = [];
  const lamp = (value) => `data: {"subject":"lamp.speed","type":"wired-courier.value","data":{"value":${value}}}\n\n`;
  const top = game.top.split("#")[0];
  await page.route(`${top}lamp`, (route) =>
    route.fulfill({
      contentType: "text/html",
      body: '<input data-value="lamp.speed"><b data-value="lamp.speed"></b><script type="module" src="/client.js"></script>',
    }),
  );
  await page.route("**/client.js", async (route) => {
    const text = await (await route.fetch()).text();
    const known = text
      .replace("values = [", 'values = ["lamp.speed",')
      .replace("settable = [", 'settable = ["lamp.speed",');
    await route.fulfill({ body: known, contentType: "text/javascript" });
  });
  await page.route("**/events?*", (route) => route.fulfill({ body: lamp(3), contentType: "text/event-stream" }));
  await page.route("**/actions/*", (route) => {
    asked.push([decodeURIComponent(route.request().url().split("/").pop()), route.request().postDataJSON()]);
    return asked.length === 1
      ? route.fulfill({ json: { done: true } })
      : route.fulfill({ status: 409, json: { detail: "the lamp is out" } });
  });
  await page.goto(`${top}lamp`);
  await eventually("the value", async () => (await page.inputValue("input")) === "3");
  assert.equal(await page.textContent("b"), "3");
  await page.fill("input", "8");
  await eventually("the call", () => asked.length === 1);
  assert.deepEqual(asked[0], ["set lamp.speed", { parameters: { value: 8 } }]);
  await page.fill("input", "9");
  await eventually("the reason", async () => (await page.getAttribute("input", "title")) === "the lamp is out");
  assert.equal(await page.inputValue("input"), "3");
});
