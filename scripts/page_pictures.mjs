// Pictures of the page's views, for scripts/screenshots. Usage: node page_pictures.mjs PAGE DISPLAY FOLDER
import { chromium } from "playwright-core";

const [address, display, folder] = process.argv.slice(2);
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const shot = async (name) => {
  await page.screenshot({ path: `${folder}/${name}.png` });
  console.log(`${folder}/${name}.png`);
};
await page.goto(display);
const inStorm = async () =>
  (await page.textContent("[data-value='watch.phase']")) === "storm" &&
  (await page.locator(".wyrm:not(.gone)").count()) > 0 &&
  (await page.locator("#barges g").count()) > 1;
for (let tries = 0; tries < 600 && !(await inStorm()); ++tries) await page.waitForTimeout(50);
await page.click("[data-bell='south bell']");
await page.waitForTimeout(700);
await shot("display");
await page.goto(address);
await page.waitForTimeout(4000);
await shot("page_now");
await page.keyboard.press("p");
await page.keyboard.press("2");
await page.fill("header input[aria-label=Channel]", "hoist.raised");
await page.waitForTimeout(400);
await page.locator(".line").first().click();
await page.fill("header input[aria-label=Channel]", "");
await page.fill("input[aria-label=Party]", "horn");
await page.fill("input[aria-label='On channel']", "weather.thundered");
await page.click("button:has-text('Why not?')");
await page.waitForTimeout(400);
await shot("page_events");
await page.keyboard.press("Escape");
await page.click("nav button:has-text('Lanes')");
await page.click("button:has-text('Its frame')");
for (let i = 0; i < 2; ++i) await page.click("button[aria-label='Zoom out']");
await page.waitForTimeout(400);
await shot("page_lanes");
await page.click("section.time button:has-text('All')");
await page.click("nav button:has-text('Map')");
await page.waitForTimeout(900);
await page.locator("svg.map g[aria-label^='group wyrms (']").click();
await page.locator("svg.map g[aria-label^='group sound.cpp (']").click({ modifiers: ["Shift"] });
await page.waitForTimeout(300);
await shot("page_map");
await page.keyboard.press("Escape");
await page.keyboard.press("p");
// Each night counts its own wires; this is late in one of 240 frames.
for (let tries = 0; tries < 100; ++tries) {
  const shown = await page.locator("header").textContent();
  const frame = Number(/frame ([\d,]+)/.exec(shown)?.[1].replaceAll(",", "")) % 240;
  if (frame > 150 && frame < 200) break;
  await page.waitForTimeout(200);
}
await page.click("nav button:has-text('Wiring')");
await page.waitForTimeout(700);
const maker = page.locator("form[aria-label='New wire']");
await maker.getByLabel("name", { exact: true }).fill("note of moves");
await maker.getByLabel("cause").selectOption("barges.moved");
await maker.getByLabel("reaction").selectOption("board.note");
await maker.getByLabel("text", { exact: true }).fill("barge {barge} has moved");
await page.waitForTimeout(400);
await shot("page_wiring");
await browser.close();
