// SPDX-License-Identifier: MIT
// The wires in force, and their files: looked at, picked together, tried, and saved.
import { useEffect, useRef, useState } from "preact/hooks";
import { Token } from "../parts/token.js";
import { WireMaker } from "../parts/wire_maker.js";

function Wires({ wires, tryIt, goTo }) {
  return (
    <table>
      <thead>
        <tr>
          <th>wire</th>
          <th>cause</th>
          <th class="number">fired</th>
          <th class="number">failed</th>
          <th>line</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {wires.map((w) => (
          <tr key={w.file + w.line + w.name} class={w.live ? "" : "faint"}>
            <td>
              {w.name}
              {!w.live && !w.waits_for_cause && " (off)"}
              {w.waits_for_cause && <span class="wrong"> waits for its cause</span>}
              {w.waits_for_target && <span class="wrong"> waits for its object</span>}
            </td>
            <td class="channel">
              {w.cause}
              {w.target && ` of ${w.target}`}
            </td>
            <td class="number">
              {w.caused}
              {w.otherwise > 0 && ` + ${w.otherwise} else`}
            </td>
            <td class={`number ${w.failures ? "wrong" : ""}`} title={w.last_failure}>
              {w.failures}
            </td>
            <td>
              <button class="code" onClick={() => goTo(w)}>
                {w.file.split("/").pop()}:{w.line}
              </button>
            </td>
            <td>
              <button style="white-space:nowrap" onClick={() => tryIt(w.name)}>
                Try once
              </button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

// The keys of a wire, as the file has them below its header.
const keysIn = (text) => text.slice(text.indexOf("\n", text.indexOf("[[wire]]")) + 1);

function FileWires({ wires, change, goTo }) {
  const copy = async (wire) => {
    const made = await change({ do: "add", keys: keysIn(wire.text) });
    if (made && wire.name)
      await change({ ...made, do: "set", key: "name", value: JSON.stringify(`${wire.name}, copied`) }, false);
  };
  return (
    <table aria-label="Wires in this file">
      <thead>
        <tr>
          <th>wire in this file</th>
          <th>cause</th>
          <th>on</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {wires.map((w, i) => {
          const name = w.name || `line ${w.line}`;
          return (
            <tr key={w.line} class={w.enabled ? "" : "faint"}>
              <td>
                <button class="code" onClick={() => goTo(w)}>
                  {name}
                </button>
              </td>
              <td class="channel">{w.when}</td>
              <td>
                <input
                  type="checkbox"
                  aria-label={`${name} is on`}
                  checked={w.enabled}
                  onChange={() =>
                    change(
                      w.enabled
                        ? { do: "set", wire: i, key: "enabled", value: "false" }
                        : { do: "erase", wire: i, key: "enabled" },
                    )
                  }
                />
              </td>
              <td style="white-space:nowrap">
                <button aria-label={`Copy ${name}`} onClick={() => copy(w)}>
                  Copy
                </button>{" "}
                <button aria-label={`Remove ${name}`} onClick={() => change({ do: "remove", wire: i })}>
                  Remove
                </button>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const mostUndone = 100;

export function Wiring({ live, about, filter }) {
  const [now, setNow] = useState(null);
  const [file, setFile] = useState("");
  const [text, setText] = useState(null); // as it is edited; null: as it is
  const [past, setPast] = useState([]); // texts before changes by button or form
  const [checked, setChecked] = useState(null);
  const [said, setSaid] = useState("");
  const [, redraw] = useState(0);
  const area = useRef();
  const look = () =>
    live.get("/wiring").then(
      (all) => {
        setNow(all);
        setFile((f) => f || all.files[0]?.file || "");
      },
      (e) => setSaid(String(e.message)),
    );
  useEffect(() => {
    if (!about.wiring) return undefined;
    look();
    const timer = setInterval(look, 1000);
    return () => clearInterval(timer);
  }, []);
  const saved = now?.files.find((f) => f.file === file)?.text ?? "";
  const shown = text ?? saved;
  // Faults are looked for a moment after one has stopped typing.
  useEffect(() => {
    if (!file || !shown || !live.token) return undefined;
    const timer = setTimeout(
      async () => setChecked((await live.post("/wiring/check", { file, text: shown })).body),
      text === null ? 0 : 250,
    );
    return () => clearTimeout(timer);
  }, [shown, file, live?.token]);
  if (!about.wiring)
    return (
      <p class="faint">
        {live
          ? "This game does not expose its wiring; call accept_edits()."
          : "This is a recording; wires are there while a game runs."}
      </p>
    );
  if (!live.token) return <Token live={live} set={redraw} />;
  if (!now) return <p class="faint">{said || "Looking…"}</p>;
  const tell = (got) =>
    setSaid(
      got.body.faults?.length
        ? got.body.faults[0].what
        : (got.body.detail ??
            (got.body.held === false
              ? "its conditions did not hold"
              : got.body.failures
                ? `it failed: ${got.body.last_failure}`
                : "it fired")),
    );
  // One press of Undo takes back all changes from one that is `first` to the next such.
  const change = async (how, first = true) => {
    const got = await live.post("/wiring/change", { file, text: shown, ...how });
    if (got.body.text === undefined) {
      tell(got);
      return null;
    }
    if (first) setPast((all) => [...all, text].slice(-mostUndone));
    setText(got.body.text);
    return got.body;
  };
  const save = async () => {
    const got = await live.post("/wiring/save", { file, was: saved, text });
    if (got.body.saved) {
      setText(null);
      setPast([]);
      setSaid(`saved and in force: ${got.body.added} new, ${got.body.removed} gone, ${got.body.kept} kept`);
      look();
    } else tell(got);
  };
  const goTo = (wire) => {
    setFile(wire.file);
    const lines = shown.split("\n");
    const from = lines.slice(0, wire.line - 1).join("\n").length + 1;
    area.current?.focus();
    area.current?.setSelectionRange(from, from + (lines[wire.line - 1] ?? "").length);
    if (area.current) area.current.scrollTop = (wire.line - 4) * 17;
  };
  const faults = checked?.faults ?? [];
  const wires = now.wires.filter((w) => !filter.channel || w.cause.includes(filter.channel));
  return (
    <>
      <div role="status" class={/fail|wrong|not/.test(said) ? "wrong" : "good"}>
        {said}
      </div>
      <div class="columns">
        <div>
          <section class="sheet" style="max-height:46%;overflow:auto">
            <h2>{now.wires.length} wires in force</h2>
            <Wires wires={wires} tryIt={async (name) => tell(await live.post("/wiring/try", { name }))} goTo={goTo} />
            {now.missing.length > 0 && <p class="wrong">objects that are not there: {now.missing.join(", ")}</p>}
          </section>
          {checked?.wires?.length > 0 && (
            <section class="sheet" style="max-height:30%;overflow:auto;margin-top:10px">
              <FileWires wires={checked.wires} change={change} goTo={(w) => goTo({ ...w, file })} />
            </section>
          )}
          {file && (
            <WireMaker
              live={live}
              add={(keys) => change({ do: "add", keys })}
              tryText={async (wire) => tell(await live.post("/wiring/try", { text: wire }))}
            />
          )}
        </div>
        <section class="sheet" style="display:flex;flex-direction:column;gap:6px">
          {now.files.length === 0
            ? <p class="faint">The wiring in force is part of the program and no file; it can be looked at only.</p>
            : <>
                <div class="row">
                  <select
                    aria-label="File"
                    value={file}
                    onChange={(e) => {
                      setFile(e.target.value);
                      setText(null);
                      setPast([]);
                    }}
                  >
                    {now.files.map((f) => (
                      <option key={f.file}>{f.file}</option>
                    ))}
                  </select>
                  <button class="main" disabled={text === null || faults.length > 0} onClick={save}>
                    Save
                  </button>
                  <button
                    disabled={past.length === 0}
                    onClick={() => {
                      setText(past[past.length - 1]);
                      setPast(past.slice(0, -1));
                    }}
                  >
                    Undo
                  </button>
                  <button
                    disabled={text === null}
                    onClick={() => {
                      setText(null);
                      setPast([]);
                    }}
                  >
                    Undo all
                  </button>
                  <span role="status" class={faults.length ? "wrong" : "good"}>
                    {text === null ? "" : checked === null ? "…" : faults.length ? `${faults.length} wrong` : "right"}
                  </span>
                </div>
                <textarea
                  ref={area}
                  aria-label="Wiring file"
                  spellcheck={false}
                  style="flex:1;min-height:300px;white-space:pre"
                  value={shown}
                  onInput={(e) => setText(e.target.value)}
                />
                <ul class="plain" aria-label="Faults">
                  {faults.slice(0, 8).map((f) => (
                    <li key={f.line + f.what} class="wrong">
                      <button class="code" onClick={() => goTo(f)}>
                        {f.line}:{f.column}
                      </button>{" "}
                      {f.what} <span class="faint">{f.advice}</span>
                    </li>
                  ))}
                  {(checked?.awaited ?? []).map((a) => (
                    <li key={a.name} class="faint">
                      line {a.line}: '{a.name}' is not there yet {a.advice}
                    </li>
                  ))}
                </ul>
              </>}
        </section>
      </div>
    </>
  );
}
