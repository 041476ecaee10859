// SPDX-License-Identifier: MIT
// The stream of events; for one of them, its causes and effects; and why something did not come.
import { useMemo, useState } from "preact/hooks";
import { CauseTree } from "../parts/cause_tree.js";
import { List } from "../parts/list.js";

function shownOf(run, passes) {
  if (!passes) return null; // all
  const all = [];
  for (let i = 0; i < run.count; ++i) if (passes(i)) all.push(i);
  return all;
}

function Details({ run, i, setSelected }) {
  const id = run.get(i, "id");
  const details = run.detailsOf(id);
  const payload = run.payloadOf(i);
  return (
    <section class="sheet" aria-label="Event">
      <h2>
        event {id}: <span class="channel">{run.channelName(i)}</span>{" "}
        {run.get(i, "to") > 0 && <>to {run.text(i, "to")}</>}
      </h2>
      <p class="sentence">{details.sentence}.</p>
      <div>
        {run.isPost(i) ? "posted" : "published"} by <span class="party">{run.text(i, "maker")}</span> in frame{" "}
        {run.get(i, "frame")}, at <span class="code">{run.text(i, "at")}</span>
      </div>
      {details.origin && (
        <div>
          it came <span class="party">{details.origin}</span>,{" "}
          <span class="faint">
            run <span class="code">{details.origin_run}</span>
          </span>
        </div>
      )}
      {payload && (
        <pre class="code" style="white-space:pre-wrap;margin:6px 0">
          {payload}
        </pre>
      )}
      {details.remarks.map((what) => (
        <div key={what} class="faint">
          {what}
        </div>
      ))}
      <ul class="plain">
        {details.turns.map((turn) => (
          <li key={turn.subscription}>
            {turn.why ? <span class="wrong">not by</span> : <span class="good">heard by</span>}{" "}
            <span class="party">{turn.party}</span>
            {turn.why && `: ${turn.why}`} <span class="code faint">{turn.at}</span>
            {turn.ns > 0 && <span class="faint"> took {(turn.ns / 1000).toFixed(1)} µs</span>}
          </li>
        ))}
        {details.stopped_by && (
          <li>
            <span class="wrong">stopped by</span> {details.stopped_by}
          </li>
        )}
        {run.isUnheard(i) && <li class="wrong">nobody heard it</li>}
      </ul>
      <h3 style="margin-top:8px">causes and effects</h3>
      <CauseTree details={details} id={id} select={setSelected} />
    </section>
  );
}

function WhyNot({ run, at }) {
  const [party, setParty] = useState("");
  const [channel, setChannel] = useState("");
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const [answer, setAnswer] = useState(null);
  const asked = channel || (at >= 0 ? run.channelName(at) : "");
  const ask = (event) => {
    event.preventDefault();
    setAnswer(run.whyNot(party, asked, Number(from) || 0, to === "" ? 2 ** 32 - 1 : Number(to) || 0));
  };
  return (
    <section class="sheet" aria-label="Why not">
      <h2>Why did it not hear of it?</h2>
      <form class="row" onSubmit={ask}>
        <input
          aria-label="Party"
          placeholder="party"
          list="parties"
          size="12"
          required
          value={party}
          onInput={(e) => setParty(e.target.value)}
        />
        <input
          aria-label="On channel"
          placeholder={asked || "channel"}
          list="channels"
          size="18"
          value={channel}
          onInput={(e) => setChannel(e.target.value)}
        />
        <input
          aria-label="From frame"
          placeholder="from frame"
          size="8"
          inputMode="numeric"
          value={from}
          onInput={(e) => setFrom(e.target.value)}
        />
        <input
          aria-label="To frame"
          placeholder="to"
          size="6"
          inputMode="numeric"
          value={to}
          onInput={(e) => setTo(e.target.value)}
        />
        <button disabled={!asked}>Why not?</button>
      </form>
      {answer && (
        <ul class="plain" role="status">
          {answer.map((line, k) => (
            <li
              key={k}
              class={line.startsWith(" ") ? "faint" : ""}
              style={`padding-left:${line.length - line.trimStart().length}ch`}
            >
              {line.trimStart()}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

export function Events({ run, live, passes, selected, setSelected, paused }) {
  const shown = useMemo(() => shownOf(run, passes), [run, run.version, passes]);
  const count = shown ? shown.length : run.count;
  const at = selected ? run.find(selected) : -1;
  const place = useMemo(() => (at < 0 ? -1 : shown ? shown.indexOf(at) : at), [at, shown]);
  const line = (k) => {
    const i = shown ? shown[k] : k;
    return (
      <>
        <span class="faint">{run.get(i, "frame")}</span>
        <span class="faint">{run.get(i, "id")}</span>
        <span class="party">{run.text(i, "maker")}</span>
        <span class={run.isUnheard(i) ? "wrong" : "channel"}>
          {run.channelName(i)}
          {run.isPost(i) && " (post)"}
        </span>
        <span class="code">{run.payloadOf(i)}</span>
      </>
    );
  };
  return (
    <div class="columns">
      <div style="display:flex;flex-direction:column;gap:6px;flex:1.5">
        <div class="faint">
          {count.toLocaleString("en")} events{passes ? " pass the filter" : ""}
          {run.about.forgotten > 0 && `; ${run.about.forgotten.toLocaleString("en")} older ones are no longer here`}
        </div>
        <List
          count={count}
          line={line}
          head={["frame", "event", "made by", "channel", "payload"]}
          selected={place}
          label="Events"
          follow={Boolean(live) && !paused}
          select={(k) => setSelected(run.get(shown ? shown[k] : k, "id"))}
        />
      </div>
      <div>
        {at >= 0
          ? <Details run={run} i={at} setSelected={setSelected} />
          : <p class="faint">Choose an event to see what led to it, and what followed.</p>}
        <div style="height:10px" />
        <WhyNot run={run} at={at} />
      </div>
    </div>
  );
}
