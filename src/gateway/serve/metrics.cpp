// Counters as OpenMetrics text 1.0.0
// (https://github.com/prometheus/OpenMetrics/blob/main/specification/OpenMetrics.md).
#include "gateway/serve/answers.hpp"

#include <fmt/format.h>

#include <iterator>
#include <map>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
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
    void counter(std::string_view name, std::string_view help) {
        family(name, "counter", help);
        suffix_ = "_total";
    }
    void gauge(std::string_view name, std::string_view help) {
        family(name, "gauge", help);
        suffix_ = "";
    }
    void value(std::uint64_t value) { fmt::format_to(std::back_inserter(text_), "{}{} {}\n", name_, suffix_, value); }
    void value(std::string_view label, std::string_view is, std::uint64_t value) {
        fmt::format_to(std::back_inserter(text_), "{}{}{{{}=\"{}\"}} {}\n", name_, suffix_, label, escaped(is), value);
    }
    [[nodiscard]] std::string done() && { return std::move(text_) + "# EOF\n"; }

private:
    void family(std::string_view name, std::string_view type, std::string_view help) {
        name_ = name;
        fmt::format_to(std::back_inserter(text_), "# TYPE {} {}\n# HELP {} {}\n", name, type, name, help);
    }

    std::string text_;
    std::string name_;
    std::string_view suffix_;
};

/// Channels of one name and different payloads are one in a metric.
template <class Of>
void by_channel(metric_writer& to, const books& all, Of of) {
    std::map<std::string_view, std::uint64_t> sums;
    for (const channel_books& one : all.channels) {
        sums[one.name] += of(one);
    }
    for (const auto& [name, sum] : sums) {
        to.value("channel", name, sum);
    }
}

void write_books(metric_writer& to, const books& all) {
    to.counter("courier_frames", "Frames that are over.");
    to.value(all.frames);
    to.counter("courier_events", "Events in the ledger: publishes and posts.");
    to.value(all.events);
    to.gauge("courier_subscriptions", "Live subscriptions.");
    to.value(all.subscriptions.size());
    to.counter("courier_published", "Publishes on a channel.");
    by_channel(to, all, [](const channel_books& c) { return c.published; });
    to.counter("courier_deliveries", "Handlers served on a channel.");
    by_channel(to, all, [](const channel_books& c) { return c.deliveries; });
    to.counter("courier_unheard", "Publishes on a channel that served nobody.");
    by_channel(to, all, [](const channel_books& c) { return c.unheard; });
    to.counter("courier_refused", "Publishes on a channel that were nested too deeply.");
    by_channel(to, all, [](const channel_books& c) { return c.refused; });
}

void write_gateway(metric_writer& to, const gateway_report& now) {
    to.counter("courier_gateway_requests", "Requests that were answered.");
    to.value(now.requests);
    to.counter("courier_gateway_calls", "Actions, payloads and questions that came to the game.");
    to.value(now.calls);
    to.counter("courier_gateway_events", "Events sent to the stream of values.");
    to.value(now.events);
    to.counter("courier_gateway_left_out", "Events for which there was no room on their way to the readers.");
    to.value(now.left_out);
    to.gauge("courier_gateway_connections", "Connections.");
    to.value(now.connections);
    to.gauge("courier_gateway_readers", "Readers of streams.");
    to.value(now.readers);
    to.counter("courier_gateway_refusals", "Requests that were refused, and why.");
    for (std::size_t i = 0; i < refusal_kinds; ++i) {
        const auto why = static_cast<refusal>(i);
        to.value("why", id_of(why).substr(std::string_view("courier.gateway.").size()), now.of(why));
    }
}

} // namespace

reply metrics_of(gateway_core& core) {
    metric_writer to;
    if (core.has_run.load(std::memory_order_acquire)) {
        const std::shared_ptr<const books> now = core.latest_books.get();
        if (now == nullptr) {
            return refuse(refusal::not_answered, "the game did not come round to it in time; try again");
        }
        write_books(to, *now);
    }
    write_gateway(to, core.report());
    return {200, "application/openmetrics-text; version=1.0.0; charset=utf-8", std::move(to).done(), {}};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
