// SPDX-License-Identifier: MIT
#include <courier/detail/delivery/channel_core.hpp>

#include "delivery/subscriptions.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/flight.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <courier/detail/delivery/relay_link.hpp>
#include <courier/fault.hpp>
#include <courier/threads.hpp>

#include <memory>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// Its address tells two copies of the library apart.
constinit char library_tag = 0;

} // namespace

channel_core::channel_core(std::string_view channel_name, const payload_kind* carries, addressing how)
    : thread(this_thread_number()), words(sizeof(slot) + part_size(how)), fulls(sizeof(full_slot) + part_size(how)),
      name(channel_name), kind(carries), library(&library_tag) {
    base.core = this;
    if (how != addressing::none) {
        book = new address_book(how);
    }
}

channel_core::~channel_core() {
    delete stop;
    delete book;
    for (stage_list* list = lists; list != nullptr;) {
        stage_list* next = list->next;
        if (list != &base) {
            delete list;
        }
        list = next;
    }
}

channel_core* open_core(std::string_view name, const payload_kind* carries, addressing how, const hub_core* by) {
    auto core = std::make_unique<channel_core>(name, carries, how);
    core->hub = by;
    enter_registry(*core);
    if (overseen()) [[unlikely]] {
        looks_on().opened(*core);
    }
    return core.release();
}

channel_core& nowhere() noexcept {
    static channel_core* const one = [] {
        auto* core = new channel_core({}, nullptr, addressing::none); // NOLINT(bugprone-unhandled-exception-at-new)
        core->closed = true;
        core->work = work_closed;
        return core;
    }();
    return *one;
}

void close_core(channel_core& core) noexcept {
    if (checked_build) {
        check_use(core, "destroyed", std::source_location{});
    }
    core.closed = true;
    core.work = work_closed; // what captures publish while they are destroyed is heard by nobody
    for (flight* f = innermost(); f != nullptr; f = f->outer()) {
        if (&f->channel() == &core) {
            f->close();
            static_cast<void>(held(core).let_go()); // taken over when that publish has unwound
        }
    }
    for (stage_list* list = core.lists; list != nullptr; list = list->next) {
        for (std::uint32_t i = 0; i < list->size; ++i) {
            if (!is_gone(list->entries[i])) {
                detach(*list->slots[i]);
            }
        }
    }
    if (is_noted(core)) [[unlikely]] {
        looks_on().closed(core);
    }
    leave_registry(core); // not before, since a ledger that ends meanwhile looks for it there
    cut_relays(core);
    static_cast<void>(held<channel_core>::taking_over(&core));
}

void release(channel_core& core) noexcept {
    if (--core.refs == 0) {
        delete &core;
    }
}

void reserve(channel_core& core, std::size_t count) {
    core.fulls.reserve(count);
    stage_list& list = core.base;
    if (list.capacity < list.size + count) {
        const bool walked = outermost_on(core) != nullptr;
        list.set_capacity(static_cast<std::uint32_t>(list.size + count), walked);
        if (walked && list.outgrown != nullptr) {
            outermost_on(core)->ask_clean_up();
        }
    }
}

void keep_in(channel_core& core, kept_payloads* by) noexcept {
    const held<kept_payloads> before = std::exchange(core.kept, held<kept_payloads>::taking_over(by)); // ended last
    if (!core.closed) {
        core.work = by != nullptr ? core.work | work_keeps : core.work & ~static_cast<std::uint32_t>(work_keeps);
    }
}

void shrink(channel_core& core) noexcept {
    if (outermost_on(core) != nullptr) {
        return; // what is walked cannot be given back
    }
    for (stage_list** at = &core.lists; *at != nullptr;) {
        stage_list* list = *at;
        list->compact();
        if (list->size == 0 && list != &core.base) {
            *at = list->next;
            delete list;
            continue;
        }
        if (list->capacity != list->size) {
            if_memory_allows([list] { list->set_capacity(list->size, false); });
        }
        at = &list->next;
    }
    tidy(core);
    core.words.shrink();
    core.fulls.shrink();
    if (core.book != nullptr) {
        core.book->shrink();
    }
}

std::size_t bytes(const channel_core& core) noexcept {
    std::size_t sum = sizeof(channel_core) + core.words.bytes() + core.fulls.bytes();
    sum += core.book != nullptr ? core.book->bytes() : 0;
    for (const stage_list* list = core.lists; list != nullptr; list = list->next) {
        sum += list->bytes() + (list != &core.base ? sizeof(stage_list) : 0);
    }
    return sum;
}

void check_use(const channel_core& core, const char* what, std::source_location where) {
    if (core.library != &library_tag) {
        raise(fault_code::two_libraries, severity::misuse,
              "channel '" + core.name + "' is " + what + " by a second copy of the library",
              "link the program and its modules to one shared library", where);
    }
    if (core.book != nullptr && core.book->comparing()) {
        raise(fault_code::changed_in_use, severity::misuse,
              "channel '" + core.name + "' is " + what +
                  " by the comparison of two of its addresses, while one is looked up",
              "let comparisons only compare", where);
    }
    if (const std::uint32_t here = this_thread_number(); core.thread != here) {
        raise(fault_code::wrong_thread, severity::misuse,
              "channel '" + core.name + "' belongs to " + describe_thread(core.thread) + " and is " + what + " by " +
                  describe_thread(here),
              "use it on its own thread only, or hand it over with adopt()", where);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
