// SPDX-License-Identifier: MIT
#include <courier/detail/base/in_use.hpp>
#include <courier/ledger.hpp>

#include "delivery/anchors.hpp"
#include "delivery/subscriptions.hpp"
#include "ledger/ledger_pages.hpp"
#include "ledger/noted.hpp"

#include <courier/detail/delivery/port.hpp>
#include <courier/detail/routing/hub_core.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <algorithm>
#include <atomic>
#include <bit>
#include <memory>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t remembered_sites = std::size_t{1} << 16;

std::uint32_t next_serial() noexcept {
    static std::atomic<std::uint32_t> newest{0};
    return ++newest;
}

const std::string* name_of_ledger_elsewhere(const channel_core& core) noexcept {
    const ledger_core& ledger = *core.books->ledger;
    return ledger.thread != this_thread_number() ? &ledger.name : nullptr;
}

constexpr onlooker notes{
    .publish = &deliver_noted,
    .publish_at = &deliver_at_noted,
    .publish_to_parts = &deliver_parts_noted,
    .serve_kept = &deliver_to_one_noted,
    .missed = &note_missed_turn,
    .filtered = &note_filtered,
    .missed_span = &note_missed_span,
    .serve_span = &serve_span_noted,
    .attached = &note_attached,
    .detached = &note_detached,
    .blocked = &note_blocked,
    .opened = &note_opened,
    .closed = &note_closed,
    .party_ended = &note_party_end,
    .ledger_elsewhere = &name_of_ledger_elsewhere,
    .origin_here = &noted_origin,
    .posted = &note_post,
    .frame_ended = &note_frame,
    .module_ends = &note_module_end,
};

ledger_core* open_ledger(std::string_view name, const ledger_options& options, std::source_location where) {
    auto core = std::make_unique<ledger_core>();
    core->serial = next_serial();
    core->thread = this_thread_number();
    core->name = name;
    core->time_every = options.time_every;
    core->order_seed = options.order_seed;
    core->memory.resize(std::bit_ceil(std::max<std::size_t>(options.chain_capacity, 2)));
    core->ring = core->memory.data();
    core->ring_mask = core->memory.size() - 1;
    core->plain = std::make_unique<plain_noted>(*core);
    core->site_of.resize(remembered_sites, UINT32_MAX);
    if (!ledger_built_in) {
        return core.release();
    }
    if (this_oversight.ledger != nullptr) {
        raise(fault_code::second_ledger, severity::refused,
              "ledger '" + core->name + "' refused: ledger '" + this_oversight.ledger->name +
                  "' keeps this thread's books already, so this one notes nothing",
              "attach more to that one, or end it first", where);
        core->over = true;
        return core.release();
    }
    set_onlooker(notes);
    this_oversight.ledger = core.get();
    this_oversight.serial = core->serial;
    this_oversight.cause = 0;
    this_oversight.handling = 0;
    this_oversight.frame = 0;
    this_oversight.last = &core->last;
    return core.release();
}

} // namespace

void attach_hub(ledger_core& ledger, hub_core& to) {
    to.set_overseer(ledger.serial);
    to.each_port([&](const port& one) { oversee(ledger, *one.core); });
}

} // namespace detail

ledger::ledger(std::string_view name, const ledger_options& options, std::source_location where)
    : core_(detail::open_ledger(name, options, where)) {}

ledger::~ledger() {
    detail::ledger_core& core = *core_;
    detail::tell(core, nullptr, [&core](detail::event_sink& sink) { // of a ledger that was refused as well
        detail::remove_taker(core, sink);
        sink.over();
    });
    if (!core.over && ledger_built_in) {
        detail::each_channel_here([&](detail::channel_core& channel) { // those that are just ending, too
            if (channel.books != nullptr && channel.books->ledger == &core) {
                detail::forget(channel);
            }
        });
        detail::this_oversight.ledger = nullptr;
        detail::this_oversight.serial = 0;
        detail::this_oversight.cause = 0;
        detail::this_oversight.handling = 0;
        detail::this_oversight.last = nullptr;
    }
    core.over = true;
    for (const detail::noted_now* now = detail::this_oversight.now; now != nullptr; now = now->outer) {
        if (&now->ledger() == &core) {
            static_cast<void>(detail::held(core).let_go()); // taken over when that publish is over
            if (now->in != nullptr) {
                now->in->ask_onlooker();
            }
        }
    }
    static_cast<void>(detail::held<detail::ledger_core>::taking_over(&core));
}

bool ledger::working() const noexcept {
    return ledger_built_in && !core_->over;
}

void ledger::attach_core(detail::channel_core& core) {
    if (working()) {
        detail::oversee(*core_, core);
    }
}

void ledger::detach_core(detail::channel_core& core) noexcept {
    if (working() && core.books != nullptr && core.books->ledger == core_) {
        detail::forget(core);
    }
}

void ledger::attach(hub& to) {
    if (working()) {
        detail::attach_hub(*core_, detail::access::hub_of(to));
    }
}

void ledger::attach_everything() {
    if (!working()) {
        return;
    }
    core_->everything = true;
    detail::close_idle_anchors();           // which are made anew, in the ledger, when they are needed
    std::vector<detail::channel_core*> all; // outside the lock, as names are looked up
    detail::each_channel_here([&](detail::channel_core& channel) { all.push_back(&channel); });
    std::reverse(all.begin(), all.end()); // in the order in which they were made
    for (detail::channel_core* channel : all) {
        detail::oversee(*core_, *channel);
    }
}

void ledger::shuffle_order(std::uint64_t seed) noexcept {
    core_->order_seed = seed;
    ++core_->epoch;
}

void ledger::end_frame(game_time now) {
    if (working()) {
        detail::note_frame(now.count());
    }
}

std::string_view ledger::name() const noexcept {
    return core_->name;
}

std::uint64_t ledger::frame() const noexcept {
    return core_->frame;
}

std::uint32_t ledger::latest_subscription() const noexcept {
    return core_->newest_subscription;
}

event_id current_event() noexcept {
    return detail::overseen() ? detail::this_oversight.cause : 0;
}

WIRED_COURIER_NAMESPACE_END
