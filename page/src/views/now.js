// SPDX-License-Identifier: MIT
// Is anything wrong? Then the channels, with their rates and latest payloads.
import { shortCode, useAudit } from "../parts/audit.js";
import { Spark } from "../parts/spark.js";

const span = 120; // frames of a rate
const mostShown = 4; // of each kind of trouble

const duration = (ns) => (ns < 1e6 ? `${(ns / 1e3).toFixed(1)} µs` : `${(ns / 1e6).toFixed(1)} ms`);
const times = (n, what) => `${n.toLocaleString("en")} ${what}${n === 1 ? "" : "s"}`;
const nameIn = (payload) => {
  try {
    return `'${JSON.parse(payload).wire}'`;
  } catch {
    return "a wire"; // the payload was too long to be recorded
  }
};

function Trouble({ title, more, children, none }) {
  const isGood = children.length === 0;
  return (
    <section class={`sheet trouble ${isGood ? "" : "some"}`}>
      <h2>{title}</h2>
      {isGood ? <span class="good">{none}</span> : <ul class="plain">{children}</ul>}
      {more}
    </section>
  );
}

export function Now({ run, live, findings, filter, named, setFilter, passes, show }) {
  const { found, failure } = useAudit(live, findings);
  const rates = run.rates(filter, span);
  const slowest = run.slowest(filter).slice(0, mostShown);
  const rate = (row) => row.by_frame.reduce((a, b) => a + b, 0) / (rates.seconds || rates.frames || 1);
  const all = found?.findings ?? [];
  const payloadOf = new Map(run.about.channels.map((c) => [c.name, c.payload]));
  const failing = rates.channels.filter((row) => row.failed);
  const reactions = rates.channels.filter((row) => payloadOf.get(row.channel) === "courier::action_failed");
  const lost = run.about.finished ? [] : rates.channels.filter((row) => row.lost_listeners);
  const choose = (row) => setFilter({ ...named, channel: named.channel === row.channel ? "" : row.channel });
  const rest = all.length - mostShown;
  return (
    <>
      <div class="troubles">
        <Trouble
          title={`Findings${all.length ? `: ${all.length}` : ""}`}
          none={found ? "The audit has found nothing." : failure || "Looking…"}
          more={rest > 0 && <button onClick={() => show("Findings")}>{rest} more</button>}
        >
          {all.slice(0, mostShown).map((f) => (
            <li key={f.code + f.what + f.where} class="cut" title={`${f.what}\n${f.where}\n${f.advice}`}>
              <button class="plain wrong" onClick={() => show("Findings", { filter: { channel: f.channel } })}>
                {shortCode(f.code)}
              </button>{" "}
              {f.channel || f.party || f.where}
            </li>
          ))}
        </Trouble>
        <Trouble title="Failed or unheard" none="No handler and no reaction failed, and no channel lost its listeners.">
          {[
            ...reactions.map((row) => (
              <li key={`r ${row.channel}`} class="cut" title={run.payloadOf(run.find(row.latest))}>
                <button class="plain wrong" onClick={() => show("Events", { event: row.latest })}>
                  {row.channel}
                </button>{" "}
                {times(row.published, "reaction")} failed, the latest: {nameIn(run.payloadOf(run.find(row.latest)))}
              </li>
            )),
            ...failing.map((row) => (
              <li key={`f ${row.channel}`}>
                <button class="plain wrong" onClick={() => show("Events", { filter: { channel: row.channel } })}>
                  {row.channel}
                </button>{" "}
                {times(row.failed, "call")} failed
              </li>
            )),
            ...lost.map((row) => (
              <li key={`l ${row.channel}`}>
                <button class="plain wrong" onClick={() => show("Events", { event: row.latest })}>
                  {row.channel}
                </button>{" "}
                lost its last listener
              </li>
            )),
          ].slice(0, mostShown)}
        </Trouble>
        <section class="sheet trouble">
          <h2>Slowest calls</h2>
          {slowest.length === 0
            ? <span class="faint">No times were measured.</span>
            : <ul class="plain">
                {slowest.map((one) => (
                  <li
                    key={one.party + one.at + one.channel}
                    class="cut"
                    title={`${one.at}; ${one.calls} calls, ${duration(one.total_ns / one.calls)} each`}
                  >
                    <button class="plain party" onClick={() => show("Events", { event: one.longest })}>
                      {one.party}
                    </button>{" "}
                    {duration(one.longest_ns)} <span class="faint">on {one.channel}</span>
                  </li>
                ))}
              </ul>}
        </section>
      </div>
      <div class="sheet" style="overflow:auto;flex:1;min-height:160px;padding-top:0">
        <table>
          <thead>
            <tr>
              <th>channel</th>
              <th>rate</th>
              <th class="number">a second</th>
              <th class="number">published</th>
              <th class="number">deliveries</th>
              <th class="number">unheard</th>
              <th>latest payload</th>
            </tr>
          </thead>
          <tbody>
            {rates.channels.map((row) => (
              <tr
                key={row.channel}
                class="pick"
                tabIndex="0"
                aria-selected={row.channel === named.channel}
                onClick={() => choose(row)}
                onKeyDown={(e) => e.key === "Enter" && choose(row)}
              >
                <td class="channel">{row.channel}</td>
                <td>
                  <Spark values={row.by_frame} />
                </td>
                <td class="number">{rate(row).toFixed(1)}</td>
                <td class="number">{row.published.toLocaleString("en")}</td>
                <td class="number">{row.deliveries.toLocaleString("en")}</td>
                <td class={`number ${row.unheard ? "wrong" : "faint"}`}>{row.unheard.toLocaleString("en")}</td>
                <td class="code cut" style="max-width:330px">
                  <button
                    title="Show this event"
                    onClick={(e) => {
                      e.stopPropagation();
                      show("Events", { event: row.latest });
                    }}
                  >
                    {row.latest}
                  </button>{" "}
                  {run.payloadOf(run.find(row.latest))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {rates.channels.length === 0 && (
          <p class="faint">Nothing has been published here yet{passes ? ", or the filter lets nothing pass" : ""}.</p>
        )}
      </div>
    </>
  );
}
