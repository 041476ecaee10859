// Publishing, except for the plain case in detail/publish.hpp.
#include <courier/depth.hpp>
#include <courier/detail/at_the_end.hpp>
#include <courier/detail/publish.hpp>
#include <courier/fault.hpp>

#include "in_flight.hpp"
#include "noted.hpp"
#include "subscriptions.hpp"

#include <atomic>
#include <exception>
#include <new>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI {

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
thread_local constinit thread_frames this_thread;

void skip(void* state, const void*) {
    ++innermost()->unusual;
    if (overseen() && state != &gone_mark) [[unlikely]] {
        note_skipped();
    }
}

void run_guarded(void* state, const void* payload) {
    auto& s = *static_cast<full_slot*>(state);
    if (s.ops->invoke_span != nullptr && waits_for_batch(s, payload)) {
        return;
    }
    slot_guard& guard = s.guard;
    const bool holds = !guard.condition || guard.condition(payload);
    if (!holds || s.blocked != 0) { // the condition may have ended or paused it
        skip(nullptr, nullptr);
        return;
    }
    if (guard.times_left != 0 && --guard.times_left == 0) {
        detach(s); // before the call, so that a nested publish does not serve it once more
    }
    void* context = &s;
    if ((s.ops->traits & handler_is_word) != 0) {
        context = *static_cast<void**>(state_of(s));
    } else if ((s.ops->traits & handlers_with_slots) == 0) {
        context = state_of(s);
    }
    s.ops->invoke(context, payload);
}

void rule(verdict ruling, slot& s) noexcept {
    frame& f = *innermost();
    if ((f.unusual & frame_ruled) == 0) {
        f.ruled_by = &s;
    }
    if (ruling == verdict::stop) {
        f.unusual |= frame_stopped;
        f.end = 0;
    } else {
        f.unusual |= frame_finish_stage;
    }
}

#if WIRED_COURIER_EXCEPTIONS
namespace {

std::exception_ptr& error_of(frame& f) noexcept {
    return *std::launder(reinterpret_cast<std::exception_ptr*>(f.error));
}

void keep_first(frame& f) noexcept {
    if ((f.unusual & frame_failed) == 0) {
        ::new (f.error) std::exception_ptr(std::current_exception());
        f.unusual |= frame_failed;
    }
}

// The subscription whose entry, in whichever array, is `at`.
const slot& slot_at(const channel_core& core, const entry* at) noexcept {
    const stage_list* list = core.lists;
    while (list->array_of(at) == nullptr) {
        list = list->next;
    }
    return *list->slots[at - list->array_of(at)];
}

} // namespace

void note_failure(frame& f, const slot& s) noexcept {
    channel_core& core = *f.core;
    if (!core.on_failure) {
        keep_first(f);
        return;
    }
    const std::string name = s.owner != nullptr ? s.owner->name : std::string{}; // the handler may end it
    const failure what{std::current_exception(), core.name, name, s.where};
    try {
        const failure_handler handler = core.on_failure; // it may replace itself
        handler(what);
    } catch (...) {
        keep_first(f);
    }
}

void report_lost_failure(std::string_view channel) noexcept {
    std::string why = "an exception";
    try {
        throw;
    } catch (const std::exception& error) {
        why += " ('" + std::string{error.what()} + "')";
    } catch (...) {}
    raise(fault_code::failure_lost, severity::notice,
          "a handler of '" + std::string{channel} + "' threw " + why +
              " while what it was told of was being destroyed; the exception goes nowhere. Install a failure handler "
              "on the channel, or do not throw there",
          std::source_location{});
}

const entry* serve_after_failure(const entry* thrower, const void* payload) {
    frame& f = *innermost();
    note_failure(f, slot_at(*f.core, thrower));
    const entry* at = thrower + 1;
    while (reinterpret_cast<std::uintptr_t>(at) < f.end) {
        try {
            for (; reinterpret_cast<std::uintptr_t>(at) < f.end; ++at) {
                at->run(at->state, payload);
            }
        } catch (...) {
            note_failure(f, slot_at(*f.core, at));
            ++at;
        }
    }
    return at;
}
#endif

namespace {

// Frees what ended during the publish. The frame is still in use, so whatever
// the destructors of captured state do to the channel comes back here.
void clean_up(channel_core& core) noexcept {
    while (core.limbo != nullptr) {
        slot* s = core.limbo;
        core.limbo = s->next;
        ++s->list->dead;
        party* owner = s->owner;
        discard(core, *s);
        release(owner);
    }
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        list->free_outgrown();
    }
    if (!core.closed) {
        tidy(core);
    }
}

// Gives the frame up and throws what it caught.
void leave(frame& f, channel_core& core) {
    const std::uint64_t unusual = std::exchange(f.unusual, 0);
#if WIRED_COURIER_EXCEPTIONS
    std::exception_ptr first;
    if ((unusual & frame_failed) != 0) {
        first = std::move(error_of(f));
        error_of(f).~exception_ptr();
    }
#endif
    if (f.outer == nullptr) {
        f.core = nullptr;
    } else {
        leave_nested(f);
    }
    if ((unusual & frame_closed) != 0) {
        release(core);
    }
#if WIRED_COURIER_EXCEPTIONS
    if (first) {
        std::rethrow_exception(std::move(first));
    }
#endif
}

} // namespace

receipt finish(frame& f, std::size_t walked) {
    channel_core& core = *f.core;
    const bool ruled = (f.unusual & frame_ruled) != 0;
    if (ruled && core.batches != nullptr) {
        note_stop(f);
    }
    party* const ruler = ruled ? f.ruled_by->owner : nullptr;
    const std::source_location ruled_at = ruled ? f.ruled_by->where : std::source_location{};
    retain(ruler);
    if ((f.unusual & frame_clean_up) != 0) {
        clean_up(core);
    }
    std::uint32_t flags = 0;
    const stop_note* note = nullptr;
    if (ruled) {
        core.stop->set(ruler, ruled_at);
        flags |= receipt_stopped;
        note = core.stop;
    }
    release(ruler);
    if ((f.unusual & frame_closed) != 0) {
        flags |= receipt_closed;
        note = nullptr; // goes with the channel
    }
    const auto served = static_cast<std::uint32_t>(walked) - static_cast<std::uint32_t>(f.unusual);
    leave(f, core);
    return {served, flags, note};
}

namespace {

std::string depth_message(const channel_core& core, std::source_location where) {
    std::vector<const frame*> chain;
    for (const frame* f = innermost(); f != nullptr; f = f->outer) {
        chain.push_back(f);
    }
    std::string message = "publish on '" + core.name + "' at " + place(where) +
                          " refused: " + std::to_string(chain.size()) + " publishes are nested already: ";
    constexpr std::size_t shown_at_each_end = 8;
    const std::size_t left_out = chain.size() > 2 * shown_at_each_end ? chain.size() - 2 * shown_at_each_end : 0;
    for (std::size_t i = chain.size(); i-- > 0;) {
        if (left_out != 0 && i == chain.size() - shown_at_each_end - 1) {
            message += "(" + std::to_string(left_out) + " more) -> ";
            i = shown_at_each_end;
            continue;
        }
        message += "'" + chain[i]->core->name + "'";
        message += chain[i]->outer != nullptr ? " (" + place(chain[i]->where) + ") -> " : std::string{" -> "};
    }
    return message + "'" + core.name + "'; break the circle, or raise the limit with courier::set_depth_limit()";
}

} // namespace

receipt refuse(const channel_core& core, std::source_location where) {
    raise(fault_code::too_deep, severity::refused, depth_message(core, where), where);
    return {0, receipt_refused, nullptr};
}

namespace {

receipt walk_stages(frame& f, const void* payload) {
    channel_core& core = *f.core;
    const std::uint32_t now = core.next_born;
    std::size_t walked = 0;
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        const entry* const first = list->entries;
        const std::uint32_t count = count_before(*list, now);
        if (count != 0) {
            walked += static_cast<std::size_t>(serve_entries(f, first, first + count, payload) - first);
        }
        if ((f.unusual & (frame_ruled | frame_closed)) != 0) {
            break;
        }
    }
    return finish(f, walked);
}

} // namespace

receipt finish_plain(const entry* at) {
    frame& f = this_thread.outermost;
    // Some handler ran, so the last entry walked tells the array.
    return finish(f, static_cast<std::size_t>(at - f.core->base.array_of(at - 1)));
}

namespace {

void keep_if_wanted(channel_core& core, const void* payload) {
    if ((core.work & work_keeps) != 0) {
        core.kept->keep(payload);
    }
}

} // namespace

namespace {

#if defined(__GNUC__)
__attribute__((noinline))
#endif
receipt
deliver_without_notes(channel_core& core, const void* payload, std::source_location where) {
    if (core.work == work_closed) [[unlikely]] {
        return {0, receipt_closed, nullptr};
    }
    frame* const outer = innermost();
    if (outer == nullptr) {
        if ((core.work & work_compact) != 0) {
            tidy(core);
        }
        keep_if_wanted(core, payload);
        this_thread.outermost.core = &core;
        return walk_stages(this_thread.outermost, payload);
    }
    if (outer->depth + 1 >= depth_limit()) [[unlikely]] {
        return refuse(core, where);
    }
    keep_if_wanted(core, payload);
    frame f;
    enter_nested(f, core, *outer, where);
    if (core.work != work_entries) [[unlikely]] {
        return walk_stages(f, payload);
    }
    const entry* const first = core.base.entries;
    const auto walked = static_cast<std::size_t>(serve_entries(f, first, core.base.past, payload) - first);
    if (f.unusual != 0) [[unlikely]] {
        return finish(f, walked);
    }
    leave_nested(f);
    return {static_cast<std::uint32_t>(walked), 0, nullptr};
}

} // namespace

receipt deliver(channel_core& core, const void* payload, std::source_location where) {
    return is_noted(core) ? deliver_noted(core, payload, where) : deliver_without_notes(core, payload, where);
}

receipt publish_named(channel_core& core, const std::string& name, const void* payload, std::source_location where) {
    const std::string own = name; // a handler may destroy the publisher
    const meanwhile<const std::string*> by(this_oversight.publisher, &own);
    return deliver(core, payload, where);
}

void deliver_to_one(channel_core& core, slot& s, const void* const* payloads, std::size_t count,
                    std::source_location where) {
    if (is_noted(core)) [[unlikely]] {
        deliver_to_one_noted(core, s, payloads, count, where);
        return;
    }
    deliver_in_frame(core, where, [&](frame& f) {
        std::size_t walked = 0;
        while (walked < count && f.end != 0 && (s.blocked & block_ended) == 0) {
            const entry hot = s.list->entries[s.index];
#if WIRED_COURIER_EXCEPTIONS
            try {
#endif
                hot.run(hot.state, payloads[walked++]);
#if WIRED_COURIER_EXCEPTIONS
            } catch (...) {
                note_failure(f, s);
            }
#endif
        }
        return walked;
    });
}

} // namespace detail
} // namespace courier::inline WIRED_COURIER_ABI
