// SPDX-License-Identifier: MIT
// Places a graph of parties and channels in columns, so that what happens goes from left to right: layered drawing, after
// K. Sugiyama, S. Tagawa, M. Toda, "Methods for Visual Understanding of Hierarchical System Structures", 1981. Parties
// have the even columns and channels the odd ones. All of it ends after a fixed number of rounds.
const between = 34; // columns
const apart = 11; // boxes
const thin = 7; // a line that passes through a column
const margin = 10;
const rounds = 16;
const mostColumns = 11;

// How far each node is from where things begin, along the links; links that would close a circle do not count.
function ranksOf(nodes, after) {
  const rank = new Map(nodes.map((node) => [node.id, 0]));
  const state = new Map(); // 1: on the way to it, 2: done
  const order = [];
  for (const root of nodes) {
    if (state.has(root.id)) continue;
    const open = [[root.id, 0]];
    state.set(root.id, 1);
    while (open.length) {
      const top = open.at(-1);
      const next = (after.get(top[0]) ?? [])[top[1]++];
      if (next === undefined) {
        state.set(top[0], 2);
        order.push(top[0]);
        open.pop();
      } else if (!state.has(next)) {
        state.set(next, 1);
        open.push([next, 0]);
      }
    }
  }
  order.reverse();
  const place = new Map(order.map((id, i) => [id, i]));
  for (const id of order)
    for (const next of after.get(id) ?? [])
      if (place.get(next) > place.get(id)) rank.set(next, Math.max(rank.get(next), rank.get(id) + 1));
  return rank;
}

// The column of each node: forward links are short, few links go back, and no column is much fuller than others.
function columnsOf(nodes, after, before, rank, count) {
  const deepest = Math.max(1, ...rank.values());
  const column = new Map();
  const fill = new Array(count).fill(0);
  const set = (node, at) => {
    if (column.has(node.id)) --fill[column.get(node.id)];
    column.set(node.id, at);
    ++fill[at];
  };
  for (const node of nodes) {
    const odd = node.kind === "channel" ? 1 : 0;
    const at = Math.round((rank.get(node.id) * (count - 1)) / deepest);
    set(node, at % 2 === odd ? at : at + 1 < count ? at + 1 : at - 1);
  }
  const ideal = nodes.length / count;
  const cost = (from, to) => (to > from ? to - from - 1 : 2 + 1.5 * (from - to));
  for (let round = 0; round < rounds; ++round) {
    let moves = 0;
    for (const node of nodes) {
      let best = [Infinity, 0];
      for (let at = node.kind === "channel" ? 1 : 0; at < count; at += 2) {
        let all = 0.6 * ((fill[at] + (column.get(node.id) === at ? 0 : 1)) / ideal) ** 2;
        for (const other of after.get(node.id) ?? []) all += cost(at, column.get(other));
        for (const other of before.get(node.id) ?? []) all += cost(column.get(other), at);
        if (all < best[0] - 1e-9) best = [all, at];
      }
      if (best[1] !== column.get(node.id)) {
        set(node, best[1]);
        ++moves;
      }
    }
    if (moves === 0) break;
  }
  return column;
}

// Cells of each column: nodes, and the lines that pass.
function cellsOf(graph, column, count) {
  const cells = Array.from({ length: count }, () => []);
  const cellOf = new Map();
  const add = (at, cell) => {
    cells[at].push(Object.assign(cell, { at, left: [], right: [] }));
    return cell;
  };
  for (const node of graph.nodes) cellOf.set(node.id, add(column.get(node.id), { node, height: node.height }));
  for (const link of graph.links) {
    const [a, b] = [cellOf.get(link.source), cellOf.get(link.target)];
    const [first, last] = a.at < b.at ? [a, b] : [b, a];
    let from = first;
    link.cells = [first];
    for (let at = first.at + 1; at <= last.at; ++at) {
      const next = at === last.at ? last : add(at, { node: null, height: thin });
      from.right.push(next);
      next.left.push(from);
      link.cells.push(next);
      from = next;
    }
    if (first !== a) link.cells.reverse();
  }
  return cells;
}

const mean = (all, of) => all.reduce((sum, one) => sum + of(one), 0) / all.length;

// Neighbours come to the same height: first in order, then in place.
function arrange(cells) {
  const number = () =>
    cells.forEach((column) =>
      column.forEach((cell, i) => {
        cell.order = (i + 0.5) / column.length;
      }),
    );
  number();
  for (let round = 0; round < rounds; ++round) {
    const side = round % 2 ? "right" : "left";
    for (const column of round % 2 ? [...cells].reverse() : cells) {
      for (const cell of column) cell.wish = cell[side].length ? mean(cell[side], (one) => one.order) : cell.order;
      column.sort((a, b) => a.wish - b.wish);
      column.forEach((cell, i) => {
        cell.order = (i + 0.5) / column.length;
      });
    }
  }
  const gap = (a, b) => (a.height + b.height) / 2 + (a.node || b.node ? apart : 2);
  for (const column of cells)
    column.forEach((cell, i) => {
      cell.y = i ? column[i - 1].y + gap(column[i - 1], cell) : 0;
    });
  const tallest = Math.max(...cells.map((column) => column.at(-1)?.y ?? 0));
  for (const column of cells) {
    const down = (tallest - (column.at(-1)?.y ?? 0)) / 2;
    for (const cell of column) cell.y += down;
  }
  for (let round = 0; round < rounds; ++round) {
    for (const column of round % 2 ? [...cells].reverse() : cells) {
      for (const cell of column) {
        const all = [...cell.left, ...cell.right];
        cell.wish = all.length ? mean(all, (one) => one.y) : cell.y;
      }
      // The middle of two ways to keep them apart is one, too.
      const low = [];
      const high = [];
      column.forEach((cell, i) => {
        low[i] = i ? Math.max(cell.wish, low[i - 1] + gap(column[i - 1], cell)) : cell.wish;
      });
      for (let i = column.length - 1; i >= 0; --i)
        high[i] =
          i + 1 < column.length
            ? Math.min(column[i].wish, high[i + 1] - gap(column[i], column[i + 1]))
            : column[i].wish;
      column.forEach((cell, i) => {
        cell.y = (low[i] + high[i]) / 2;
      });
    }
  }
}

function placed(graph, column, count) {
  const cells = cellsOf(graph, column, count);
  arrange(cells);
  const top = Math.min(...cells.flat().map((cell) => cell.y - cell.height / 2)) - margin;
  let x = margin;
  const edges = cells.map((all) => {
    const width = Math.max(0, ...all.map((cell) => cell.node?.width ?? 0));
    const edge = { left: x, right: x + width, middle: x + width / 2 };
    x += width + (width ? between : 0);
    return edge;
  });
  for (const cell of cells.flat()) {
    cell.y -= top;
    if (cell.node) Object.assign(cell.node, { x: edges[cell.at].middle, y: cell.y });
  }
  for (const link of graph.links) {
    const isForward = link.cells[0].at < link.cells.at(-1).at;
    link.points = link.cells.flatMap((cell, i) => {
      const { node, y } = cell;
      const [before, behind] = node
        ? [node.x - node.width / 2, node.x + node.width / 2]
        : [edges[cell.at].left, edges[cell.at].right];
      const [entry, exit] = isForward ? [before, behind] : [behind, before];
      return i === 0
        ? [{ x: exit, y }]
        : node
          ? [{ x: entry, y }]
          : [
              { x: entry, y },
              { x: exit, y },
            ];
    });
    delete link.cells;
  }
  return {
    width: x - between + margin,
    height: Math.max(...cells.flat().map((cell) => cell.y + cell.height / 2)) + margin,
  };
}

// Gives each node (which has a width and a height) its `x` and `y`, and each link its `points`. As many columns as fit into
// `room` pixels, and at least three. The answer is the size of all.
export function placeInColumns(graph, room) {
  if (graph.nodes.length === 0) return { width: 0, height: 0 };
  const after = new Map();
  const before = new Map();
  for (const { source, target } of graph.links) {
    after.set(source, [...(after.get(source) ?? []), target]);
    before.set(target, [...(before.get(target) ?? []), source]);
  }
  // What nothing leads to comes first.
  const nodes = [...graph.nodes].sort((a, b) => (before.get(a.id)?.length ?? 0) - (before.get(b.id)?.length ?? 0));
  const rank = ranksOf(nodes, after);
  for (let count = Math.min(mostColumns, Math.max(...rank.values()) + 1); ; --count) {
    const columns = Math.max(3, count);
    const size = placed(graph, columnsOf(nodes, after, before, rank, columns), columns);
    if (size.width <= room || columns === 3) return size;
  }
}
