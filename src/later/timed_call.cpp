// SPDX-License-Identifier: MIT
#include <courier/detail/later/timed_call.hpp>

#include "delivery/acting_as.hpp"
#include "delivery/anchors.hpp"

#include <courier/detail/base/in_use.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

thread_local constinit anchor_channel these_calls; ///< what those of this thread hang on

constexpr handler_ops call_anchor = anchor_ops_of<timed_call, &timed_call::end, &timed_call::told>();

} // namespace

void timed_call::set(timetable_core& clock, outbox_core& box, std::int64_t delay, repetition again) {
    repeats_ = again.interval != 0;
    bell_.set_to_stay(clock, box, delay, again, &ring, this);
}

void timed_call::end(timed_call& call) noexcept {
    call.anchor = nullptr;
    call.bell_.cancel(); // before its captures are destroyed, which may deliver
    if (call.running_) {
        call.ended_ = true;
    } else {
        delete &call;
    }
    these_calls.leave();
}

// What fell due meanwhile is made up for, once, in the next round.
void timed_call::told(timed_call& call, bool blocked) noexcept {
    call.paused_ = blocked;
    if (!blocked && std::exchange(call.due_, false)) {
        call.due_ = !call.bell_.ring_soon();
    }
}

void timed_call::ring(void* self) {
    auto& own = *static_cast<timed_call*>(self);
    if (own.paused_) {
        own.due_ = true;
    } else if (!own.running_) { // else it delivers its own outbox
        own.make();
    }
}

void timed_call::make() {
    struct until_over { // whatever it throws
        timed_call& call;
        explicit until_over(timed_call& of) noexcept : call(of) { call.running_ = true; }
        until_over(const until_over&) = delete;
        until_over& operator=(const until_over&) = delete;
        ~until_over() {
            call.running_ = false;
            if (call.ended_) {
                delete &call;
            }
        }
    } const now(*this);
    const acting_as owner(anchor->owner);
    if (!repeats_) {
        detach(*anchor); // before the call, which may ask for another one
    }
    run();
}

slot* anchor_timed_call(owned<timed_call> call, timetable_core& clock, outbox_core& box, std::int64_t delay,
                        repetition again, std::source_location where, party* owner) {
    call->set(clock, box, delay, again);
    slot* const made = these_calls.hang("timed calls", call_anchor, call.get(), where, owner);
    if (made == nullptr) {
        return nullptr;
    }
    timed_call& hung = *call.release();
    hung.anchor = made;
    timed_call::told(hung, made->blocked != 0);
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
