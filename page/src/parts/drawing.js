// SPDX-License-Identifier: MIT
// What pictures on a canvas share: the style's colours, and the steps of an axis.
export function coloursOf() {
  const probe = document.createElement("span");
  document.body.append(probe);
  const made = {};
  for (const name of ["ink", "faint", "edge", "sea", "lamp", "kelp", "rust", "chosen", "sheet", "ground"]) {
    probe.style.color = `var(--${name})`;
    made[name] = getComputedStyle(probe).color;
  }
  probe.remove();
  return made;
}

// 1, 2, 5, 10 and so on: at most `most` of them in a span.
export function stepOf(span, most) {
  const ten = 10 ** Math.floor(Math.log10(Math.max(1, span / most)));
  return [1, 2, 5, 10].map((n) => n * ten).find((step) => span / step <= most) ?? 10 * ten;
}
