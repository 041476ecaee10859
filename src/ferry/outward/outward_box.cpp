// SPDX-License-Identifier: MIT
#include "ferry/outward/outward_box.hpp"

#include "data/pack_value.hpp"
#include "ferry/mqtt/mqtt_client.hpp"

#include <courier/detail/base/in_use.hpp>

#include <array>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string_view type_of(crossing_kind kind) noexcept {
    constexpr std::array<std::string_view, 6> types{"wired-courier.payload",   "wired-courier.value",
                                                    "wired-courier.question",  "wired-courier.answer",
                                                    "wired-courier.no-answer", "wired-courier.process"};
    return types[static_cast<std::size_t>(kind)];
}

void outward_place::take(const void* payload, address_label to) {
    to_.put(*this, payload, to);
}

outward_box::outward_box(std::uint64_t run, std::size_t max_waiting, losses& lost)
    : causes(run), most_waiting_(max_waiting), lost_(lost), queue_(max_waiting) {}

outward_place& outward_box::add(outward_route route, const field_table* fields) {
    for (outward_place& one : places_) { // what comes again goes on
        if (one.fields() == fields && one.route().is_as(route)) {
            return one;
        }
    }
    auto made = std::make_shared<outward_route>(std::move(route));
    const std::lock_guard lock(guard_);
    made->number = static_cast<std::uint32_t>(routes_.size());
    if (fields != nullptr) {
        made->fields = nodes_of(*fields);
    }
    routes_.push_back(made);
    return places_.emplace_back(*this, std::move(made), fields);
}

std::vector<std::shared_ptr<outward_route>> outward_box::routes(std::size_t known) const {
    const std::lock_guard lock(guard_);
    return {routes_.begin() + static_cast<std::ptrdiff_t>(known), routes_.end()};
}

// A value comes as a copy of what was set.
bool outward_box::came_from_there(const outward_place& from, const void* payload) const {
    return (payload == arriving->payload || (arriving->is_value && from.route().kind == crossing_kind::value)) &&
           matches(from.route().topic.has_address ? from.route().topic.before + "+" + from.route().topic.behind
                                                  : from.route().topic.before,
                   arriving->topic);
}

// Without memory, or room, it is let go as a whole.
void outward_box::put(const outward_place& from, const void* payload, address_label to, reply_to reply) {
    const outward_route& route = from.route();
    if (arriving != nullptr && came_from_there(from, payload)) {
        return;
    }
    const std::size_t before = now_.size();
    bool is_whole = false;
    if (before <= most_waiting_) {
        if_memory_allows([&] {
            const std::uint64_t event = cause_memory::event_here();
            now_.put(route.number);
            now_.put(event);
            now_.put(causes.trace_of(event));
            address_.clear();
            if (to.address != nullptr) {
                to.write(to.address, address_);
            }
            now_.put_text(address_);
            now_.put_text(reply.topic);
            now_.put_text(reply.correlation);
            const std::size_t length = now_.size();
            now_.put(std::uint32_t{0});
            if (from.fields() != nullptr && payload != nullptr) {
                pack_fields(*from.fields(), payload, now_);
            }
            const auto bytes = static_cast<std::uint32_t>(now_.size() - length - sizeof(std::uint32_t));
            std::memcpy(now_.bytes().data() + length, &bytes, sizeof bytes);
            is_whole = true;
        });
    }
    if (!is_whole) {
        now_.bytes().resize(before);
        lost_.add(ferry_code::no_room, route.topic.before);
    }
}

bool outward_box::hand_over() {
    if (now_.size() == 0) {
        return false;
    }
    queue_.give(now_.bytes(), false); // what is not taken stays, up to its bound
    return true;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
