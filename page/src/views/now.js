// Channels as they are now: rates, the last payload, and a chart.
import { useState } from "preact/hooks";
import { Chart, Spark } from "../parts/chart.js";
import { ratesOf } from "../model/routes.js";

const span = 120; // frames

export function Now({ run, passes, show, live }) {
  const [chosen, setChosen] = useState("");
  const rates = ratesOf(run, Math.min(span, Math.max(2, run.frames)), passes);
  const rows = rates.rows.sort((a, b) => b.total - a.total || a.name.localeCompare(b.name));
  const all = new Uint32Array(rates.span);
  for (const row of rows) if (!chosen || row.name === chosen) row.byFrame.forEach((n, i) => { all[i] += n; });
  const rate = (row) => row.byFrame.reduce((a, b) => a + b, 0) / (rates.seconds || rates.span);
  return (
    <>
      <Chart title={`${chosen || "all channels"}: publishes by frame, ${live ? "the latest" : "the last"} ${rates.span} frames`}
        xs={Array.from(all, (_, i) => rates.first + i)} ys={Array.from(all)} />
      <div class="sheet" style="overflow:auto">
        <table>
          <thead><tr><th>channel</th><th>rate</th><th class="number">a second</th><th class="number">published</th><th class="number">deliveries</th><th class="number">unheard</th><th>last payload</th></tr></thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.name} class="pick" tabIndex="0" aria-selected={row.name === chosen}
                onClick={() => setChosen(row.name === chosen ? "" : row.name)}
                onKeyDown={(e) => e.key === "Enter" && setChosen(row.name === chosen ? "" : row.name)}>
                <td class="channel">{row.name}</td>
                <td><Spark values={row.byFrame} /></td>
                <td class="number">{rate(row).toFixed(1)}</td>
                <td class="number">{row.total.toLocaleString("en")}</td>
                <td class="number">{row.deliveries.toLocaleString("en")}</td>
                <td class={`number ${row.unheard ? "wrong" : "faint"}`}>{row.unheard.toLocaleString("en")}</td>
                <td class="code cut" style="max-width:330px">
                  <button title="Show this event" onClick={(e) => { e.stopPropagation(); show("Events", { event: run.get(row.latest, "id") }); }}>{run.get(row.latest, "id")}</button>{" "}
                  {run.payloadOf(row.latest)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {rows.length === 0 && <p class="faint">Nothing has been published here yet{passes ? ", or the filter lets nothing pass" : ""}.</p>}
      </div>
    </>
  );
}
