// SPDX-License-Identifier: MIT
#include <courier/recording/run.hpp>

#include <algorithm>
#include <array>

WIRED_COURIER_NAMESPACE_BEGIN

std::uint32_t text_table::number_of(std::string_view text) {
    if (text.empty() && !texts_.empty()) {
        return 0; // which many have
    }
    if (const auto found = numbers_.find(text); found != numbers_.end()) {
        return found->second;
    }
    const auto number = static_cast<std::uint32_t>(texts_.size());
    numbers_.emplace(texts_.emplace_back(text), number);
    return number;
}

std::uint32_t text_table::find(std::string_view text) const {
    const auto found = numbers_.find(text);
    return found != numbers_.end() ? found->second : UINT32_MAX;
}

const recorded_event* run::find(std::uint64_t id) const noexcept {
    const auto at = std::lower_bound(events.begin(), events.end(), id,
                                     [](const recorded_event& e, std::uint64_t wanted) { return e.id < wanted; });
    return at != events.end() && at->id == id ? &*at : nullptr;
}

std::uint32_t run::channel_named(std::string_view name) const noexcept {
    const auto found = std::find_if(channels.begin(), channels.end(), [&](const auto& c) { return c.name == name; });
    return found != channels.end() ? static_cast<std::uint32_t>(found - channels.begin()) : UINT32_MAX;
}

const std::string& run::name_of(std::uint32_t subscription) const noexcept {
    static const std::string unknown = "?";
    const auto found = subscriptions.find(subscription);
    return found != subscriptions.end() ? texts[found->second.who] : unknown;
}

std::string run::state() const {
    std::string text = std::to_string(events.size()) + (events.size() == 1 ? " event" : " events") + " in " +
                       std::to_string(frames()) + (frames() == 1 ? " frame" : " frames");
    if (skipped != 0) {
        text += "; " + std::to_string(skipped) + " more were left out, as the disk was slower than the game";
    }
    if (unknown_lines != 0) {
        text += "; " + std::to_string(unknown_lines) +
                (unknown_lines == 1 ? " line of a kind that this version does not know was passed over"
                                    : " lines of kinds that this version does not know were passed over");
    }
    if (cut) {
        text += "; the file is cut in line " + std::to_string(lines + 1) + ", and was read to there";
    } else if (!finished) {
        text += "; the recording was not finished (the game crashed, or is still writing it)";
    }
    return text;
}

WIRED_COURIER_NAMESPACE_END
