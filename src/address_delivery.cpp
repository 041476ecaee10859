// Publishing to one address, and to many.
#include "in_flight.hpp"
#include "noted.hpp"

#include <courier/detail/address_book.hpp>

#include <algorithm>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

std::vector<const void*> in_order(std::vector<kept_place> places) {
    std::sort(places.begin(), places.end(), [](const kept_place& a, const kept_place& b) { return a.order < b.order; });
    std::vector<const void*> payloads;
    payloads.reserve(places.size());
    for (const kept_place& p : places) {
        payloads.push_back(p.payload);
    }
    return payloads;
}

namespace {

/// Serves one part after the other and knows when to stop.
class round {
public:
    round(frame& f, const void* payload) noexcept : f_(f), payload_(payload), begun_(f.core->next_born) {}

    [[nodiscard]] std::size_t walked() const noexcept { return walked_; }

    /// False when nobody after `part` is to be served.
    bool serve(address_part& part) {
        if (walked_ != 0) { // the very first one was there when the publish began
            if (born_since(*part.self, begun_)) {
                return true;
            }
            if ((f_.unusual & frame_ruled) != 0 && part.self->list != last_->self->list) {
                return false;
            }
        }
        last_ = &part;
        ++walked_;
#if WIRED_COURIER_EXCEPTIONS
        try {
#endif
            part.hot.run(part.hot.state, payload_);
#if WIRED_COURIER_EXCEPTIONS
        } catch (...) {
            note_failure(f_, *part.self);
        }
#endif
        return f_.end != 0;
    }

private:
    frame& f_;
    const void* payload_;
    std::uint32_t begun_;
    std::size_t walked_ = 0;
    const address_part* last_ = nullptr;
};

bool is_served_before(const address_part& a, const address_part& b) noexcept {
    if (a.self->list != b.self->list) {
        return a.self->list->place < b.self->list->place;
    }
    return !born_since(*a.self, static_cast<std::uint32_t>(b.self->born));
}

bool is_served_before_ptr(const address_part* a, const address_part* b) noexcept {
    return is_served_before(*a, *b);
}

// What is linked into a list meanwhile stands at the end of its stage, and is
// left out; what leaves stays linked until the publish is over.
std::size_t walk_two_lists(frame& f, address_part* a, address_part* b, const void* payload) {
    round now(f, payload);
    while (a != nullptr || b != nullptr) {
        address_part*& next = b == nullptr || (a != nullptr && is_served_before(*a, *b)) ? a : b;
        if (!now.serve(*next)) {
            break;
        }
        next = next->next;
    }
    return now.walked();
}

// What ended in a publish that is under way is still listed.
bool is_ended(const address_part& part) noexcept {
    return (part.self->blocked & block_ended) != 0;
}

receipt with_vacancy(receipt r, bool vacant) noexcept {
    return vacant ? r.marked(receipt_vacant) : r;
}

// The plain case: one subscription, no handler is publishing. What is in the
// cell is copied, since it may move while the handler runs.
receipt deliver_alone(channel_core& core, const entry alone, [[maybe_unused]] address_part* part, const void* payload) {
    frame& f = this_thread.outermost;
    f.core = &core;
#if WIRED_COURIER_EXCEPTIONS
    try {
#endif
        alone.run(alone.state, payload);
#if WIRED_COURIER_EXCEPTIONS
    } catch (...) {
        note_failure(f, *part->self);
    }
#endif
    if (f.unusual != 0) [[unlikely]] {
        return finish(f, 1);
    }
    f.core = nullptr;
    return {1, 0, nullptr};
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

namespace {

// Those at an address and those who listen to all, in order.
receipt deliver_at_noted(channel_core& core, address_part* first, const void* payload, std::source_location where) {
    std::vector<address_part*> parts;
    for (address_part* part = first; part != nullptr; part = part->next) {
        parts.push_back(part);
    }
    std::erase_if(parts, [](const address_part* part) { return is_ended(*part); });
    const bool vacant = parts.empty();
    if (vacant) {
        core.book->note_vacant(where);
    }
    for (address_part* part = core.book->listeners(); part != nullptr; part = part->next) {
        if (!is_ended(*part)) {
            parts.push_back(part);
        }
    }
    std::sort(parts.begin(), parts.end(), is_served_before_ptr);
    return deliver_parts_noted(core, parts, payload, where, vacant);
}

} // namespace

receipt deliver_at(channel_core& core, const address_cell& at, const void* payload, std::source_location where) {
    if (is_noted(core)) [[unlikely]] {
        return deliver_at_noted(core, at.first, payload, where);
    }
    address_part* const listeners = core.book->listeners();
    address_part* const first = at.first;
    if (first != nullptr && at.alone.run != nullptr && listeners == nullptr && innermost() == nullptr) {
        return deliver_alone(core, at.alone, first, payload);
    }
    const bool vacant = !anybody_at(core, first);
    if (vacant) {
        core.book->note_vacant(where);
    }
    return with_vacancy(
        deliver_in_frame(core, where, [=](frame& f) { return walk_two_lists(f, first, listeners, payload); }), vacant);
}

receipt deliver_to_many(channel_core& core, std::vector<address_part*>&& parts, const void* payload,
                        std::source_location where) {
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
    retain(core); // the area goes back to the book, whatever happens to the channel
    struct area_returned {
        channel_core& core;
        std::vector<address_part*>& parts;
        ~area_returned() {
            core.book->give_back(std::move(parts));
            release(core);
        }
    } const returned{core, parts};
    if (is_noted(core)) [[unlikely]] {
        return deliver_parts_noted(core, parts, payload, where, vacant);
    }
    return with_vacancy(deliver_in_frame(core, where,
                                         [&parts, payload](frame& f) {
                                             round now(f, payload);
                                             for (address_part* part : parts) {
                                                 if (!now.serve(*part)) {
                                                     break;
                                                 }
                                             }
                                             return now.walked();
                                         }),
                        vacant);
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
