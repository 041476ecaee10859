// SPDX-License-Identifier: MIT
// A live game: its stream, what it is asked, and what it answers.
const mostWaiting = 200_000; // lines, while the page is paused
const mostEvents = 200_000;

export class Live {
  constructor(run, changed) {
    this.run = run;
    run.beginLive();
    this.state = "connecting"; // live, broken, over, failed
    this.token = this.readToken();
    this.changed = changed;
    this.waiting = []; // what has come, and is not taken yet
    this.isPaused = false;
  }

  // It comes behind a '#', which no server is told, and stays for this window.
  readToken() {
    const given = new URLSearchParams(location.hash.slice(1)).get("token");
    if (given) {
      sessionStorage.setItem("courier token", given);
      history.replaceState(null, "", location.pathname + location.search);
    }
    return given ?? sessionStorage.getItem("courier token") ?? "";
  }
  setToken(token) {
    this.token = token;
    sessionStorage.setItem("courier token", token);
  }

  follow() {
    const stream = new EventSource("/run");
    const set = (state) => {
      this.state = state;
      this.changed();
    };
    const take = (message) => {
      this.waiting.push([message.lastEventId.split("-")[0], message.data]);
      if (this.waiting.length > mostWaiting) this.run.missing += this.waiting.splice(0, mostWaiting >> 2).length;
      if (!this.isPaused) this.takeSoon();
    };
    stream.onopen = () => set("live");
    stream.onerror = () => set(this.state === "over" ? "over" : "broken"); // it tries again by itself
    stream.onmessage = take;
    stream.addEventListener("missed", (message) => {
      this.run.missing += JSON.parse(message.data).data.events;
    });
    stream.addEventListener("over", () => {
      stream.close();
      set("over");
    });
    this.stream = stream;
  }
  takeSoon() {
    this.timer ??= setTimeout(() => this.takeWaiting(), 50);
  }
  // While it is paused, what comes waits.
  pause(isPaused) {
    this.isPaused = isPaused;
    if (!isPaused && this.waiting.length) this.takeSoon();
  }
  takeWaiting() {
    this.timer = undefined;
    if (this.isPaused) return;
    const lines = this.waiting;
    this.waiting = [];
    let some = [];
    for (const [from, line] of lines) {
      if (this.from && from && this.from !== from) {
        // the game was started anew
        this.run.beginLive();
        some = [];
      }
      this.from = from || this.from;
      some.push(line);
    }
    try {
      this.run.takeLines(some, mostEvents);
    } catch (error) {
      // nothing of the run can be relied on any more
      this.stream.close();
      this.failure = String(error.message ?? error);
      this.state = "failed";
    }
    this.changed();
  }

  async get(path) {
    const got = await fetch(path, this.token ? { headers: { Authorization: `Bearer ${this.token}` } } : {});
    if (!got.ok) throw new Error((await got.json()).detail);
    return got.json();
  }
  // {status, body}; a refusal is an answer, too.
  async post(path, body) {
    const got = await fetch(path, {
      method: "POST",
      headers: { "Content-Type": "application/json", Authorization: `Bearer ${this.token}` },
      body: JSON.stringify(body),
    });
    return { status: got.status, body: await got.json() };
  }
}
