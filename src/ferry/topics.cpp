// SPDX-License-Identifier: MIT
#include "ferry/topics.hpp"

#include <courier/ferry/ferry_fault.hpp>

#include "data/percent.hpp"
#include "ferry/mqtt/mqtt_client.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <stdexcept>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

std::size_t count_levels(std::string_view topic, std::string_view level) {
    std::size_t found = 0;
    for (std::size_t from = 0; from <= topic.size();) {
        const std::size_t past = std::min(topic.find('/', from), topic.size());
        found += topic.substr(from, past - from) == level ? 1U : 0U;
        from = past + 1;
    }
    return found;
}

[[noreturn]] void refuse_topic(std::string_view what, std::string_view why, std::string_view channel) {
    throw ferry_error(ferry_code::bad_topic, fmt::format("the topic '{}', for '{}', {}", what, channel, why), {}, {});
}

} // namespace

std::string level_of(std::string_view address) {
    return address.empty() ? std::string(everyone) : percent_encoded(address);
}

std::optional<std::string> address_in(std::string_view level) {
    if (level == everyone) {
        return std::string();
    }
    std::optional<std::string> made = percent_decoded(level);
    return made && !made->empty() ? made : std::nullopt;
}

topic_pattern pattern_of(std::string_view text) {
    topic_pattern made;
    std::size_t from = 0;
    while (from <= text.size()) {
        const std::size_t past = std::min(text.find('/', from), text.size());
        if (text.substr(from, past - from) == "+") {
            made.before = text.substr(0, from);
            made.behind = text.substr(past);
            made.has_address = true;
            return made;
        }
        from = past + 1;
    }
    made.before = text;
    return made;
}

std::string_view topic_pattern::level(std::string_view topic) const {
    const auto levels = static_cast<std::size_t>(std::count(before.begin(), before.end(), '/'));
    std::size_t from = 0;
    for (std::size_t i = 0; i < levels; ++i) {
        from = topic.find('/', from) + 1; // it matches, so that they are there
    }
    return topic.substr(from, std::min(topic.find('/', from), topic.size()) - from);
}

void check_outward_topic(std::string_view topic, std::string_view channel, bool has_addresses) {
    const topic_pattern pattern = pattern_of(topic);
    if (has_addresses && !pattern.has_address) {
        refuse_topic(topic, "needs one level '+', where the address goes", channel);
    }
    if (!has_addresses && pattern.has_address) {
        refuse_topic(topic, "has a level '+', where an address would go, and the channel has none", channel);
    }
    if (const std::string wrong = wrong_with_topic(pattern.with("0")); !wrong.empty()) {
        refuse_topic(topic, wrong, channel);
    }
}

void check_inward_filter(std::string_view filter, std::string_view channel, bool has_addresses) {
    if (const std::string wrong = wrong_with_filter(filter); !wrong.empty()) {
        refuse_topic(filter, wrong, channel);
    }
    if (has_addresses && count_levels(filter, "+") != 1) {
        refuse_topic(filter, "needs one level '+', from which the address comes", channel);
    }
}

void check_share_name(std::string_view name) {
    if (!name.empty() && !is_process_name(name)) {
        throw ferry_error(ferry_code::bad_name, fmt::format("'{}' is not a share name", name), {},
                          "use 1 to 64 letters, digits, '.', '_' and '-'");
    }
}

bool is_process_name(std::string_view name) noexcept {
    return !name.empty() && name.size() <= 64 &&
           std::all_of(name.begin(), name.end(), [](char c) { return is_unreserved(c) && c != '~'; });
}

void check_process_name(std::string_view name) {
    if (!is_process_name(name)) {
        throw ferry_error(ferry_code::bad_name, fmt::format("'{}' is not a name for a process", name), {},
                          "set ferry_options::process to 1 to 64 letters, digits, '.', '_' and '-', different in "
                          "each process");
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
