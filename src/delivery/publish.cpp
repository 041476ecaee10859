// SPDX-License-Identifier: MIT
// Publishing, except for the plain case in detail/publish.hpp.
#include <courier/depth.hpp>
#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/detail/delivery/publish.hpp>
#include <courier/detail/delivery/put_off.hpp>
#include <courier/fault.hpp>

#include "delivery/slots.hpp"
#include "delivery/subscriptions.hpp"
#include "delivery/walk.hpp"

#include <atomic>
#include <exception>
#include <new>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

std::atomic<std::uint32_t> depth_limit_now{default_depth_limit};

} // namespace

void set_depth_limit(std::uint32_t limit) noexcept {
    depth_limit_now.store(limit != 0 ? limit : 1, std::memory_order_relaxed);
}

std::uint32_t depth_limit() noexcept {
    return depth_limit_now.load(std::memory_order_relaxed);
}

namespace detail {

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit thread_flights this_thread;

void skip(void* state, const void*) {
    innermost()->skip_one();
    if (overseen() && state != &gone_mark) [[unlikely]] {
        looks_on().missed(turn::paused);
    }
}

void miss(turn why) noexcept {
    innermost()->skip_one();
    if (overseen()) [[unlikely]] {
        looks_on().missed(why);
    }
}

void run_guarded(void* state, const void* payload) {
    auto& s = *static_cast<full_slot*>(state);
    if (s.ops->invoke_span != nullptr && waits_for_batch(s, payload)) {
        return;
    }
    slot_guard& guard = s.guard;
    const turn ruling = guard.condition ? guard.condition(payload) : turn::served;
    if (ruling != turn::served || s.blocked != 0) { // the condition may have ended or paused it
        miss(ruling);
        return;
    }
    if (guard.times_left != 0 && --guard.times_left == 0) {
        detach(s); // before the call, so that a nested publish does not serve it once more
    }
    s.ops->invoke(context_of(s), payload);
}

void rule(verdict ruling, slot& s) noexcept {
    innermost()->rule(ruling, s);
}

#if WIRED_COURIER_EXCEPTIONS
void note_failure(flight& f, const slot& s) noexcept {
    channel_core& core = f.channel();
    failure_handler handler; // a copy, as it may replace itself; without memory for one, there is none
    if_memory_allows([&] { handler = core.on_failure; });
    if (!handler) {
        f.keep_first_failure();
        return;
    }
    const held<party> owner(s.owner); // the handler may end it
    try {
        handler({std::current_exception(), core.name, owner ? owner->name : std::string_view{}, s.where});
    } catch (...) {
        f.keep_first_failure();
    }
}

const entry* serve_after_failure(const entry* at, const entry* past, const void* payload) {
    const stage_list& list = innermost()->channel().base;
    return serve_rest_of(list, at, past, payload, listed_turns{list});
}
#endif

namespace {

bool is_simple(const channel_core& core) noexcept {
    return !core.closed && core.lists->next == nullptr && core.lists->outgrown == nullptr;
}

// Frees what ended during the publish. The flight is still under way, so whatever
// the destructors of captured state do to the channel comes back here.
void clean_up(channel_core& core) noexcept {
    if (slot* const only = core.limbo; only != nullptr && only->next == nullptr && is_simple(core)) {
        core.limbo = nullptr;
        leave_list(core, *only);
        const auto owner = held<party>::taking_over(only->owner);
        discard(core, *only);
        return; // if that ended another one, it has asked again
    }
    while (core.limbo != nullptr) {
        slot* s = core.limbo;
        core.limbo = s->next;
        ++s->list->dead;
        const auto owner = held<party>::taking_over(s->owner);
        discard(core, *s);
    }
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        list->free_outgrown();
    }
    if (!core.closed) {
        tidy(core);
    }
}

// Gives the flight up and throws what it caught.
void leave(flight& f, channel_core& core) {
#if WIRED_COURIER_EXCEPTIONS
    std::exception_ptr first = f.take_failure();
#endif
    const bool closed = f.is_closed();
    const bool more = f.has_more_to_do();
    f.settle();
    if (f.outer() == nullptr) {
        f.end();
    } else {
        leave_nested(f);
    }
    if (closed) {
        static_cast<void>(held<channel_core>::taking_over(&core)); // which closing it let go
    }
#if WIRED_COURIER_EXCEPTIONS
    first_failure failed;
    if (first) {
        failed.run([&first] { std::rethrow_exception(std::move(first)); });
    }
    if (more) {
        failed.run([] { carry_out_what_was_put_off(); });
    }
    failed.rethrow();
#else
    if (more) {
        carry_out_what_was_put_off();
    }
#endif
}

} // namespace

receipt finish(flight& f, std::size_t walked) {
    channel_core& core = f.channel();
    const bool ruled = f.is_ruled();
    if (ruled && core.batches != nullptr) {
#if WIRED_COURIER_EXCEPTIONS
        try {
            note_stop(f);
        } catch (...) { // without memory those behind are served with it; the publisher is told
            f.keep_first_failure();
        }
#else
        note_stop(f);
#endif
    }
    held<party> ruler(ruled ? f.ruled_by().owner : nullptr);
    const std::source_location ruled_at = ruled ? f.ruled_by().where : std::source_location{};
    while (f.takes_clean_up()) {
        clean_up(core);
    }
    std::uint32_t flags = f.has_refused() ? std::uint32_t{receipt_refused_inside} : 0;
    const stop_note* note = nullptr;
    if (ruled) {
        core.stop->subscriber = std::move(ruler);
        core.stop->where = ruled_at;
        flags |= receipt_stopped;
        note = core.stop;
    }
    if (f.is_closed()) {
        flags |= receipt_closed;
        note = nullptr; // goes with the channel
    }
    const auto served = static_cast<std::uint32_t>(walked) - f.skipped();
    leave(f, core);
    return receipts::made(served, flags, note);
}

namespace {

std::string depth_message(const channel_core& core) {
    std::vector<const flight*> chain;
    for (const flight* f = innermost(); f != nullptr; f = f->outer()) {
        chain.push_back(f);
    }
    std::string message =
        "publish on '" + core.name + "' refused: " + std::to_string(chain.size()) + " publishes are nested already: ";
    constexpr std::size_t shown_at_each_end = 8;
    const std::size_t left_out = chain.size() > 2 * shown_at_each_end ? chain.size() - 2 * shown_at_each_end : 0;
    for (std::size_t i = chain.size(); i-- > 0;) {
        if (left_out != 0 && i == chain.size() - shown_at_each_end - 1) {
            message += "(" + std::to_string(left_out) + " more) -> ";
            i = shown_at_each_end;
            continue;
        }
        message += "'" + chain[i]->channel().name + "'";
        message += chain[i]->outer() != nullptr ? " (" + place(chain[i]->where()) + ") -> " : std::string{" -> "};
    }
    return message + "'" + core.name + "'";
}

} // namespace

receipt refuse(const channel_core& core, std::source_location where) {
    for (flight* f = innermost(); f != nullptr; f = f->outer()) {
        f->note_refusal();
    }
    raise(fault_code::too_deep, severity::refused, depth_message(core),
          "break the circle, or raise the limit with courier::set_depth_limit()", where);
    return receipts::made(0, receipt_refused);
}

receipt finish_plain(const entry* at) {
    flight& f = this_thread.outermost;
    while (f.takes_only_clean_up()) { // again when a destructor ends another one
        clean_up(f.channel());
    }
    if (f.has_only_skipped()) { // paused ones, conditions, and what pipelines let fall
        const auto served = static_cast<std::uint32_t>(f.index_of(at)) - f.skipped();
        f.settle();
        f.end();
        return receipts::made(served);
    }
    return finish(f, f.index_of(at));
}

void keep_payload(channel_core& core, const void* payload) {
    held(core.kept)->keep(payload); // which its copying may give up
}

void keep_at_address(channel_core& core, const void* address, const void* payload) {
    held(core.kept)->keep_at(address, payload);
}

namespace {

// One stage.
template <bool CanStop>
receipt deliver_simply(channel_core& core, flight* outer, const void* payload, std::source_location where) {
    return walk_inside(outer, core, where, [&core, payload](flight& f) {
        return f.index_of(serve_entries<CanStop>(f, core.base.entries, core.base.past, payload, plain_turns{}));
    });
}

} // namespace

[[gnu::noinline]] receipt deliver_without_notes(channel_core& core, const void* payload, std::source_location where) {
    if (flight* const outer = innermost(); !is_too_deep(outer)) [[likely]] {
        if (core.work == work_entries) {
            return deliver_simply<false>(core, outer, payload, where);
        }
        if (core.work == (work_entries | work_verdicts)) {
            return deliver_simply<true>(core, outer, payload, where);
        }
    }
    if (core.closed) {
        return receipts::made(0, receipt_closed);
    }
    unobserved nobody;
    return deliver_to_all(core, payload, where, nobody);
}

namespace {

// A publish in a handler, as most are, of a channel with one stage and nothing special.
[[gnu::noinline]] receipt publish_inside(channel_core& core, const void* payload, std::source_location where) {
    flight* const nested = this_thread.nested;
    flight& outer = nested != nullptr ? *nested : this_thread.outermost;
    if (is_too_deep(&outer)) [[unlikely]] {
        return refuse(core, where);
    }
    flight f; // NOLINT(cppcoreguidelines-pro-type-member-init): see there
    enter_nested(f, core, outer, where);
    const entry* const at = serve_entries<false>(f, core.base.entries, core.base.past, payload, plain_turns{});
    if (!f.is_usual()) [[unlikely]] {
        return finish(f, f.index_of(at));
    }
    this_thread.nested = nested;
    return receipts::made(static_cast<std::uint32_t>(f.index_of(at)));
}

} // namespace

receipt deliver(channel_core& core, const void* payload, std::source_location where) {
    if (is_noted(core)) [[unlikely]] {
        return looks_on().publish(core, payload, where, nothing_to_say);
    }
    return core.work == work_entries && this_thread.outermost.is_under_way()
               ? publish_inside(core, payload, where)
               : deliver_without_notes(core, payload, where);
}

receipt deliver_as(channel_core& core, const void* payload, std::source_location where, const publish_note& note) {
    return is_noted(core) ? looks_on().publish(core, payload, where, note)
                          : deliver_without_notes(core, payload, where);
}

void deliver_to_one(channel_core& core, slot& s, const void* const* payloads, std::size_t count,
                    std::source_location where) {
    if (is_noted(core)) [[unlikely]] {
        looks_on().serve_kept(core, s, payloads, count, where);
        return;
    }
    deliver_in_flight(core, where, [&](flight& f) {
        std::size_t walked = 0;
        while (walked < count && f.goes_on() && (s.blocked & block_ended) == 0) {
            serve_one(f, s, s.list->entries[s.index], payloads[walked++]);
        }
        return walked;
    });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
