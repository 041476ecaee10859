// What leaves, packed by the game's thread.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/chunk_queue.hpp"
#include "data/packed.hpp"
#include "ferry/cause_memory.hpp"
#include "ferry/losses.hpp"
#include "ferry/outward/outward_route.hpp"

#include <courier/config.hpp>
#include <courier/data/detail/sources.hpp>
#include <courier/detail/base/field_table.hpp>

#include <cstddef>
#include <cstdint>
#include <deque>
#include <memory>
#include <mutex>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class outward_box;

/// Where a source's payloads go; it stays where it is for as long as the box.
class outward_place final : public payload_taker {
public:
    outward_place(outward_box& to, std::shared_ptr<outward_route> route, const field_table* fields)
        : to_(to), route_(std::move(route)), fields_(fields) {}
    void take(const void* payload, address_label to) override;

    [[nodiscard]] const outward_route& route() const noexcept { return *route_; }
    [[nodiscard]] const field_table* fields() const noexcept { return fields_; }

private:
    outward_box& to_;
    std::shared_ptr<outward_route> route_;
    const field_table* fields_;
};

/// Where the answer to a question goes; or what an answer is to.
struct reply_to {
    std::string_view topic;
    std::string_view correlation;
};

/// What is coming in right now, and does not go back to where it came from.
struct coming_in {
    const void* payload = nullptr;
    std::string_view topic;
    bool is_value = false;
};

/// Belongs to the game's thread, but for `queue()` and `routes()`.
class outward_box {
public:
    outward_box(std::uint64_t run, std::size_t max_waiting, losses& lost);
    outward_box(const outward_box&) = delete;
    outward_box& operator=(const outward_box&) = delete;

    outward_place& add(outward_route route, const field_table* fields);
    void put(const outward_place& from, const void* payload, address_label to, reply_to reply = {});
    /// Hands over what was put since the last time; whether there was any.
    bool hand_over();

    [[nodiscard]] chunk_queue& queue() noexcept { return queue_; }
    /// The newest ones, from `known` on.
    [[nodiscard]] std::vector<std::shared_ptr<outward_route>> routes(std::size_t known) const;

    cause_memory causes;
    const coming_in* arriving = nullptr;

private:
    [[nodiscard]] bool came_from_there(const outward_place& from, const void* payload) const;

    const std::size_t most_waiting_;
    losses& lost_;
    chunk_queue queue_;
    packed_bytes now_;
    std::string address_;
    std::deque<outward_place> places_;
    mutable std::mutex guard_; ///< of the next
    std::vector<std::shared_ptr<outward_route>> routes_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
