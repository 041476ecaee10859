// SPDX-License-Identifier: MIT
// Who publishes where, and who hears it, from left to right, in the symbols of `courier map`: parties are underlined,
// channels are flags. Groups are drawn with a second edge, and show how many are in them.
import { select } from "d3-selection";
import { zoom, zoomIdentity } from "d3-zoom";
import { useEffect, useMemo, useRef, useState } from "preact/hooks";
import { placeInColumns } from "../model/columns.js";
import { graphOf, pathBetween } from "../model/route_graph.js";

const height = 22;
const most = 42; // boxes with which a map begins with all groups open
const smallest = 0.92; // of 12 pixels

const labelOf = (node) => (node.closed ? `${node.name} (${node.members.length})` : node.name);
const widthOf = (node) => labelOf(node).length * 6.9 + (node.kind === "channel" ? 24 : 16);
const outlineOf = (node, grown = 0) => {
  const half = node.width / 2 + grown;
  const up = height / 2 + grown;
  return node.kind === "channel"
    ? `M${-half} ${-up}H${half - 8}L${half} 0L${half - 8} ${up}H${-half}z`
    : `M${-half} ${-up}H${half}V${up}H${-half}z`;
};
const colourOf = (node) =>
  node.kind === "party" ? "lamp" : node.events && node.unheard === node.events ? "rust" : node.events ? "sea" : "faint";

// A line through all points, that bends at each of them.
function curve(points) {
  let path = `M${points[0].x} ${points[0].y}`;
  for (let i = 1; i < points.length; ++i) {
    const [a, b] = [points[i - 1], points[i]];
    const middle = (a.x + b.x) / 2;
    path += `C${middle} ${a.y} ${middle} ${b.y} ${b.x} ${b.y}`;
  }
  return path;
}

function draw(svg, graph, size, { choose, toggle }) {
  const root = select(svg);
  root.selectAll("*").remove();
  root
    .append("defs")
    .append("marker")
    .attr("id", "arrow")
    .attr("viewBox", "0 0 8 8")
    .attr("refX", 8)
    .attr("refY", 4)
    .attr("markerWidth", 7)
    .attr("markerHeight", 7)
    .attr("markerUnits", "userSpaceOnUse")
    .attr("orient", "auto")
    .append("path")
    .attr("d", "M0 0L8 4L0 8z")
    .attr("fill", "context-stroke");
  const all = root.append("g");
  const looks = zoom()
    .scaleExtent([0.3, 3])
    .on("zoom", (event) => all.attr("transform", event.transform));
  root
    .call(looks)
    .on("dblclick.zoom", null)
    .on("click", (event) => event.target === svg && choose(null, false));
  const mostEvents = Math.max(1, ...graph.links.map((l) => l.events));
  const link = all
    .append("g")
    .selectAll("path")
    .data(graph.links)
    .join("path")
    .attr("class", "link")
    .attr("fill", "none")
    .attr("d", (l) => curve(l.points))
    .attr("stroke-width", (l) => 0.8 + (2.2 * Math.log1p(l.events)) / Math.log1p(mostEvents))
    .attr("stroke-dasharray", (l) => (l.events ? null : "3 3"))
    .attr("marker-end", "url(#arrow)");
  const node = all
    .append("g")
    .selectAll("g")
    .data(graph.nodes)
    .join("g")
    .attr("tabindex", 0)
    .attr("role", "button")
    .style("cursor", "pointer")
    .attr("data-id", (n) => n.id)
    .attr("aria-label", (n) => (n.closed ? `group ${labelOf(n)}` : `${n.kind} ${n.name}`))
    .attr("transform", (n) => `translate(${n.x},${n.y})`)
    .on("click", (event, n) => choose(n.id, event.shiftKey))
    .on("dblclick", (_event, n) => toggle(n));
  node
    .filter((n) => n.closed)
    .append("path")
    .attr("d", (n) => outlineOf(n, 3))
    .attr("fill", "var(--sheet)")
    .attr("stroke", (n) => `var(--${colourOf(n)})`)
    .attr("stroke-opacity", 0.5);
  node
    .append("path")
    .attr("d", (n) => outlineOf(n))
    .attr("fill", "var(--sheet)"); // covers the lines behind it
  node
    .append("path")
    .attr("class", "box")
    .attr("d", (n) => outlineOf(n))
    .attr("fill", (n) => `var(--${colourOf(n)})`)
    .attr("fill-opacity", 0.14)
    .attr("stroke", (n) => (n.kind === "channel" ? `var(--${colourOf(n)})` : "none"));
  node
    .filter((n) => n.kind === "party")
    .append("path")
    .attr("d", (n) => `M${-n.width / 2} ${height / 2}H${n.width / 2}`)
    .attr("stroke", "var(--lamp)")
    .attr("stroke-width", 1.6);
  node.append("text").attr("text-anchor", "middle").attr("dy", 4).text(labelOf);
  // As much of it as there is room for with text that can be read.
  const fit = () => {
    const k = Math.max(smallest, Math.min(1.2, svg.clientWidth / size.width, svg.clientHeight / size.height));
    root.call(
      looks.transform,
      zoomIdentity
        .translate(
          Math.max(0, (svg.clientWidth - k * size.width) / 2),
          Math.max(0, (svg.clientHeight - k * size.height) / 2),
        )
        .scale(k),
    );
  };
  fit();
  const mark = (chosen, path) => {
    const near = new Set(path.length ? path : [chosen]);
    if (!path.length)
      for (const l of graph.links) {
        if (l.source === chosen) near.add(l.target);
        if (l.target === chosen) near.add(l.source);
      }
    const isOn = (l) =>
      path.length
        ? path.indexOf(l.target) === path.indexOf(l.source) + 1 && path.includes(l.source)
        : l.source === chosen || l.target === chosen;
    node.classed("dim", (n) => chosen && !near.has(n.id)).classed("chosen", (n) => n.id === chosen);
    link.classed("dim", (l) => chosen && !isOn(l)).classed("on", (l) => chosen && isOn(l));
  };
  return { mark, fit };
}

const times = (n) => (n === 1 ? "once" : n === 0 ? "never" : `${n.toLocaleString("en")} times`);

// What is published and heard, in words: of a box, each channel and party on its other side.
function neighboursOf(node, routes) {
  const members = new Set(node.members);
  return routes.flatMap((r) => {
    if (node.kind === "channel" && !members.has(r.channel)) return [];
    const said = (ends, verb) =>
      ends
        .filter((end) => node.kind === "channel" || members.has(end.party))
        .map((end) => ({
          key: `${verb} ${r.channel} ${end.party}`,
          party: end.party,
          channel: r.channel,
          verb,
          events: end.events,
        }));
    return [...said(r.from, "publishes"), ...said(r.to, "hears")];
  });
}

export function RouteMap({ run, filter, show }) {
  const svg = useRef();
  const picture = useRef();
  const [hidden, setHidden] = useState(new Set());
  const [turned, setTurned] = useState(new Set()); // groups that are not as the map began
  const [chosen, setChosen] = useState(null);
  const [other, setOther] = useState(null); // the end of a path from there
  const [taken, setTaken] = useState(0); // when the picture was made; a live one is made anew on demand
  const asked = JSON.stringify(filter);
  const routes = useMemo(() => run.routes(filter), [run, taken, asked, run.about.channels.length]);
  const begins = useMemo(() => graphOf(routes, run.about, () => true, hidden).nodes.length <= most, [routes]);
  const graph = useMemo(
    () => graphOf(routes, run.about, (id) => begins !== turned.has(id), hidden),
    [routes, turned, hidden],
  );
  const groups = useMemo(
    () => new Set([...graph.nodes.map((n) => (n.closed ? n.id : n.group))].filter(Boolean)),
    [graph],
  );
  const at = graph.nodes.find((n) => n.id === chosen);
  const path = useMemo(() => (at && other ? pathBetween(graph, chosen, other) : []), [graph, chosen, other]);
  const choose = (id, isOther) => {
    if (isOther && chosen && id !== chosen) return setOther(id);
    setChosen(id);
    setOther(null);
  };
  const turn = (id) => setTurned((was) => new Set(was.has(id) ? [...was].filter((one) => one !== id) : [...was, id]));
  const toggle = (node) => (node.closed || node.group) && turn(node.closed ? node.id : node.group);
  const hands = useRef({});
  hands.current = { choose, toggle };
  useEffect(() => {
    for (const node of graph.nodes) Object.assign(node, { width: widthOf(node), height });
    const size = placeInColumns(graph, svg.current.clientWidth / smallest);
    picture.current = draw(svg.current, graph, size, {
      choose: (...all) => hands.current.choose(...all),
      toggle: (n) => hands.current.toggle(n),
    });
    const resize = () => picture.current.fit();
    addEventListener("resize", resize);
    return () => removeEventListener("resize", resize);
  }, [graph]);
  useEffect(() => picture.current.mark(at ? chosen : null, path), [graph, chosen, path]);
  const focus = (id) => svg.current.querySelector(`[data-id="${CSS.escape(id)}"]`)?.focus();
  const key = (event) => {
    const id = event.target.dataset?.id;
    const node = graph.nodes.find((n) => n.id === id);
    if (!node) return;
    const next = {
      ArrowRight: graph.links.find((l) => l.source === id)?.target,
      ArrowLeft: graph.links.find((l) => l.target === id)?.source,
    }[event.key];
    if (next) focus(next);
    else if (event.key === "Enter" && chosen === id) toggle(node);
    else if (event.key === "Enter" || event.key === " ") choose(id, event.shiftKey);
    else return;
    event.preventDefault();
  };
  const unheard = routes.filter((r) => r.events && r.unheard === r.events);
  const silent = routes.filter((r) => !r.events && r.to.length);
  // Of a channel in a closed group, its group.
  const pick = (r) => (
    <button
      key={r.channel}
      onClick={() =>
        choose(graph.nodes.find((n) => n.kind === "channel" && n.members.includes(r.channel))?.id ?? null, false)
      }
    >
      {r.channel}
    </button>
  );
  const neighbours = at ? neighboursOf(at, routes) : [];
  const allOpen = [...groups].every((id) => begins !== turned.has(id));
  return (
    <>
      <div class="row">
        <button onClick={() => picture.current.fit()}>All of it</button>
        {groups.size > 0 && (
          <button onClick={() => setTurned(allOpen === begins ? new Set(groups) : new Set())}>
            {allOpen ? "Close the groups" : "Open all groups"}
          </button>
        )}
        <button onClick={() => setTaken((n) => n + 1)}>As of now</button>
        {at && (at.closed || at.group) && (
          <button onClick={() => toggle(at)}>{at.closed ? `Open ${at.name}` : "Close its group"}</button>
        )}
        {at && (
          <button
            onClick={() => {
              setHidden(new Set([...hidden, chosen]));
              choose(null, false);
            }}
          >
            Hide {at.name}
          </button>
        )}
        {hidden.size > 0 && <button onClick={() => setHidden(new Set())}>Show all ({hidden.size} hidden)</button>}
        {at && !at.closed && (
          <button
            onClick={() =>
              show("Events", { filter: at.kind === "channel" ? { channel: at.name } : { party: at.name } })
            }
          >
            Its events
          </button>
        )}
        <span class="faint">
          <span class="party">parties</span> are underlined, <span class="channel">channels</span> are flags
        </span>
      </div>
      <div class="columns">
        <svg ref={svg} class="map" role="group" aria-label="Map" style="flex:3.6" onKeyDown={key} />
        <div style="flex:1">
          {at
            ? <section class="sheet" aria-label="Neighbours">
                <h2 class={at.kind}>{labelOf(at)}</h2>
                {other && (
                  <p class={path.length ? "" : "wrong"} role="status">
                    {path.length
                      ? path.map((id) => graph.nodes.find((n) => n.id === id).name).join(" → ")
                      : `Nothing leads from here to ${other.replace(/^group \w+ |^\w+ /, "")}.`}
                  </p>
                )}
                <ul class="plain">
                  {neighbours.map((n) => (
                    <li key={n.key}>
                      {at.kind === "channel" || at.closed
                        ? <>
                            <span class="party">{n.party}</span> {n.verb}
                          </>
                        : n.verb}
                      {(at.kind === "party" || at.closed) && (
                        <>
                          {" "}
                          <span class="channel">{n.channel}</span>
                        </>
                      )}
                      , {times(n.events)}
                    </li>
                  ))}
                </ul>
              </section>
            : <p class="faint">
                Choose a box to see its neighbours; with Shift, a second one for the path between them. A double click
                opens or closes a group.
              </p>}
          <section class="sheet" style="margin-top:10px">
            <h2>nobody hears</h2>
            {unheard.length ? <div class="row">{unheard.map(pick)}</div> : <span class="faint">nothing</span>}
          </section>
          <section class="sheet" style="margin-top:10px">
            <h2>never published</h2>
            {silent.length ? <div class="row">{silent.map(pick)}</div> : <span class="faint">nothing</span>}
          </section>
        </div>
      </div>
    </>
  );
}
