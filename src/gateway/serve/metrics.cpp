// SPDX-License-Identifier: MIT
// Counters as OpenMetrics text 1.0.0
// (https://github.com/prometheus/OpenMetrics/blob/main/specification/OpenMetrics.md).
#include "gateway/serve/answers.hpp"

#include <courier/gateway/metric_family.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <map>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

constexpr metric_family families[]{
    {"courier_frames", "counter", "", "Frames that are over."},
    {"courier_events", "counter", "", "Events in the ledger: publishes and posts."},
    {"courier_subscriptions", "gauge", "", "Live subscriptions."},
    {"courier_published", "counter", "channel", "Publishes on a channel."},
    {"courier_deliveries", "counter", "channel", "Handlers served on a channel."},
    {"courier_unheard", "counter", "channel", "Publishes on a channel that served nobody."},
    {"courier_refused", "counter", "channel", "Publishes on a channel that were nested too deeply."},
    {"courier_gateway_requests", "counter", "", "Requests that were answered."},
    {"courier_gateway_calls", "counter", "", "Actions, payloads and questions that came to the game."},
    {"courier_gateway_events", "counter", "", "Events sent to the stream of values."},
    {"courier_gateway_left_out", "counter", "", "Events for which there was no room on their way to the readers."},
    {"courier_gateway_connections", "gauge", "", "Connections."},
    {"courier_gateway_readers", "gauge", "", "Readers of streams."},
    {"courier_gateway_refusals", "counter", "why", "Requests that were refused, and why."},
};

} // namespace

std::span<const metric_family> metric_families() noexcept {
    return families;
}

namespace detail {

namespace {

std::string escaped(std::string_view label) {
    std::string made;
    for (const char c : label) {
        made += c == '\\' ? "\\\\" : c == '"' ? "\\\"" : c == '\n' ? "\\n" : std::string(1, c);
    }
    return made;
}

/// Writes families of metrics, one after the other.
class metric_writer {
public:
    void begin(std::string_view name) {
        family_ = std::find_if(std::begin(families), std::end(families), [=](const auto& f) { return f.name == name; });
        fmt::format_to(std::back_inserter(text_), "# TYPE {0} {1}\n# HELP {0} {2}\n", name, family_->kind,
                       family_->help);
    }
    void value(std::uint64_t value) {
        fmt::format_to(std::back_inserter(text_), "{}{} {}\n", family_->name, suffix(), value);
    }
    /// One of several, told apart by the family's label.
    void value(std::string_view is, std::uint64_t value) {
        fmt::format_to(std::back_inserter(text_), "{}{}{{{}=\"{}\"}} {}\n", family_->name, suffix(), family_->label,
                       escaped(is), value);
    }
    [[nodiscard]] std::string done() && { return std::move(text_) + "# EOF\n"; }

private:
    [[nodiscard]] std::string_view suffix() const { return family_->kind == "counter" ? "_total" : ""; }

    std::string text_;
    const metric_family* family_ = nullptr;
};

/// Channels of one name and different payloads are one in a metric.
template <class Of>
void by_channel(metric_writer& to, const books& all, Of of) {
    std::map<std::string_view, std::uint64_t> sums;
    for (const channel_books& one : all.channels) {
        sums[one.name] += of(one);
    }
    for (const auto& [name, sum] : sums) {
        to.value(name, sum);
    }
}

void write_books(metric_writer& to, const books& all) {
    to.begin("courier_frames");
    to.value(all.frames);
    to.begin("courier_events");
    to.value(all.events);
    to.begin("courier_subscriptions");
    to.value(all.subscriptions.size());
    to.begin("courier_published");
    by_channel(to, all, [](const channel_books& c) { return c.published; });
    to.begin("courier_deliveries");
    by_channel(to, all, [](const channel_books& c) { return c.deliveries; });
    to.begin("courier_unheard");
    by_channel(to, all, [](const channel_books& c) { return c.unheard; });
    to.begin("courier_refused");
    by_channel(to, all, [](const channel_books& c) { return c.refused; });
}

void write_gateway(metric_writer& to, const gateway_report& now) {
    to.begin("courier_gateway_requests");
    to.value(now.requests);
    to.begin("courier_gateway_calls");
    to.value(now.calls);
    to.begin("courier_gateway_events");
    to.value(now.events);
    to.begin("courier_gateway_left_out");
    to.value(now.left_out);
    to.begin("courier_gateway_connections");
    to.value(now.connections);
    to.begin("courier_gateway_readers");
    to.value(now.readers);
    to.begin("courier_gateway_refusals");
    for (std::size_t i = 0; i < gateway_refusals; ++i) {
        const auto why = static_cast<gateway_code>(i);
        to.value(id_of(why).substr(std::string_view("courier.gateway.").size()), now.of(why));
    }
}

} // namespace

reply metrics_of(gateway_core& core) {
    metric_writer to;
    if (core.has_run.load(std::memory_order_acquire)) {
        const std::shared_ptr<const books> now = core.latest_books.get();
        if (now == nullptr) {
            return refuse(gateway_code::not_answered, "the game did not answer in time; try again");
        }
        write_books(to, *now);
    }
    write_gateway(to, core.report());
    return {200, "application/openmetrics-text; version=1.0.0; charset=utf-8", std::move(to).done(), {}};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
