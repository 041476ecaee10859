// SPDX-License-Identifier: MIT
#include <courier/detail/later/backlog_base.hpp>

#include "later/posting_order.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/detail/later/outbox_core.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

backlog_base::backlog_base(outbox_core& through, channel_core& to)
    : box(&through), target(&to), keeps_order(through.order != nullptr), by_address(through.by_address) {
    if (target != &nowhere()) {
        target_kept = held(to);
    }
}

backlog_base::~backlog_base() = default;

void backlog_base::note(const void* payload, const address_label& to, posting_outcome outcome) noexcept {
    looks_on().posted(*target, box->name, payload, where, to, outcome);
}

void backlog_base::note_at(std::size_t place, const void* payload, const address_label& to,
                           posting_outcome outcome) noexcept {
    const post_mark mark = looks_on().posted(*target, box->name, payload, where, to, outcome);
    if_memory_allows([&] {
        if (marks.size() <= place) {
            marks.resize(place + 1);
        }
        marks[place] = mark;
    });
}

void queue(backlog_base& backlog) noexcept {
    if (outbox_core& box = *backlog.box; box.ready.empty() && !box.is_in_round()) {
        box.place.note_frame();
    }
    backlog.box->ready.push_back(&backlog); // for which there is room
    backlog.queued = true;
}

void make_room_in_order(backlog_base& backlog) {
    backlog.box->order->make_room();
}

void note_in_order(backlog_base& backlog) noexcept {
    if_memory_allows(
        [&] { backlog.box->order->note(backlog); }); // for which there is room, unless a payload's move took it
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
