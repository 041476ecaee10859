// SPDX-License-Identifier: MIT
// The page: what it shows is a live game's run, or a recording that it holds.
import { render } from "preact";
import { useEffect, useRef, useState } from "preact/hooks";
import { Live } from "./model/live.js";
import { placeIn, placeOf } from "./model/place.js";
import { noFilter, openTeller, Run } from "./model/run.js";
import { Finder } from "./parts/finder.js";
import { Header } from "./parts/header.js";
import { Help } from "./parts/help.js";
import { TimeLine } from "./parts/time_line.js";
import style from "./style.css";
import packedTeller from "./teller.wasm.gz";
import { Actions } from "./views/actions.js";
import { Events } from "./views/events.js";
import { Findings } from "./views/findings.js";
import { Lanes } from "./views/lanes.js";
import { RouteMap } from "./views/map.js";
import { Now } from "./views/now.js";
import { Parties } from "./views/parties.js";
import { Wiring } from "./views/wiring.js";

const views = { Now, Events, Lanes, Map: RouteMap, Parties, Findings, Wiring, Actions };
const names = Object.keys(views);

function bytesIn(element) {
  const text = element.textContent;
  const made = new Uint8Array((text.length >> 2) * 3 - (text.endsWith("==") ? 2 : text.endsWith("=") ? 1 : 0));
  const chunk = 1 << 20; // a multiple of four
  for (let at = 0, to = 0; at < text.length; at += chunk) {
    const some = atob(text.slice(at, at + chunk));
    for (let i = 0; i < some.length; ++i) made[to++] = some.charCodeAt(i);
  }
  return made;
}

async function unpacked(bytes) {
  const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream("gzip"));
  return new Uint8Array(await new Response(stream).arrayBuffer());
}

// Where the run comes from: inside of the page, from a server with a recording, or live.
async function open(changed) {
  const inside = document.getElementById("recording");
  const run = new Run(await openTeller(await unpacked(packedTeller)));
  if (inside) {
    run.openImage(await unpacked(Uint8Array.fromBase64 ? Uint8Array.fromBase64(inside.textContent) : bytesIn(inside)));
    inside.remove();
    const findings = JSON.parse(document.getElementById("findings").textContent);
    return { run, live: null, findings: async () => findings, about: { name: "", run: true, wiring: false } };
  }
  const about = await (await fetch("/about")).json();
  const findings = async () => (await fetch("/findings")).json();
  if (!about.live) {
    run.openImage(await unpacked(new Uint8Array(await (await fetch("/recording")).arrayBuffer())));
    return { run, live: null, findings, about };
  }
  const live = new Live(run, changed);
  if (about.run) live.follow();
  return { run, live, findings: () => live.get("/findings"), about };
}

const begin = { view: names[0], filter: noFilter, selected: 0, stretch: null, follow: false };
const liveSpan = 120; // frames that a view follows, unless a stretch was chosen

function Page() {
  const [source, setSource] = useState(null);
  const [failure, setFailure] = useState("");
  const [place, setPlace] = useState(() => placeOf(location.hash, begin, names)); // what is looked at
  const [paused, setPaused] = useState(false);
  const [help, setHelp] = useState(false);
  const [finding, setFinding] = useState(false);
  const [, redraw] = useState(0);
  const now = useRef({ asked: false });
  useEffect(() => source?.live?.pause(paused), [source, paused]);

  useEffect(() => {
    // As often as the screen can show it.
    const changed = () => {
      if (now.current.asked) return;
      now.current.asked = true;
      requestAnimationFrame(() => {
        now.current.asked = false;
        redraw((n) => n + 1);
      });
    };
    open(changed).then(setSource, (error) => setFailure(String(error.message ?? error)));
    const back = () => setPlace(placeOf(location.hash, begin, names));
    addEventListener("popstate", back);
    return () => removeEventListener("popstate", back);
  }, []);
  // Back and forward go from view to view and from event to event; all else changes the address of where one is.
  useEffect(() => {
    const hash = placeIn(place);
    if (!source || hash === location.hash) return;
    const was = placeOf(location.hash, begin, names);
    const url = hash || location.pathname + location.search;
    if (was.view === place.view && was.selected === place.selected) history.replaceState(null, "", url);
    else history.pushState(null, "", url);
  }, [source, place]);

  const change = (how) => setPlace((was) => ({ ...was, ...how }));
  const setView = (view) => change({ view });
  useEffect(() => {
    const key = (event) => {
      const isFind = event.key === "k" && (event.ctrlKey || event.metaKey);
      if (isFind) event.preventDefault();
      if (isFind) setFinding(true);
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const typing = /INPUT|TEXTAREA|SELECT/.test(event.target.tagName);
      if (event.key === "Escape") {
        setHelp(false);
        event.target.blur?.();
      } else if (!typing && names[event.key - 1]) setView(names[event.key - 1]);
      else if (!typing && event.key === "p") setPaused((p) => !p);
      else if (!typing && event.key === "?") setHelp((h) => !h);
      else if (!typing && event.key === "f") {
        event.preventDefault();
        setFinding(true);
      } else if (!typing && event.key === "/") {
        event.preventDefault();
        document.querySelector("header input")?.focus();
      }
    };
    addEventListener("keydown", key);
    return () => removeEventListener("keydown", key);
  }, []);

  if (failure)
    return (
      <main>
        <p class="wrong">The page cannot be shown: {failure}</p>
      </main>
    );
  if (!source)
    return (
      <main>
        <p>Reading…</p>
      </main>
    );
  const { run, live } = source;
  const { view, selected } = place;
  const follow = Boolean(live) && place.follow && !paused;
  const span = place.stretch ? place.stretch.last - place.stretch.first : liveSpan;
  const stretch = follow
    ? { first: Math.max(run.about.first_frame, run.frames - span), last: run.frames }
    : place.stretch;
  const filter = stretch
    ? { ...place.filter, first_frame: Math.floor(stretch.first), last_frame: Math.ceil(stretch.last) - 1 }
    : place.filter;
  const setSelected = (id) => change({ selected: id });
  const show = (where, what = {}) => {
    const next = { view: where };
    if (what.event !== undefined) {
      const at = run.find(what.event);
      const frame = at < 0 ? -1 : run.get(at, "frame");
      next.selected = what.event;
      if (stretch && (frame < stretch.first || frame >= stretch.last))
        Object.assign(next, { stretch: null, follow: false }); // or it would not be seen
    }
    if (what.filter) next.filter = { ...noFilter, ...what.filter };
    change(next);
  };
  const setStretch = (chosen) => change({ stretch: chosen, follow: false });
  const setFollow = (on) => change({ follow: on, stretch });
  const View = views[view];
  const shared = {
    run,
    live,
    findings: source.findings,
    about: source.about,
    filter,
    passes: run.passer(filter),
    named: place.filter,
    setFilter: (f) => change({ filter: f }),
    stretch,
    setStretch,
    selected,
    setSelected,
    paused,
    show,
  };
  return (
    <>
      <Header {...shared} filter={place.filter} setPaused={setPaused} setHelp={setHelp} setFinding={setFinding} />
      <TimeLine
        run={run}
        live={live}
        filter={place.filter}
        shown={stretch}
        setStretch={setStretch}
        follow={follow}
        setFollow={setFollow}
        selected={selected}
        paused={paused}
      />
      <nav aria-label="Views">
        {names.map((name, i) => (
          <button key={name} aria-current={name === view ? "page" : undefined} onClick={() => setView(name)}>
            {name} <kbd aria-hidden="true">{i + 1}</kbd>
          </button>
        ))}
      </nav>
      <main aria-label={view}>
        <View {...shared} />
      </main>
      {help && <Help close={() => setHelp(false)} />}
      {finding && (
        <Finder
          run={run}
          names={names}
          show={show}
          live={live}
          paused={paused}
          setPaused={setPaused}
          close={() => setFinding(false)}
        />
      )}
    </>
  );
}

const sheet = document.createElement("style");
sheet.textContent = style;
document.head.append(sheet);
render(<Page />, document.getElementById("page"));
