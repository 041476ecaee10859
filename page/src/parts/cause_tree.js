// What led to an event and what followed from it, as a picture.
const lineHeight = 40;
const indent = 22;
const most = 60;

// The chain of causes, then effects, each a step further in.
function rowsOf(run, i) {
  const rows = run.chain(i).map((at, depth) => ({ at, depth }));
  const parents = rows.map((_, k) => k - 1);
  const add = (at, depth, parent) => {
    for (const next of run.effects(at)) {
      if (rows.length >= most) return;
      rows.push({ at: next, depth });
      parents.push(parent);
      add(next, depth + 1, rows.length - 1);
    }
  };
  add(i, rows.length, rows.length - 1);
  return { rows, parents };
}

export function CauseTree({ run, i, select }) {
  const { rows, parents } = rowsOf(run, i);
  const x = (row) => 8 + row.depth * indent;
  const y = (k) => 16 + k * lineHeight;
  const width = Math.max(...rows.map((row) => x(row) + 620));
  return (
    <div class="tree" role="group" aria-label={`${run.chain(i).length - 1} causes and ${rows.length - run.chain(i).length} effects`}>
      <svg width={width} height={rows.length * lineHeight + 8}>
        {rows.map((row, k) => parents[k] >= 0 && (
          <path key={`line ${row.at}`} d={`M${x(rows[parents[k]])} ${y(parents[k]) + 5}V${y(k)}H${x(row) - 5}`} fill="none" stroke="var(--edge)" stroke-width="1.5" />
        ))}
        {rows.map((row, k) => (
          <g key={row.at} style="cursor:pointer" role="button" tabIndex="0" aria-label={`event ${run.get(row.at, "id")}`} onClick={() => select(run.get(row.at, "id"))}
            onKeyDown={(e) => e.key === "Enter" && select(run.get(row.at, "id"))}>
            <rect x={x(row) - 8} y={y(k) - 12} width={width - x(row)} height={lineHeight - 4} fill="transparent" />
            <circle cx={x(row)} cy={y(k)} r="5" fill={row.at === i ? "var(--lamp)" : "var(--sea)"} />
            <text x={x(row) + 11} y={y(k) + 4}>
              <tspan font-weight={row.at === i ? "700" : "400"}>{run.channelName(row.at)}</tspan>
              <tspan fill="var(--faint)">{`  ${run.is(row.at, 1) ? "posted" : "published"} by `}</tspan>
              <tspan fill="var(--lamp)">{run.makerOf(row.at)}</tspan>
              <tspan fill="var(--faint)">{`  event ${run.get(row.at, "id")}, frame ${run.get(row.at, "frame")}`}</tspan>
            </text>
            <text x={x(row) + 11} y={y(k) + 19} font-family="var(--mono)" style="font-size:11px;fill:var(--faint)">
              {run.text(row.at, "at")}
              {run.originOf(row.at) && <tspan fill="var(--lamp)">{`, ${run.originOf(row.at)}`}</tspan>}
            </text>
          </g>
        ))}
      </svg>
      {rows.length >= most && <p class="faint">More followed; the first {most} are shown.</p>}
    </div>
  );
}
