// Who is there: live subscriptions, systems, phases, and what waits.
import { partyOf } from "../model/run.js";
export function Parties({ run, filter, show }) {
  const fits = (s) => (!filter.who || (partyOf(s)).toLowerCase().includes(filter.who.toLowerCase())) &&
    (!filter.channel || run.channels[s.channel].name.toLowerCase().includes(filter.channel.toLowerCase())) && (!filter.address || s.to === filter.address);
  const live = [...run.subscriptions.values()].filter((s) => s.until === null && fits(s));
  live.sort((a, b) => (a.name || "~").localeCompare(b.name || "~") || a.number - b.number);
  const gates = new Map(); // how often skipped, and why, and why
  for (let k = 0; k < run.missed.length; ++k) {
    const why = run.whys.all[run.missedWhy.all[k]];
    const key = run.missed.all[k];
    gates.set(key, { ...(gates.get(key) ?? {}), [why]: (gates.get(key)?.[why] ?? 0) + 1 });
  }
  const paused = (s) => s.pauses.length > 0 && s.pauses[s.pauses.length - 1][1] === null;
  return (
    <>
      <section class="sheet" style="overflow:auto;max-height:55%;flex:none">
        <h2>{live.length} live subscriptions</h2>
        <table>
          <thead><tr><th>party</th><th>hears</th><th>at the line</th><th class="number">age in frames</th><th>stage</th><th>address</th><th>skipped, and why</th></tr></thead>
          <tbody>
            {live.map((s, i) => (
              <tr key={s.number}>
                <td class="party">{i && live[i - 1].name === s.name && s.name ? "" : <button onClick={() => show("Events", { filter: { who: partyOf(s) } })}>{s.name || "(no name)"}</button>}</td>
                <td class="channel">{run.channels[s.channel].name}</td>
                <td class="code">{s.at}</td>
                <td class="number">{run.frames - s.since}</td>
                <td>{s.stage}</td>
                <td>{s.to}</td>
                <td>{paused(s) && <b class="wrong">paused now </b>}{Object.entries(gates.get(s.number) ?? {}).map(([why, n]) => `${why} ${n}×`).join(", ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <div class="columns">
        <section class="sheet">
          <h2>systems</h2>
          <table><tbody>
            {run.systems.map((s) => (
              <tr key={s.name}><td>{s.name}{s.paused && <b class="wrong"> paused</b>}</td><td class="number" style="white-space:nowrap">wave {s.wave ?? 0}</td>
                <td class="faint">{(s.needs ?? []).map((n) => `${n.changes ? "changes" : "reads"} ${n.name}`).join(", ")}</td></tr>
            ))}
          </tbody></table>
          {run.systems.length === 0 && <p class="faint">None recorded.</p>}
        </section>
        <section class="sheet">
          <h2>phases</h2>
          {run.phases.map((set) => (
            <div key={set.name}>
              <b>{set.name}</b>: <span class="good">{set.now}</span> <span class="faint">of {set.phases.join(", ")}; {set.moves} {set.moves === 1 ? "move" : "moves"}{set.refused ? `, ${set.refused} refused` : ""}</span>
              <ul class="plain">{(set.history ?? []).slice(-6).map((step) => (
                <li key={`${step.frame} ${step.to}`} class="faint">frame {step.frame}: {step.from} to {step.to} <span class="code">{step.at}</span>{step.cause > 0 && <> <button onClick={() => show("Events", { event: step.cause })}>event {step.cause}</button></>}</li>
              ))}</ul>
            </div>
          ))}
          {run.phases.length === 0 && <p class="faint">None recorded.</p>}
          <h2 style="margin-top:8px">what waits</h2>
          <ul class="plain">
            {run.waiting.sequences.map((w) => <li key={w.at + w.name}>{w.name || "a sequence"} waits for {w.for} <span class="code faint">{w.at}</span>, since frame {w.since}</li>)}
            {(run.waiting.boxes ?? []).map((b) => <li key={b.name}>{b.payloads} in {b.kind ?? "outbox"} {b.name}{b.ended !== undefined && `, which ended in frame ${b.ended}`}</li>)}
            {run.waiting.sequences.length + (run.waiting.boxes ?? []).length === 0 && <li class="faint">nothing</li>}
          </ul>
        </section>
      </div>
    </>
  );
}
