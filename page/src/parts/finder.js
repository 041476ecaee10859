// SPDX-License-Identifier: MIT
// Finds anything by a part of its name, and goes there.
import { useEffect, useRef, useState } from "preact/hooks";

const most = 12;

export function Finder({ run, names, show, live, paused, setPaused, close }) {
  const dialog = useRef();
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  useEffect(() => dialog.current.showModal(), []);
  const all = [
    ...names.map((name) => ({ kind: "view", name, go: () => show(name) })),
    ...(live ? [{ kind: "do", name: paused ? "go on" : "pause", go: () => setPaused(!paused) }] : []),
    ...run.about.channels.flatMap(({ name }) => [
      { kind: "channel", name, go: () => show("Events", { filter: { channel: name } }) },
    ]),
    ...run.about.parties.map((name) => ({
      kind: "party",
      name,
      go: () => show("Events", { filter: { party: name } }),
    })),
    ...(/^\d+$/.test(text) && run.find(Number(text)) >= 0
      ? [{ kind: "event", name: text, go: () => show("Events", { event: Number(text) }) }]
      : []),
  ];
  // All words, in any order; names that begin with the first one come first.
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = all.filter((one) => words.every((word) => `${one.kind} ${one.name}`.toLowerCase().includes(word)));
  const begins = (one) => (words.length && one.name.toLowerCase().startsWith(words[0]) ? 0 : 1);
  const found = fits.sort((a, b) => begins(a) - begins(b)).slice(0, most);
  const chosen = Math.min(at, found.length - 1);
  const go = (one) => {
    close();
    one?.go();
  };
  const key = (event) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) setAt(Math.min(Math.max(chosen + step, 0), found.length - 1));
    if (step) event.preventDefault();
    if (event.key === "Enter") go(found[chosen]);
  };
  return (
    <dialog ref={dialog} class="finder" aria-label="Find" onClose={close}>
      <input
        aria-label="Find"
        placeholder="a view, a channel, a party, or an event's number"
        value={text}
        onInput={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={key}
      />
      <ul class="plain" role="listbox">
        {found.map((one, i) => (
          <li key={one.kind + one.name} role="option" aria-selected={i === chosen} onClick={() => go(one)}>
            <span class={one.kind}>{one.name}</span> <span class="faint">{one.kind}</span>
          </li>
        ))}
        {found.length === 0 && <li class="faint">Nothing has such a name.</li>}
      </ul>
    </dialog>
  );
}
