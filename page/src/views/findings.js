// SPDX-License-Identifier: MIT
// What the audit says, with a way to each place.
import { shortCode, useAudit } from "../parts/audit.js";

export function Findings({ live, findings, filter, show }) {
  const { found, failure } = useAudit(live, findings);
  const fits = (f) =>
    (!filter.channel || f.channel.includes(filter.channel)) &&
    (!filter.party || `${f.party} ${f.what}`.includes(filter.party));
  const shown = (found?.findings ?? []).filter(fits);
  const accepted = (found?.accepted ?? []).filter((one) => fits(one.found));
  return (
    <>
      {failure && <p class="wrong">{failure}</p>}
      <div class="faint">
        {found === null ? "Looking…" : shown.length === 0 ? "The audit has found nothing" : `${shown.length} findings`}
        {accepted.length > 0 && `, and ${accepted.length} accepted`}
      </div>
      {shown.map((f) => (
        <section class="sheet" key={f.code + f.what + f.where}>
          <div class="row">
            <span class="code wrong">{shortCode(f.code)}</span>
            {f.channel && (
              <button class="channel" onClick={() => show("Events", { filter: { channel: f.channel } })}>
                {f.channel}
              </button>
            )}
            {f.party && (
              <button class="party" onClick={() => show("Parties", { filter: { party: f.party } })}>
                {f.party}
              </button>
            )}
            {f.channel && <button onClick={() => show("Map", { filter: { channel: f.channel } })}>on the map</button>}
          </div>
          <div>{f.what}</div>
          <div class="code faint">{f.where}</div>
          <div class="good">{f.advice}</div>
        </section>
      ))}
      {accepted.map(({ found: f, reason }) => (
        <section class="sheet" key={`accepted ${f.code}${f.what}${f.where}`} aria-label="Accepted">
          <div class="row">
            <span class="code faint">{shortCode(f.code)}</span>
            <span class="good">accepted: {reason}</span>
          </div>
          <div class="faint">{f.what}</div>
        </section>
      ))}
    </>
  );
}
