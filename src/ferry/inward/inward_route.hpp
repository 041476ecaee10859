// What comes in, and where it goes.
// SPDX-License-Identifier: MIT
#pragma once

#include "ferry/crossing_id.hpp"
#include "ferry/topics.hpp"

#include <courier/config.hpp>
#include <courier/data/detail/payload_door.hpp>
#include <courier/ferry/guarantee.hpp>

#include <cstdint>
#include <functional>
#include <memory>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct inward_route;

/// A payload of a door, as long as it is needed.
class made_payload {
public:
    made_payload() = default;
    explicit made_payload(const payload_door& by) : by_(&by), payload_(by.make()) {}
    made_payload(made_payload&& other) noexcept : by_(other.by_), payload_(std::exchange(other.payload_, nullptr)) {}
    made_payload& operator=(made_payload&& other) noexcept {
        replace_handle(*this, std::move(other));
        return *this;
    }
    ~made_payload() {
        if (payload_ != nullptr) {
            by_->destroy(payload_);
        }
    }
    [[nodiscard]] void* get() const noexcept { return payload_; }

private:
    const payload_door* by_ = nullptr;
    void* payload_ = nullptr;
};

/// What came in, on its way to the game's thread.
struct landed_message {
    std::shared_ptr<inward_route> route; ///< outlives the payload
    made_payload payload;                ///< empty: an answer that is none
    std::string topic;
    std::string address;
    std::string process;
    std::string run;
    std::uint64_t event = 0;
    trace_id trace;
    std::string response_topic;
    std::string correlation;
};

/// What the inbox carries.
struct arrival_errand {
    using courier_errand = void; ///< no ledger looks at it
    std::shared_ptr<const landed_message> what;
};

/// Does not change once it is entered.
struct inward_route {
    std::string filter;
    std::string share_name;
    topic_pattern pattern;
    courier::guarantee guarantee = courier::guarantee::at_least_once;
    bool has_address = false;
    std::string_view takes;      ///< a type of what ferries say to each other; else payloads
    bool is_exact = false;       ///< the filter is a topic
    bool is_always_told = false; ///< with each connection what the broker has kept, and what this process says itself
    std::string version;         ///< of the payload, in words
    std::source_location place;  ///< in recordings and reports
    std::unique_ptr<payload_door> door;
    std::function<void(const landed_message&)> deliver; ///< on the game's thread

    /// Whether it is for the same, made anew.
    [[nodiscard]] bool is_as(const inward_route& other) const {
        return filter == other.filter && share_name == other.share_name && door->name == other.door->name &&
               door->type == other.door->type;
    }
    /// As it is subscribed to.
    [[nodiscard]] std::string subscription() const {
        return share_name.empty() ? filter : "$share/" + share_name + "/" + filter;
    }
    /// Of the messages from the broker.
    [[nodiscard]] std::uint8_t qos() const noexcept { return guarantee == courier::guarantee::at_most_once ? 0 : 1; }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
