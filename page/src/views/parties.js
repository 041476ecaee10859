// SPDX-License-Identifier: MIT
// Who is there: live subscriptions, systems, phases, and what waits.
export function Parties({ run, filter, show }) {
  const live = run.subscriptions(filter);
  const { systems, phases, waiting, left_waiting: boxes } = run.about;
  const placeOf = (code) => (code.line ? `${code.file}:${code.line}` : code.file);
  return (
    <>
      <section
        class="sheet"
        style="overflow:auto;max-height:55%;flex:none"
        tabIndex="0"
        aria-label="Live subscriptions"
      >
        <h2>{live.length} live subscriptions</h2>
        <table>
          <thead>
            <tr>
              <th>party</th>
              <th>hears</th>
              <th>at the line</th>
              <th class="number">age in frames</th>
              <th>stage</th>
              <th>address</th>
              <th>skipped, and why</th>
            </tr>
          </thead>
          <tbody>
            {live.map((s, i) => (
              <tr key={s.number}>
                <td class="party">
                  {i && live[i - 1].party === s.party && s.has_name
                    ? ""
                    : <button onClick={() => show("Events", { filter: { party: s.party } })}>
                        {s.has_name ? s.party : "(no name)"}
                      </button>}
                </td>
                <td class="channel">{s.channel}</td>
                <td class="code">{s.at}</td>
                <td class="number">{run.frames - s.since}</td>
                <td>{s.stage}</td>
                <td>{s.to}</td>
                <td>
                  {s.paused && <b class="wrong">paused now </b>}
                  {s.skipped.map(({ why, times }) => `${why} ${times}×`).join(", ")}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <div class="columns">
        <section class="sheet" tabIndex="0" aria-label="Systems">
          <h2>systems</h2>
          <table>
            <tbody>
              {systems.map((s) => (
                <tr key={s.name}>
                  <td>
                    {s.name}
                    {s.paused && <b class="wrong"> paused</b>}
                  </td>
                  <td class="number" style="white-space:nowrap">
                    wave {s.wave}
                  </td>
                  <td class="faint">{s.needs.map((n) => `${n.changes ? "changes" : "reads"} ${n.name}`).join(", ")}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {systems.length === 0 && <p class="faint">None recorded.</p>}
        </section>
        <section class="sheet" tabIndex="0" aria-label="Phases, and what waits">
          <h2>phases</h2>
          {phases.map((set) => (
            <div key={set.name}>
              <b>{set.name}</b>: <span class="good">{set.now}</span>{" "}
              <span class="faint">
                of {set.phases.join(", ")}; {set.moves} {set.moves === 1 ? "move" : "moves"}
                {set.refused ? `, ${set.refused} refused` : ""}
              </span>
              <ul class="plain">
                {set.history.slice(-6).map((step) => (
                  <li key={`${step.frame} ${step.to}`} class="faint">
                    frame {step.frame}: {step.from} to {step.to} <span class="code">{placeOf(step.where)}</span>
                    {step.cause > 0 && (
                      <>
                        {" "}
                        <button onClick={() => show("Events", { event: step.cause })}>event {step.cause}</button>
                      </>
                    )}
                  </li>
                ))}
              </ul>
            </div>
          ))}
          {phases.length === 0 && <p class="faint">None recorded.</p>}
          <h2 style="margin-top:8px">what waits</h2>
          <ul class="plain">
            {waiting.map((w) => (
              <li key={w.subscriber + placeOf(w.waits_at)}>
                {w.subscriber || "a sequence"} waits for {w.waits_for}{" "}
                <span class="code faint">{placeOf(w.waits_at)}</span>, since frame {w.since_frame}
              </li>
            ))}
            {boxes.map((b) => (
              <li key={b.kind + b.name}>
                {b.payloads} in {b.kind} {b.name}
                {b.ended_frame !== null && `, which ended in frame ${b.ended_frame}`}
              </li>
            ))}
            {waiting.length + boxes.length === 0 && <li class="faint">nothing</li>}
          </ul>
        </section>
      </div>
    </>
  );
}
