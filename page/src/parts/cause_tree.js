// SPDX-License-Identifier: MIT
// What led to an event and what followed from it, as a picture.
const lineHeight = 40;
const indent = 22;

export function CauseTree({ details, id, select }) {
  const rows = details.tree;
  const x = (row) => 8 + row.depth * indent;
  const y = (k) => 16 + k * lineHeight;
  const width = Math.max(
    ...rows.map(
      (row) =>
        x(row) +
        30 +
        7.4 * Math.max(row.channel.length + row.maker.length + 16, row.at.length + row.origin.length + 26),
    ),
  );
  return (
    <div
      class="tree"
      role="group"
      aria-label={`${details.causes} causes and ${rows.length - details.causes - 1} effects`}
    >
      <svg width={width} height={rows.length * lineHeight + 8}>
        {rows.map(
          (row, k) =>
            row.parent >= 0 && (
              <path
                key={`line ${row.id}`}
                d={`M${x(rows[row.parent])} ${y(row.parent) + 5}V${y(k)}H${x(row) - 5}`}
                fill="none"
                stroke="var(--edge)"
                stroke-width="1.5"
              />
            ),
        )}
        {rows.map((row, k) => (
          <g
            key={row.id}
            style="cursor:pointer"
            role="button"
            tabIndex="0"
            onClick={() => select(row.id)}
            onKeyDown={(e) => e.key === "Enter" && select(row.id)}
          >
            <rect x={x(row) - 8} y={y(k) - 12} width={width - x(row)} height={lineHeight - 4} fill="transparent" />
            <circle cx={x(row)} cy={y(k)} r="5" fill={row.id === id ? "var(--lamp)" : "var(--sea)"} />
            <text x={x(row) + 11} y={y(k) + 4}>
              <tspan font-weight={row.id === id ? "700" : "400"}>{row.channel}</tspan>
              <tspan fill="var(--faint)">{`  ${row.is_post ? "posted" : "published"} by `}</tspan>
              <tspan fill="var(--lamp)">{row.maker}</tspan>
            </text>
            <text x={x(row) + 11} y={y(k) + 19} font-family="var(--mono)" style="font-size:11px;fill:var(--faint)">
              {`event ${row.id}, frame ${row.frame}, ${row.at}`}
              {row.origin && <tspan fill="var(--lamp)">{`, ${row.origin}`}</tspan>}
            </text>
          </g>
        ))}
      </svg>
      {details.more_followed && <p class="faint">More than a thousand events followed; not all of them are shown.</p>}
    </div>
  );
}
