// The page: what it shows is a live game's run, or a recording that it holds.
import { render } from "preact";
import { useEffect, useRef, useState } from "preact/hooks";
import plotStyle from "uplot/dist/uPlot.min.css";
import style from "./style.css";
import packedTeller from "./teller.wasm.gz";
import { Live } from "./model/live.js";
import { noFilter, openTeller, Run } from "./model/run.js";
import { Header } from "./parts/header.js";
import { Help } from "./parts/help.js";
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

function Page() {
  const [source, setSource] = useState(null);
  const [failure, setFailure] = useState("");
  const [view, setView] = useState(names[0]);
  const [filter, setFilter] = useState(noFilter);
  const [selected, setSelected] = useState(0); // an event's number
  const [paused, setPaused] = useState(false);
  const [help, setHelp] = useState(false);
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
  }, []);

  useEffect(() => {
    const key = (event) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const typing = /INPUT|TEXTAREA|SELECT/.test(event.target.tagName);
      if (event.key === "Escape") {
        setHelp(false);
        event.target.blur?.();
      } else if (!typing && names[event.key - 1]) setView(names[event.key - 1]);
      else if (!typing && event.key === "p") setPaused((p) => !p);
      else if (!typing && event.key === "?") setHelp((h) => !h);
      else if (!typing && event.key === "/") {
        event.preventDefault();
        document.querySelector("header input")?.focus();
      }
    };
    addEventListener("keydown", key);
    return () => removeEventListener("keydown", key);
  }, []);

  if (failure) return <main><p class="wrong">The page cannot be shown: {failure}</p></main>;
  if (!source) return <main><p>Reading…</p></main>;
  const { run } = source;
  const show = (where, what = {}) => {
    if (what.event !== undefined) setSelected(what.event);
    if (what.filter) setFilter({ ...noFilter, ...what.filter });
    setView(where);
  };
  const View = views[view];
  const shared = { run, live: source.live, findings: source.findings, about: source.about, filter, setFilter, passes: run.passer(filter), selected, setSelected, paused, show };
  return (
    <>
      <Header {...shared} setPaused={setPaused} setHelp={setHelp} />
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
    </>
  );
}

const sheet = document.createElement("style");
sheet.textContent = plotStyle + style;
document.head.append(sheet);
render(<Page />, document.getElementById("page"));
