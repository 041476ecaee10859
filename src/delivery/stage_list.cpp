// SPDX-License-Identifier: MIT
#include <courier/detail/delivery/stage_list.hpp>

#include <courier/detail/delivery/flight.hpp>

#include <algorithm>
#include <cstring>
#include <memory>
#include <new>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t bytes_per_entry = sizeof(entry) + sizeof(slot*);

// Small lists grow by half; large ones by a quarter, which keeps the unused
// part of a subscription's share small.
std::uint32_t next_capacity(std::uint32_t now) {
    if (now < 4) {
        return 4;
    }
    return now + (now < 256 ? now / 2 : now / 4);
}

} // namespace

stage_list::~stage_list() {
    free_outgrown();
    drop_notes();
    ::operator delete(entries);
}

void stage_list::keep_notes() {
    if (notes == nullptr && capacity != 0) {
        notes = new subscription_note* [capacity] {};
    }
}

void stage_list::drop_notes() noexcept {
    delete[] std::exchange(notes, nullptr);
}

void stage_list::make_room(bool walked) {
    if (size == capacity) {
        set_capacity(next_capacity(capacity), walked);
    }
}

// Entries and slot pointers share one allocation: entries first, slots behind.
void stage_list::set_capacity(std::uint32_t wanted, bool walked) {
    std::unique_ptr<outgrown_array> keep;
    if (walked && entries != nullptr) {
        keep = std::make_unique<outgrown_array>(outgrown_array{outgrown, entries, size});
    }
    std::unique_ptr<subscription_note*[]> new_notes;
    if (notes != nullptr && wanted != 0) {
        new_notes = std::make_unique<subscription_note*[]>(wanted);
        std::copy(notes, notes + size, new_notes.get());
    }
    void* memory = wanted != 0 ? ::operator new(wanted* bytes_per_entry) : nullptr;
    auto* new_entries = static_cast<entry*>(memory);
    auto* new_slots = reinterpret_cast<slot**>(new_entries + wanted);
    if (size != 0) {
        std::memcpy(new_entries, entries, size * sizeof(entry));
        std::memcpy(new_slots, slots, size * sizeof(slot*));
    }
    if (keep != nullptr) {
        outgrown = keep.release();
    } else {
        ::operator delete(entries);
    }
    if (notes != nullptr) {
        drop_notes();
        notes = new_notes.release();
    }
    entries = new_entries;
    slots = new_slots;
    capacity = wanted;
    resize(size);
}

void stage_list::set_run(std::uint32_t index, invoke_fn run) noexcept {
    entries[index].run = run;
    for (outgrown_array* old = outgrown; old != nullptr; old = old->next) {
        if (index < old->size) {
            old->entries[index].run = run;
        }
    }
}

void stage_list::set_gone(std::uint32_t index) noexcept {
    set_run(index, &skip);
    entries[index].state = &gone_mark;
}

void stage_list::compact() noexcept {
    std::uint32_t to = 0;
    constexpr std::uint32_t ahead = 12; // the slots lie at random, and what they hold is changed
    for (std::uint32_t from = 0; from < size; ++from) {
#if defined(__GNUC__)
        if (from + ahead < size && !is_gone(entries[from + ahead])) {
            __builtin_prefetch(slots[from + ahead], 1);
        }
#endif
        if (is_gone(entries[from])) {
            continue;
        }
        if (to != from) {
            slot* s = slots[from];
            entries[to] = entries[from];
            slots[to] = s;
            if (notes != nullptr) {
                notes[to] = std::exchange(notes[from], nullptr);
            }
            s->index = to & most_entries;
        }
        ++to;
    }
    resize(to);
    dead = 0;
}

void stage_list::free_outgrown() noexcept {
    while (outgrown != nullptr) {
        outgrown_array* gone = outgrown;
        outgrown = gone->next;
        ::operator delete(gone->entries);
        delete gone;
    }
}

std::size_t stage_list::bytes() const noexcept {
    std::size_t sum = capacity * bytes_per_entry;
    for (const outgrown_array* old = outgrown; old != nullptr; old = old->next) {
        sum += sizeof(outgrown_array) + old->size * bytes_per_entry;
    }
    return sum;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
