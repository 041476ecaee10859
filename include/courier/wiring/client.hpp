// A module for pages, with a function for each name of a catalogue.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/wiring/catalogue.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

/// An ECMAScript module that talks to the gateway it was loaded from: `onBargesMoved(heard)` for the channel
/// `barges.moved`, `boardCrates(shows)` for a state, `bellRing({ strokes: 2 }, "south bell")` for an action. A page
/// that imports a name which there is not does not start, and its browser names it. The gateway serves it as
/// `/client.js`. Equal catalogues give equal texts. Throws only when memory runs out.
[[nodiscard]] std::string client_script(const catalogue& all);

/// Type declarations of that module, for editors: a wrong name, field or value is marked while one types.
/// The gateway serves them as `/client.d.ts`.
[[nodiscard]] std::string client_types(const catalogue& all);

WIRED_COURIER_NAMESPACE_END
