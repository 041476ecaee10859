// SPDX-License-Identifier: MIT
#include "gateway/stream/run_stream.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <array>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// The type of a line without what all have in front; no other part of a line looks
/// like it before it comes.
std::string_view type_of(std::string_view line) noexcept {
    constexpr std::string_view before = R"("type":"wired-courier.)";
    const std::size_t found = line.find(before);
    const std::size_t begin = found + before.size();
    return found != std::string_view::npos ? line.substr(begin, line.find('"', begin) - begin) : std::string_view();
}

/// Keys of what is kept, in the order in which it is told.
enum class part : std::uint64_t { run, channel, subscription, pause, state };

std::uint64_t key_of(part which, std::uint32_t number = 0) {
    return static_cast<std::uint64_t>(which) << 32 | number;
}

/// Whether a line is about one channel, subscription or subscriber, or about a moment.
bool is_about_one(std::string_view type) noexcept {
    constexpr std::array<std::string_view, 10> all{"channel", "closed",      "subscribed", "ended", "paused",
                                                   "resumed", "party.ended", "process",    "frame", "skipped"};
    return type == "finished" || std::find(all.begin(), all.end(), type) != all.end();
}
bool is_kept(std::string_view type) noexcept {
    return type == "channel" || type == "subscribed" || type == "ended" || type == "paused" || type == "resumed";
}

} // namespace

void run_so_far::take(std::string_view line, std::vector<kept_message>& changed) {
    const std::string_view type = type_of(line);
    if (type == "event" || type == "post") {
        return;
    }
    const auto keep = [&](part which, std::uint32_t number = 0) {
        changed.emplace_back(key_of(which, number), "data: " + std::string(line) + "\n\n");
    };
    if (type == "recording") {
        keep(part::run);
    } else if (!is_about_one(type)) { // what there is apart from events: the latest counts
        const auto number = static_cast<std::uint32_t>(states_.size());
        keep(part::state, states_.emplace(type, number).first->second);
    } else if (is_kept(type)) {
        const nlohmann::json read = nlohmann::json::parse(line, nullptr, false);
        const auto subscription = [&] { return read.at("data").value("subscription", std::uint32_t{0}); };
        if (type == "channel") {
            keep(part::channel, read.value(std::string("channel"), std::uint32_t{0}));
        } else if (type == "subscribed") {
            keep(part::subscription, subscription());
        } else if (type == "paused") {
            keep(part::pause, subscription());
        } else if (type == "resumed") {
            changed.emplace_back(key_of(part::pause, subscription()), std::string());
        } else if (type == "ended") {
            changed.emplace_back(key_of(part::pause, subscription()), std::string());
            changed.emplace_back(key_of(part::subscription, subscription()), std::string());
        }
    }
}

run_stream::run_stream(ledger& of, const gateway_options& options)
    : memory_(options.max_remembered), to_(of, [this](std::string_view lines) { write(lines); },
                                           {.when_behind = when_behind::skip,
                                            .max_waiting = options.max_waiting,
                                            .facts = {{"live", "yes"}},
                                            .state_every = 16}) {} // somebody looks at it

void run_stream::write(std::string_view lines) {
    message_batch batch;
    batch.first = memory_.next();
    std::vector<kept_message> kept;
    for (std::size_t at = 0; at < lines.size();) {
        const std::size_t end = lines.find('\n', at);
        const std::string_view line = lines.substr(at, end - at);
        so_far_.take(line, kept);
        const std::uint64_t id = batch.past();
        batch.marks.push_back({0, static_cast<std::uint32_t>(batch.text.size())});
        batch.text += fmt::format("id: {}-{}\ndata: ", memory_.run(), id);
        batch.text += line;
        batch.text += "\n\n";
        at = end + 1;
    }
    memory_.add(std::move(batch), std::move(kept));
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
