// The metrics of a gateway, as `GET /metrics` names them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <span>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// One family of metrics (OpenMetrics 1.0). A counter's samples end with "_total".
struct metric_family {
    std::string_view name;  ///< "courier_published"
    std::string_view kind;  ///< "counter" or "gauge"
    std::string_view label; ///< the label that distinguishes its samples: "channel"; or empty
    std::string_view help;
};

/// All of them, in the order in which they are written.
[[nodiscard]] std::span<const metric_family> metric_families() noexcept;

WIRED_COURIER_NAMESPACE_END
