// SPDX-License-Identifier: MIT
// A small chart, in a line of a table.
export function Spark({ values, width = 120, height = 20 }) {
  const most = Math.max(1, ...values);
  const step = width / Math.max(1, values.length - 1);
  const path = Array.from(
    values,
    (v, i) => `${i ? "L" : "M"}${(i * step).toFixed(1)} ${(height - 1 - (v / most) * (height - 3)).toFixed(1)}`,
  ).join("");
  return (
    <svg width={width} height={height} role="img" aria-label={`at most ${most} in a frame`}>
      <path d={path} fill="none" stroke="var(--sea)" stroke-width="1.2" />
    </svg>
  );
}
