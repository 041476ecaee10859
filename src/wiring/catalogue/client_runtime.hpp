// The part of a page's module that is the same for all games.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline constexpr std::string_view client_runtime = R"js(
// In a function of its own, so that its names are nobody else's.
const own = (() => {
const token = new URLSearchParams(location.hash.slice(1)).get("token");
const heard = new Map(); // what to call, by name
const latest = new Map(); // of states, for those that ask later
const watching = new Set();
let stream;
let isPlanned = false;
let condition = { phase: "connecting", text: "" };

function tell(phase, text) {
  condition = { phase, text };
  for (const watch of watching) watch(condition);
}

function onConnection(watch) {
  watching.add(watch);
  watch(condition);
  return () => watching.delete(watch);
}

function end(phase, text) {
  stream.close(); // asking again would change nothing
  tell(phase, text);
}

function open() {
  isPlanned = false;
  stream?.close();
  stream = new EventSource(`/events?${[...heard.keys()].map((name) => `channel=${encodeURIComponent(name)}`).join("&")}`);
  stream.onopen = () => tell("live", "");
  stream.onerror = () => tell("lost", "The game is gone; trying again.");
  stream.addEventListener("over", () => end("over", "The game has ended."));
  stream.addEventListener("refused", (message) => end("refused", JSON.parse(message.data).detail));
  stream.onmessage = (message) => {
    const event = JSON.parse(message.data);
    if (event.type.endsWith(".value")) latest.set(event.subject, event);
    for (const take of heard.get(event.subject) ?? []) take(event.data, event);
  };
}

function listen(name, take) {
  if (!heard.has(name)) {
    heard.set(name, new Set());
    if (!isPlanned) queueMicrotask(open); // one stream for all that a script asks for
    isPlanned = true;
  } else if (latest.has(name)) {
    take(latest.get(name).data, latest.get(name));
  }
  heard.get(name).add(take);
  return () => heard.get(name).delete(take);
}

function show(name, take) {
  return listen(name, (data, event) => take(data.value, event));
}

async function post(path, body) {
  const headers = { "Content-Type": "application/json", Authorization: `Bearer ${token}` };
  const answer = await fetch(path, { method: "POST", headers, body: JSON.stringify(body) });
  const told = await answer.json();
  if (answer.ok) return told.answer;
  const faults = (told.errors ?? []).map((one) => `${one.pointer} ${one.detail}${one.advice ? `; ${one.advice}` : ""}`);
  throw new Error([told.detail, ...faults].join(" "));
}

function call(name, parameters, at) {
  return post(`/actions/${encodeURIComponent(name)}`, { parameters, at });
}

function publish(name, payload, at) {
  return post(`/channels/${encodeURIComponent(name)}${at === undefined ? "" : `?at=${encodeURIComponent(at)}`}`, payload);
}

// An element with data-value="NAME" shows that value; an input sets it, too.
function bind(root) {
  for (const element of root.querySelectorAll("[data-value]")) {
    const name = element.dataset.value;
    const isInput = element.matches("input, select, textarea");
    const key = element.type === "checkbox" ? "checked" : isInput ? "value" : "textContent";
    const complain = (text) => {
      element.title = text;
      if (isInput) element.setCustomValidity(text);
      else element.textContent = text;
      console.error(text);
    };
    if (!values.includes(name)) {
      fetch(`/events?channel=${encodeURIComponent(name)}`).then(async (answer) =>
        complain(answer.ok ? `'${name}' is a channel, which has no value` : (await answer.json()).detail),
      );
      continue;
    }
    let value;
    show(name, (now) => {
      value = now;
      element[key] = now;
    });
    if (!isInput) continue;
    if (!settable.includes(name)) {
      element.disabled = true;
      continue;
    }
    element.addEventListener("input", () => {
      const wanted = typeof value === "number" ? Number(element[key]) : element[key];
      call(`set ${name}`, { value: wanted }).then(
        () => element.setCustomValidity(""),
        (failure) => {
          element[key] = value;
          complain(failure.message);
        },
      );
    });
  }
}

bind(document);
return { onConnection, bind, listen, show, call, publish };
})();

export const { onConnection, bind } = own;
)js";

inline constexpr std::string_view client_types_runtime = R"ts(
/** How the page stands with the game. */
export interface Connection {
  phase: "connecting" | "live" | "lost" | "over" | "refused";
  /** For people; empty while it is live. */
  text: string;
}

/** An event as it came: a CloudEvent. */
export interface Heard<Payload> {
  id: string;
  subject: string;
  frame: number;
  /** The object that it was for, if it was for one. */
  address?: string;
  data: Payload;
}

/** What a script gives to hear a channel. */
export type Hears<Payload> = (payload: Payload, event: Heard<Payload>) => void;

/** Calls `watch` now and at each change. Returns what ends that; so do all functions that listen. */
export function onConnection(watch: (now: Connection) => void): () => void;

/** Shows values in elements with data-value="NAME", and sets them from inputs. The module does it for the whole page. */
export function bind(root: ParentNode): void;
)ts";

} // namespace detail
WIRED_COURIER_NAMESPACE_END
