// SPDX-License-Identifier: MIT
// Publishing to one address, and to many.
#include "delivery/walk.hpp"

#include <courier/detail/delivery/address_book.hpp>
#include <courier/detail/delivery/address_told.hpp>
#include <courier/detail/delivery/kept.hpp>
#include <courier/detail/delivery/onlooker.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
thread_local constinit told_address newest_address;

void serve_by_order(channel_core& core, slot& s, std::vector<kept_place>& places, const served_late& late,
                    std::source_location where) {
    std::sort(places.begin(), places.end(), [](const kept_place& a, const kept_place& b) { return a.order < b.order; });
    if (s.to_all == 0 && places.size() > 1) {
        places.erase(places.begin(), places.end() - 1);
    }
    if ((core.work & work_tells) != 0) {
        for (const kept_place& p : places) {
            if (late.is_there()) {
                const telling_address now(core, p.address);
                deliver_to_one(core, s, &p.payload, 1, where);
            }
        }
        return;
    }
    std::vector<const void*> payloads;
    payloads.reserve(places.size());
    for (const kept_place& p : places) {
        payloads.push_back(p.payload);
    }
    if (late.is_there()) {
        deliver_to_one(core, s, payloads.data(), payloads.size(), where);
    }
}

namespace {

bool is_served_before(const address_part& a, const address_part& b) noexcept {
    if (a.self->list != b.self->list) {
        return a.self->list->place < b.self->list->place;
    }
    return !born_since(*a.self, static_cast<std::uint32_t>(b.self->born));
}

bool is_served_before_ptr(const address_part* a, const address_part* b) noexcept {
    return is_served_before(*a, *b);
}

/// Two lists, merged. What is linked into one meanwhile stands at the end of
/// its stage; what leaves stays linked until the publish is over.
struct merged_lists {
    address_part* a;
    address_part* b;

    address_part* next() noexcept {
        if (served != nullptr) {
            *served = (*served)->next; // not before it has been served
        }
        served = a != nullptr && (b == nullptr || is_served_before(*a, *b)) ? &a : &b;
        return *served != nullptr ? *served : (served = nullptr, nullptr);
    }

    address_part** served = nullptr;
};

// What ended in a publish that is under way is still listed.
bool is_ended(const address_part& part) noexcept {
    return (part.self->blocked & block_ended) != 0;
}

// The plain case: one subscription, no handler is publishing. What is in the
// cell is copied, since it may move while the handler runs.
receipt deliver_alone(channel_core& core, const entry alone, [[maybe_unused]] address_part* part, const void* payload) {
    flight& f = this_thread.outermost;
    f.begin(core);
    serve_one(f, *part->self, alone, payload);
    if (!f.is_usual()) [[unlikely]] {
        return finish(f, 1);
    }
    f.end();
    return receipts::made(1);
}

} // namespace

bool anybody_at(const channel_core& core, const address_part* first) noexcept {
    if (core.limbo != nullptr) {
        while (first != nullptr && is_ended(*first)) {
            first = first->next;
        }
    }
    return first != nullptr;
}

std::vector<address_part*> collect_at(const channel_core& core, address_part* first, bool& vacant) {
    std::vector<address_part*> parts;
    for (address_part* part = first; part != nullptr; part = part->next) {
        if (!is_ended(*part)) {
            parts.push_back(part);
        }
    }
    vacant = parts.empty();
    for (address_part* part = core.book->listeners(); part != nullptr; part = part->next) {
        if (!is_ended(*part)) {
            parts.push_back(part);
        }
    }
    std::sort(parts.begin(), parts.end(), is_served_before_ptr);
    return parts;
}

receipt deliver_at_without_notes(channel_core& core, const address_cell& at, const void* payload,
                                 std::source_location where) {
    address_part* const listeners = core.book->listeners();
    address_part* const first = at.first;
    if (first != nullptr && at.alone.run != nullptr && listeners == nullptr && innermost() == nullptr) {
        return deliver_alone(core, at.alone, first, payload);
    }
    const bool vacant = !anybody_at(core, first);
    if (vacant) {
        core.book->note_vacant(where);
    }
    return with_vacancy(deliver_in_flight(core, where,
                                          [=](flight& f) {
                                              unobserved nobody;
                                              return walk_turns(f, merged_lists{first, listeners}, payload, nobody);
                                          }),
                        vacant);
}

receipt deliver_at(channel_core& core, const address_cell& at, const void* payload, std::source_location where) {
    if (is_noted(core)) [[unlikely]] {
        return looks_on().publish_at(core, at, payload, where, nothing_to_say);
    }
    return deliver_at_without_notes(core, at, payload, where);
}

receipt deliver_at_as(channel_core& core, const address_cell& at, const void* payload, std::source_location where,
                      const publish_note& note) {
    return is_noted(core) ? looks_on().publish_at(core, at, payload, where, note)
                          : deliver_at_without_notes(core, at, payload, where);
}

work_area::work_area(channel_core& of) noexcept : core(of), list(of.book->take_work_area()) {}

void work_area::add(address_part* first) {
    for (address_part* part = first; part != nullptr; part = part->next) {
        list.push_back(part);
    }
}

work_area::~work_area() {
    core->book->give_back(std::move(list));
}

receipt deliver_to_many(channel_core& core, std::vector<address_part*>& parts, const void* payload,
                        std::source_location where, const publish_note& note) {
    if (core.limbo != nullptr) {
        std::erase_if(parts, [](const address_part* part) { return is_ended(*part); });
    }
    const bool vacant = parts.empty();
    if (vacant) {
        core.book->note_vacant(where);
    }
    for (address_part* part = core.book->listeners(); part != nullptr; part = part->next) {
        parts.push_back(part);
    }
    if (!std::is_sorted(parts.begin(), parts.end(), is_served_before_ptr)) {
        std::sort(parts.begin(), parts.end(), is_served_before_ptr);
    }
    if (is_noted(core)) [[unlikely]] {
        return looks_on().publish_to_parts(core, parts, payload, where, note, vacant);
    }
    return with_vacancy(serve_parts(core, parts, payload, where), vacant);
}

receipt serve_parts(channel_core& core, const std::vector<address_part*>& parts, const void* payload,
                    std::source_location where) {
    return deliver_in_flight(core, where, [&parts, payload](flight& f) {
        unobserved nobody;
        return walk_turns(f, gathered_parts{parts}, payload, nobody);
    });
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
