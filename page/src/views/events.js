// The stream of events; for one of them, its causes and effects; and why something did not come.
import { useMemo, useState } from "preact/hooks";
import { CauseTree } from "../parts/cause_tree.js";
import { List } from "../parts/list.js";
import { flag } from "../model/run.js";
import { inWords, whyNot } from "../model/why_not.js";

function shownOf(run, passes) {
  if (!passes) return null; // all
  const all = [];
  for (let i = 0; i < run.count; ++i) if (passes(i)) all.push(i);
  return all;
}

function Details({ run, i, setSelected }) {
  const payload = run.payloadOf(i);
  const took = new Map(run.tookOf(i).map((t) => [t.subscription, t.ns]));
  const marks = [["outside", flag.outside, "came from outside"], ["retained", flag.retained, "kept, for one who came late"], ["refused", flag.refused, "refused: nested too deeply"], ["vacant", flag.vacant, "nobody was at its address"], ["combined", flag.combined, "became part of one that waited"], ["turnedAway", flag.turnedAway, "turned away"]].filter(([, bit]) => run.is(i, bit));
  return (
    <section class="sheet" aria-label="Event">
      <h2>event {run.get(i, "id")}: <span class="channel">{run.channelName(i)}</span> {run.text(i, "to") && <>to {run.text(i, "to")}</>}</h2>
      <div>{run.is(i, flag.post) ? "posted" : "published"} by <span class="party">{run.makerOf(i)}</span> in frame {run.get(i, "frame")}, at <span class="code">{run.text(i, "at")}</span></div>
      {run.originOf(i) && <div>it came <span class="party">{run.originOf(i)}</span>, <span class="faint">run <span class="code">{run.origins.get(run.get(i, "id")).run}</span></span></div>}
      {payload && <pre class="code" style="white-space:pre-wrap;margin:6px 0">{payload}</pre>}
      {marks.map(([name, , what]) => <div key={name} class="faint">{what}</div>)}
      <ul class="plain">
        {run.heardOf(i).map((s) => (
          <li key={s}><span class="good">heard by</span> <span class="party">{run.nameOf(s)}</span> <span class="code faint">{run.subscriptions.get(s)?.at}</span>{took.has(s) && <span class="faint"> took {(took.get(s) / 1000).toFixed(1)} µs</span>}</li>
        ))}
        {run.missedOf(i).map((m) => (
          <li key={m.subscription}><span class="wrong">not by</span> <span class="party">{run.nameOf(m.subscription)}</span>: {m.why} <span class="code faint">{run.subscriptions.get(m.subscription)?.at}</span></li>
        ))}
        {run.is(i, flag.stopped) && <li><span class="wrong">stopped by</span> {run.nameOf(run.get(i, "stoppedBy"))}</li>}
        {!run.is(i, flag.post) && run.heardOf(i).length === 0 && <li class="wrong">nobody heard it</li>}
      </ul>
      <h3 style="margin-top:8px">causes and effects</h3>
      <CauseTree run={run} i={i} select={setSelected} />
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
    setAnswer(inWords(whyNot(run, party, asked, from === "" ? 0 : Number(from), to === "" ? Infinity : Number(to)), party, asked));
  };
  return (
    <section class="sheet" aria-label="Why not">
      <h2>Why did it not hear of it?</h2>
      <form class="row" onSubmit={ask}>
        <input aria-label="Party" placeholder="party" list="parties" size="12" required value={party} onInput={(e) => setParty(e.target.value)} />
        <input aria-label="On channel" placeholder={asked || "channel"} list="channels" size="18" value={channel} onInput={(e) => setChannel(e.target.value)} />
        <input aria-label="From frame" placeholder="from frame" size="8" inputMode="numeric" value={from} onInput={(e) => setFrom(e.target.value)} />
        <input aria-label="To frame" placeholder="to" size="6" inputMode="numeric" value={to} onInput={(e) => setTo(e.target.value)} />
        <button disabled={!asked}>Why not?</button>
      </form>
      {answer && <ul class="plain" role="status">{answer.map((line) => <li key={line}>{line}</li>)}</ul>}
    </section>
  );
}

export function Events({ run, live, passes, filter, selected, setSelected, paused }) {
  const shown = useMemo(() => shownOf(run, passes), [run, run.version, filter]);
  const count = shown ? shown.length : run.count;
  const at = selected ? run.find(selected) : -1;
  const place = useMemo(() => (at < 0 ? -1 : shown ? shown.indexOf(at) : at), [at, shown]);
  const line = (k) => {
    const i = shown ? shown[k] : k;
    const unheard = !run.is(i, flag.post) && run.heardOf(i).length === 0;
    return (
      <>
        <span class="faint">frame {run.get(i, "frame")}</span>
        <span class="faint">{run.get(i, "id")}</span>
        <span class="party">{run.makerOf(i)}</span>
        <span class={unheard ? "wrong" : "channel"}>{run.channelName(i)}{run.is(i, flag.post) && " (post)"}</span>
        <span class="code">{run.payloadOf(i)}</span>
      </>
    );
  };
  return (
    <div class="columns">
      <div style="display:flex;flex-direction:column;gap:6px;flex:1.25">
        <div class="faint">{count.toLocaleString("en")} events{passes ? " pass the filter" : ""}{run.dropped > 0 && `; ${run.dropped.toLocaleString("en")} older ones are no longer here`}</div>
        <List count={count} line={line} selected={place} label="Events" follow={Boolean(live) && !paused} select={(k) => setSelected(run.get(shown ? shown[k] : k, "id"))} />
      </div>
      <div>
        {at >= 0 ? <Details run={run} i={at} setSelected={setSelected} /> : <p class="faint">Choose an event to see what led to it, and what followed.</p>}
        <div style="height:10px" />
        <WhyNot run={run} at={at} />
      </div>
    </div>
  );
}
