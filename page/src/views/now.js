// Channels as they are now: rates, the last payload, and a chart.
import { useState } from "preact/hooks";
import { Chart, Spark } from "../parts/chart.js";

const span = 120; // frames

export function Now({ run, filter, passes, show, live }) {
  const [chosen, setChosen] = useState("");
  const rates = run.rates(filter, span);
  const all = new Uint32Array(rates.frames);
  for (const row of rates.channels) if (!chosen || row.channel === chosen) row.by_frame.forEach((n, i) => { all[i] += n; });
  const rate = (row) => row.by_frame.reduce((a, b) => a + b, 0) / (rates.seconds || rates.frames || 1);
  return (
    <>
      <Chart title={`${chosen || "all channels"}: publishes by frame, ${live ? "the latest" : "the last"} ${rates.frames} frames`}
        xs={Array.from(all, (_, i) => rates.first_frame + i)} ys={Array.from(all)} />
      <div class="sheet" style="overflow:auto">
        <table>
          <thead><tr><th>channel</th><th>rate</th><th class="number">a second</th><th class="number">published</th><th class="number">deliveries</th><th class="number">unheard</th><th>last payload</th></tr></thead>
          <tbody>
            {rates.channels.map((row) => (
              <tr key={row.channel} class="pick" tabIndex="0" aria-selected={row.channel === chosen}
                onClick={() => setChosen(row.channel === chosen ? "" : row.channel)}
                onKeyDown={(e) => e.key === "Enter" && setChosen(row.channel === chosen ? "" : row.channel)}>
                <td class="channel">{row.channel}</td>
                <td><Spark values={row.by_frame} /></td>
                <td class="number">{rate(row).toFixed(1)}</td>
                <td class="number">{row.published.toLocaleString("en")}</td>
                <td class="number">{row.deliveries.toLocaleString("en")}</td>
                <td class={`number ${row.unheard ? "wrong" : "faint"}`}>{row.unheard.toLocaleString("en")}</td>
                <td class="code cut" style="max-width:330px">
                  <button title="Show this event" onClick={(e) => { e.stopPropagation(); show("Events", { event: row.latest }); }}>{row.latest}</button>{" "}
                  {run.payloadOf(run.find(row.latest))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {rates.channels.length === 0 && <p class="faint">Nothing has been published here yet{passes ? ", or the filter lets nothing pass" : ""}.</p>}
      </div>
    </>
  );
}
