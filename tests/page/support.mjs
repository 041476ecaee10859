// The tool as a process, and a browser.
import { spawn, spawnSync } from "node:child_process";
import { readFileSync } from "node:fs";
import net from "node:net";
import { gunzipSync } from "node:zlib";
import { chromium } from "playwright-core";
import { openTeller, Run } from "./src/model/run.js";

export const courier = process.env.COURIER;

export function tool(...args) {
  const made = spawnSync(courier, args, { encoding: "utf8", timeout: 30000, maxBuffer: 1 << 28 });
  return { code: made.status, out: made.stdout, error: made.stderr };
}

// Starts a command that tells an address, and waits for that.
export function start(...args) {
  return new Promise((resolve, reject) => {
    const child = spawn(courier, args, { stdio: ["ignore", "pipe", "inherit"] });
    let out = "";
    process.on("exit", () => child.kill("SIGKILL"));
    child.stdout.on("data", (bytes) => {
      out += bytes;
      const page = /(http:\/\/[^ \n]*page[^ \n]*)\n/.exec(out)?.[1];
      const top = /(http:\/\/[^ \n]*\/#token=[^ \n]*)\n/.exec(out)?.[1];
      if (page && out.includes("Ctrl-C"))
        resolve({ page, top, port: Number(new URL(page).port), token: page.split("token=")[1], end: () => end(child) });
    });
    child.on("exit", (code) => reject(new Error(`it ended with ${code}: ${out}`)));
    setTimeout(() => reject(new Error(`no address: ${out}`)), 15000).unref();
  });
}
function end(child) {
  return new Promise((resolve) => {
    child.removeAllListeners("exit");
    child.on("exit", (code) => resolve(code));
    child.kill("SIGINT");
  });
}

let browser;
let latest; // one page at a time, so that none of them keeps another from the machine
export async function open(url, options = {}) {
  browser ??= await chromium.launch({
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
  await latest?.close();
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...options });
  latest = context;
  const page = await context.newPage();
  page.setDefaultTimeout(15000);
  page.faults = [];
  page.requests = [];
  page.on("pageerror", (error) => page.faults.push(error.stack));
  page.on("request", (request) => page.requests.push(request.url()));
  await page.goto(url);
  await page.waitForSelector("nav, #reef");
  return page;
}
export async function closeBrowser() {
  await browser?.close();
  browser = latest = undefined;
}

export const view = (page, name) => page.click(`nav button:has-text("${name}")`);
export async function eventually(what, test, tries = 100) {
  for (let i = 0; i < tries; ++i) {
    if (await test()) return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error(`it never came: ${what}`);
}

// Stands between a browser and a gateway, and can break every connection.
export function between(port) {
  const sockets = new Set();
  let isBroken = false;
  const server = net.createServer((from) => {
    if (isBroken) return from.destroy();
    const to = net.connect(port, "127.0.0.1");
    const own = `127.0.0.1:${server.address().port}`;
    for (const one of [from, to]) {
      sockets.add(one);
      one.on("error", () => {});
      one.on("close", () => {
        from.destroy();
        to.destroy();
        sockets.delete(one);
      });
    }
    from.on("data", (bytes) =>
      to.write(Buffer.from(bytes.toString("latin1").replaceAll(own, `127.0.0.1:${port}`), "latin1")),
    );
    to.pipe(from);
  });
  return new Promise((resolve) =>
    server.listen(0, "127.0.0.1", () =>
      resolve({
        port: server.address().port,
        breakAll() {
          isBroken = true;
          for (const one of sockets) one.destroy();
        },
        mend() {
          isBroken = false;
        },
        close() {
          this.breakAll();
          server.close();
        },
      }),
    ),
  );
}

// The report's document, and the run that is in it.
export function reportOf(recording) {
  const document = recording.replace(/jsonl$/, "html");
  const made = tool("report", recording, "-o", document);
  if (made.code !== 0) throw new Error(made.error);
  return document;
}
export async function runIn(document) {
  const inside = /id="recording">([^<]*)</.exec(readFileSync(document, "utf8"))[1];
  const run = new Run(await openTeller(gunzipSync(readFileSync("src/teller.wasm.gz"))));
  run.openImage(gunzipSync(Buffer.from(inside, "base64")));
  return run;
}
