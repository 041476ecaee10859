// A recording as one page that is sent to somebody.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/audit.hpp>
#include <courier/config.hpp>
#include <courier/gateway/gateway_fault.hpp>
#include <courier/recording/run.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

/// Whether this build has the page; without npm it has none.
[[nodiscard]] bool has_page() noexcept;

/// The page with the run in it: an HTML document that opens from disk anywhere and asks
/// nobody for anything. Throws `gateway_error` when this build has no page.
[[nodiscard]] std::string report_of(const run& of, const audit_options& options = {});

WIRED_COURIER_NAMESPACE_END
