// SPDX-License-Identifier: MIT
// Routes as a graph of boxes: parties and channels, and groups of them that are closed.
// A group of channels shares what stands before the first '.'; a group of parties shares a file of code.
const prefixOf = (channel) => /^(.+?)(?:\.|::)/.exec(channel)?.[1];

// A function that tells in which file of code a party is; undefined where that is not known.
export function fileOfParties(about) {
  const files = new Map(about.parties.map((party, i) => [party, /([^/\\]+):\d+$/.exec(about.party_lines[i])?.[1]]));
  return (party) => files.get(party);
}

function groupsOf(names, keyOf) {
  const members = new Map();
  for (const name of names) {
    const key = keyOf(name);
    if (key) members.set(key, [...(members.get(key) ?? []), name]);
  }
  return new Map(
    [...members]
      .filter(([, all]) => all.length > 1)
      .flatMap(([key, all]) => all.map((name) => [name, { key, size: all.length }])),
  );
}

// {nodes, links}; `isOpen(id)` tells which groups show their members, and `about.party_lines` where parties are.
export function graphOf(routes, about, isOpen, hidden) {
  const parties = new Set(routes.flatMap((r) => [...r.from, ...r.to].map((end) => end.party)));
  const shown = routes.filter((r) => r.events || r.to.length);
  const groups = {
    channel: groupsOf(
      shown.map((r) => r.channel),
      prefixOf,
    ),
    party: groupsOf(parties, fileOfParties(about)),
  };
  const nodes = new Map();
  const links = new Map();
  const nodeOf = (kind, name) => {
    const group = groups[kind].get(name);
    const groupId = group && `group ${kind} ${group.key}`;
    const isClosed = group && !isOpen(groupId);
    const id = isClosed ? groupId : `${kind} ${name}`;
    if (!nodes.has(id))
      nodes.set(id, {
        id,
        kind,
        name: isClosed ? group.key : name,
        members: [],
        group: isClosed ? undefined : groupId,
        closed: isClosed,
        events: 0,
        unheard: 0,
      });
    const node = nodes.get(id);
    if (!node.members.includes(name)) node.members.push(name);
    return node;
  };
  const link = (source, target, events) => {
    if (hidden.has(source.id) || hidden.has(target.id)) return;
    const id = `${source.id} > ${target.id}`;
    if (!links.has(id)) links.set(id, { source: source.id, target: target.id, events: 0 });
    links.get(id).events += events;
  };
  for (const route of shown) {
    const at = nodeOf("channel", route.channel);
    at.events += route.events;
    at.unheard += route.unheard;
    for (const { party, events } of route.from) link(nodeOf("party", party), at, events);
    for (const { party, events } of route.to) link(at, nodeOf("party", party), events);
  }
  return { nodes: [...nodes.values()].filter((node) => !hidden.has(node.id)), links: [...links.values()] };
}

// The fewest steps along the links; empty where there is no way.
export function pathBetween(graph, from, to) {
  const after = new Map();
  for (const { source, target } of graph.links) after.set(source, [...(after.get(source) ?? []), target]);
  const before = new Map([[from, null]]);
  const open = [from];
  for (let k = 0; k < open.length && !before.has(to); ++k) {
    for (const next of after.get(open[k]) ?? []) {
      if (before.has(next)) continue;
      before.set(next, open[k]);
      open.push(next);
    }
  }
  const path = [];
  for (let at = before.has(to) ? to : null; at; at = before.get(at)) path.unshift(at);
  return path;
}
