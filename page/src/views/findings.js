// What the audit says, with a way to each place.
import { useEffect, useState } from "preact/hooks";

export function Findings({ run, live, filter, show }) {
  const [found, setFound] = useState(live ? null : run.findings);
  const [failure, setFailure] = useState("");
  useEffect(() => {
    if (!live) return undefined;
    const look = () => live.get("/findings").then((all) => { setFound(all); setFailure(""); }, (e) => setFailure(String(e.message)));
    look();
    const timer = setInterval(look, 3000);
    return () => clearInterval(timer);
  }, []);
  const fits = (f) => (!filter.channel || f.channel.includes(filter.channel)) && (!filter.who || `${f.party} ${f.what}`.includes(filter.who));
  const shown = (found ?? []).filter(fits);
  return (
    <>
      {failure && <p class="wrong">{failure}</p>}
      <div class="faint">{found === null ? "Looking…" : shown.length === 0 ? "The audit has found nothing." : `${shown.length} findings`}</div>
      {shown.map((f) => (
        <section class="sheet" key={f.code + f.what + f.where}>
          <div class="row">
            <span class="code wrong">{f.code.replace("courier.audit.", "")}</span>
            {f.channel && <button class="channel" onClick={() => show("Events", { filter: { channel: f.channel } })}>{f.channel}</button>}
            {f.party && <button class="party" onClick={() => show("Parties", { filter: { who: f.party } })}>{f.party}</button>}
            {f.channel && <button onClick={() => show("Map", { filter: { channel: f.channel } })}>on the map</button>}
          </div>
          <div>{f.what}</div>
          <div class="code faint">{f.where}</div>
          <div class="good">{f.what_to_do}</div>
        </section>
      ))}
    </>
  );
}
