// SPDX-License-Identifier: MIT
// What is looked at, as the part of an address behind '#'.
const filters = ["channel", "party", "address", "phase"];

export function placeIn({ view, filter, selected, stretch, follow }) {
  const parts = new URLSearchParams();
  if (view !== "Now") parts.set("view", view);
  for (const name of filters) if (filter[name]) parts.set(name, filter[name]);
  if (selected) parts.set("event", selected);
  if (stretch) parts.set("frames", `${Math.floor(stretch.first)}:${Math.ceil(stretch.last) - 1}`); // as the tool has it
  if (follow) parts.set("follow", "");
  const text = parts.toString();
  return text && `#${text}`;
}

// What does not belong there is left out; the rest is as in `begin`.
export function placeOf(hash, begin, names) {
  const parts = new URLSearchParams(hash.slice(1));
  const frames = /^(\d+):(\d+)$/.exec(parts.get("frames") ?? "");
  const view = parts.get("view");
  return {
    view: names.includes(view) ? view : begin.view,
    filter: Object.fromEntries(filters.map((name) => [name, parts.get(name) ?? ""])),
    selected: Number(parts.get("event")) || 0,
    stretch:
      frames && Number(frames[1]) <= Number(frames[2])
        ? { first: Number(frames[1]), last: Number(frames[2]) + 1 }
        : null,
    follow: parts.has("follow"),
  };
}
