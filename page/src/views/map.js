// Who publishes where, and who hears it, in the symbols of `courier map`: parties are underlined, channels are flags.
import { drag } from "d3-drag";
import { forceCollide, forceLink, forceManyBody, forceSimulation, forceX, forceY } from "d3-force";
import { select } from "d3-selection";
import { zoom, zoomIdentity } from "d3-zoom";
import { useEffect, useMemo, useRef, useState } from "preact/hooks";

function graphOf(routes, hidden) {
  const nodes = new Map();
  const links = [];
  const node = (kind, name, more = {}) => {
    const id = `${kind} ${name}`;
    if (!nodes.has(id)) nodes.set(id, { id, kind, name, ...more });
    return id;
  };
  for (const route of routes) {
    if (hidden.has(`channel ${route.channel}`) || (!route.events && !route.to.length)) continue;
    const at = node("channel", route.channel, { events: route.events, unheard: route.events && route.unheard === route.events, silent: !route.events });
    for (const { party, events } of route.from) if (!hidden.has(`party ${party}`)) links.push({ source: node("party", party), target: at, events });
    for (const { party, events } of route.to) if (!hidden.has(`party ${party}`)) links.push({ source: at, target: node("party", party), events });
  }
  return { nodes: [...nodes.values()], links };
}

const widthOf = (node) => node.name.length * 6.4 + (node.kind === "channel" ? 24 : 16);
const outlineOf = (node) => {
  const half = widthOf(node) / 2;
  return node.kind === "channel" ? `M${-half} -10H${half - 8}L${half} 0L${half - 8} 10H${-half}z` : `M${-half} -10H${half}V10H${-half}z`;
};
const colourOf = (node) => (node.kind === "party" ? "lamp" : node.unheard ? "rust" : node.silent ? "edge" : "sea");

// Moves until it is at rest; what is selected and its neighbours stay bright.
function draw(svg, graph, places, choose) {
  const root = select(svg);
  root.selectAll("*").remove();
  const width = svg.clientWidth || 900;
  const height = svg.clientHeight || 600;
  root.append("defs").append("marker").attr("id", "arrow").attr("viewBox", "0 0 8 8").attr("refX", 8).attr("refY", 4).attr("markerWidth", 7).attr("markerHeight", 7).attr("orient", "auto")
    .append("path").attr("d", "M0 0L8 4L0 8z").attr("fill", "var(--faint)");
  const all = root.append("g");
  const looks = zoom().scaleExtent([0.15, 4]).on("zoom", (event) => all.attr("transform", event.transform));
  root.call(looks).on("dblclick.zoom", null).on("click", (event) => event.target === svg && choose(null));
  for (const node of graph.nodes) Object.assign(node, places.get(node.id) ?? {});
  const most = Math.max(1, ...graph.links.map((l) => l.events));
  const link = all.append("g").selectAll("path").data(graph.links).join("path").attr("fill", "none").attr("stroke", "var(--faint)")
    .attr("stroke-width", (l) => 0.8 + 3 * Math.log1p(l.events) / Math.log1p(most)).attr("stroke-dasharray", (l) => (l.events ? null : "3 3")).attr("marker-end", "url(#arrow)");
  const node = all.append("g").selectAll("g").data(graph.nodes).join("g").attr("tabindex", 0).attr("role", "button").style("cursor", "pointer")
    .attr("aria-label", (n) => `${n.kind} ${n.name}`)
    .on("click", (event, n) => choose(n.id)).on("keydown", (event, n) => event.key === "Enter" && choose(n.id));
  node.append("path").attr("d", outlineOf).attr("fill", "var(--sheet)"); // covers the lines behind it
  node.append("path").attr("d", outlineOf).attr("fill", (n) => `var(--${colourOf(n)})`).attr("fill-opacity", 0.14)
    .attr("stroke", (n) => (n.kind === "channel" ? `var(--${colourOf(n)})` : "none"));
  node.filter((n) => n.kind === "party").append("path").attr("d", (n) => `M${-widthOf(n) / 2} 10H${widthOf(n) / 2}`)
    .attr("stroke", "var(--lamp)").attr("stroke-width", 1.6);
  node.append("text").attr("text-anchor", "middle").attr("dy", 4).text((n) => n.name);
  const simulation = forceSimulation(graph.nodes)
    .force("link", forceLink(graph.links).id((n) => n.id).distance(70).strength(0.35))
    .force("charge", forceManyBody().strength(-260)).force("x", forceX(width / 2).strength(0.05)).force("y", forceY(height / 2).strength(0.09))
    .force("collide", forceCollide((n) => widthOf(n) / 2 + 2));
  const tick = () => {
    link.attr("d", (l) => {
      const dx = l.target.x - l.source.x;
      const dy = l.target.y - l.source.y;
      // As far as the edge of the box.
      const part = Math.min((widthOf(l.target) / 2 + 2) / (Math.abs(dx) || 1), 12 / (Math.abs(dy) || 1), 0.9);
      return `M${l.source.x} ${l.source.y}L${l.target.x - dx * part} ${l.target.y - dy * part}`;
    });
    node.attr("transform", (n) => `translate(${n.x},${n.y})`);
    for (const n of graph.nodes) places.set(n.id, { x: n.x, y: n.y, fx: n.fx, fy: n.fy });
  };
  if (places.size === 0) for (let i = 0; i < 220; ++i) simulation.tick();
  simulation.alpha(0.1).on("tick", tick);
  tick();
  node.call(drag().on("start", (event) => event.active || simulation.alphaTarget(0.2).restart())
    .on("drag", (event, n) => Object.assign(n, { fx: event.x, fy: event.y })).on("end", (event) => event.active || simulation.alphaTarget(0)));
  const fit = () => {
    const xs = graph.nodes.map((n) => n.x);
    const ys = graph.nodes.map((n) => n.y);
    if (!xs.length) return;
    const [x0, x1, y0, y1] = [Math.min(...xs) - 70, Math.max(...xs) + 70, Math.min(...ys) - 24, Math.max(...ys) + 24];
    const k = Math.min(1.3, svg.clientWidth / (x1 - x0), svg.clientHeight / (y1 - y0));
    root.call(looks.transform, zoomIdentity.translate((svg.clientWidth - k * (x0 + x1)) / 2, (svg.clientHeight - k * (y0 + y1)) / 2).scale(k));
  };
  fit();
  const mark = (chosen) => {
    const near = new Set([chosen]);
    for (const l of graph.links) {
      if (l.source.id === chosen) near.add(l.target.id);
      if (l.target.id === chosen) near.add(l.source.id);
    }
    node.classed("dim", (n) => chosen && !near.has(n.id));
    link.classed("dim", (l) => chosen && l.source.id !== chosen && l.target.id !== chosen);
  };
  return { mark, fit, stop: () => simulation.stop() };
}

export function RouteMap({ run, passes, filter, show }) {
  const svg = useRef();
  const picture = useRef();
  const places = useRef(new Map());
  const [hidden, setHidden] = useState(new Set());
  const [chosen, setChosen] = useState(null);
  const [taken, setTaken] = useState(0); // when the picture was made; a live one is made anew on demand
  const all = useMemo(() => run.routes(), [run, taken, run.about.channels.length]);
  const has = (text, part) => text.toLowerCase().includes(part.toLowerCase());
  const routes = useMemo(() => all.filter((r) => (!filter.channel || has(r.channel, filter.channel)) &&
    (!filter.party || [...r.from, ...r.to].some((end) => has(end.party, filter.party)))), [all, filter]);
  useEffect(() => {
    picture.current = draw(svg.current, graphOf(routes, hidden), places.current, setChosen);
    picture.current.mark(chosen);
    return () => picture.current.stop();
  }, [routes, hidden]);
  useEffect(() => picture.current?.mark(chosen), [chosen]);
  const [kind, name] = chosen ? [chosen.slice(0, chosen.indexOf(" ")), chosen.slice(chosen.indexOf(" ") + 1)] : [];
  const neighbours = routes.flatMap((r) => {
    const said = (ends, verb) => ends.filter((end) => (kind === "channel" ? r.channel : end.party) === name)
      .map((end) => `${kind === "channel" ? `${end.party} ${verb}` : `${verb} ${r.channel}`}, ${end.events === 1 ? "once" : `${end.events} times`}`);
    return [...said(r.from, "publishes"), ...said(r.to, "hears")];
  });
  const unheard = routes.filter((r) => r.events && r.unheard === r.events);
  const silent = routes.filter((r) => !r.events && r.to.length);
  const pick = (r) => <button key={r.channel} onClick={() => setChosen(`channel ${r.channel}`)}>{r.channel}</button>;
  return (
    <>
      <div class="row">
        <button onClick={() => picture.current.fit()}>All of it</button>
        <button onClick={() => setTaken((n) => n + 1)}>As of now</button>
        {chosen && <button onClick={() => { setHidden(new Set([...hidden, chosen])); setChosen(null); }}>Hide {name}</button>}
        {hidden.size > 0 && <button onClick={() => setHidden(new Set())}>Show all ({hidden.size} hidden)</button>}
        {chosen && <button onClick={() => show("Events", { filter: kind === "channel" ? { channel: name } : { party: name } })}>Its events</button>}
        <span class="faint"><span class="party">parties</span> are underlined, <span class="channel">channels</span> are flags</span>
      </div>
      <div class="columns">
        <svg ref={svg} class="map" role="group" aria-label="Map" style="flex:3" />
        <div style="flex:1">
          {chosen ? (
            <section class="sheet" aria-label="Neighbours"><h2 class={kind}>{name}</h2><ul class="plain">{neighbours.map((n) => <li key={n}>{n}</li>)}</ul></section>
          ) : <p class="faint">Choose a party or a channel to see its neighbours; drag it, or hide it.</p>}
          <section class="sheet" style="margin-top:10px"><h2>nobody hears</h2>{unheard.length ? <div class="row">{unheard.map(pick)}</div> : <span class="faint">nothing</span>}</section>
          <section class="sheet" style="margin-top:10px"><h2>never published</h2>{silent.length ? <div class="row">{silent.map(pick)}</div> : <span class="faint">nothing</span>}</section>
        </div>
      </div>
    </>
  );
}
