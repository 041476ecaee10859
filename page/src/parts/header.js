// SPDX-License-Identifier: MIT
// What is seen at all times: whose run it is, and what of it is looked at.

const states = {
  live: "live",
  connecting: "connecting",
  broken: "no connection, trying again",
  over: "the game has ended",
  failed: "what came cannot be read",
};

function switchLight() {
  const root = document.documentElement;
  const isDark = root.dataset.light
    ? root.dataset.light === "dark"
    : matchMedia("(prefers-color-scheme: dark)").matches;
  root.dataset.light = isDark ? "light" : "dark";
  dispatchEvent(new Event("resize"));
}

export function Header({ run, live, about, filter, setFilter, paused, setPaused, setHelp, setFinding }) {
  const change = (name) => (event) => setFilter({ ...filter, [name]: event.target.value });
  const all = run.about;
  const phases = all.phases.flatMap((set) => set.phases.map((phase) => `${set.name}: ${phase}`));
  const missing = run.missing + all.skipped;
  const state = live ? (about.run ? live.state : "over") : "recording";
  return (
    <header>
      <h1>
        <span class={`lamp ${state}`} />
        {all.source || about.name || "Wired Courier"}
      </h1>
      <span class="faint" role="status">
        {live
          ? about.run
            ? states[live.state] + (live.failure ? `: ${live.failure}` : "")
            : "no ledger is shown"
          : all.file}
        , frame {all.frames}, {(run.count + all.forgotten).toLocaleString("en")} events
        {missing > 0 && <span class="wrong"> ({missing.toLocaleString("en")} not here)</span>}
      </span>
      <span class="grow" />
      <input
        type="search"
        placeholder="who"
        aria-label="Who"
        size="11"
        list="parties"
        value={filter.party}
        onInput={change("party")}
      />
      <input
        type="search"
        placeholder="channel"
        aria-label="Channel"
        size="14"
        list="channels"
        value={filter.channel}
        onInput={change("channel")}
      />
      <input
        type="search"
        placeholder="address"
        aria-label="Address"
        size="7"
        class="wide"
        value={filter.address}
        onInput={change("address")}
      />
      {phases.length > 0 && (
        <select aria-label="Phase" class="wide" value={filter.phase} onChange={change("phase")}>
          <option value="">any phase</option>
          {phases.map((p) => (
            <option key={p}>{p}</option>
          ))}
        </select>
      )}
      {live && (
        <button aria-pressed={paused} onClick={() => setPaused(!paused)}>
          {paused ? "Go on" : "Pause"}
        </button>
      )}
      <button onClick={() => setFinding(true)}>
        Find <kbd aria-hidden="true">f</kbd>
      </button>
      <button onClick={switchLight} aria-label="Light or dark">
        ◐
      </button>
      <button onClick={() => setHelp(true)} aria-label="Keys">
        ?
      </button>
      <datalist id="parties">
        {all.parties.map((p) => (
          <option key={p} value={p} />
        ))}
      </datalist>
      <datalist id="channels">
        {all.channels.map((c) => (
          <option key={c.name} value={c.name} />
        ))}
      </datalist>
    </header>
  );
}
