// The subscriptions of one stage of one channel, as the delivery loop walks them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/slot.hpp>
#include <courier/stage.hpp>

#include <cstdint>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct subscription_note;

/// The hot part of a subscription: two words, side by side with its neighbours.
struct entry {
    invoke_fn run;
    void* state;
};

/// The state of an entry whose subscription has ended. Not told by what it
/// runs, since linkers may fold functions.
inline constinit char gone_mark = 0;

inline bool is_gone(const entry& e) noexcept {
    return e.state == &gone_mark;
}

/// An array that a publish in flight still walks after the list outgrew it.
struct outgrown_array {
    outgrown_array* next;
    entry* entries;
    std::uint32_t size;
};

struct stage_list {
    entry* entries = nullptr;
    entry* past = nullptr;  ///< entries + size
    slot** slots = nullptr; ///< slots[i] belongs to entries[i]; dangles when that is gone and freed
    std::uint32_t size = 0; ///< entries in use, ended ones included; see `resize()`
    std::uint32_t capacity = 0;
    std::uint32_t dead = 0; ///< entries whose subscription has ended
    stage_list* next = nullptr;
    channel_core* core = nullptr;
    stage place = ordinary;
    std::string place_name; ///< a copy, since the stage may be declared in a module that is unloaded
    outgrown_array* outgrown = nullptr;
    subscription_note** notes = nullptr; ///< as `slots`, while a ledger has the channel's books

    stage_list() = default;
    stage_list(const stage_list&) = delete;
    stage_list& operator=(const stage_list&) = delete;
    ~stage_list();

    /// Room for one more; `walked` keeps the old array for a publish in flight.
    void make_room(bool walked);
    void set_capacity(std::uint32_t wanted, bool walked);

    void resize(std::uint32_t count) noexcept {
        size = count;
        past = entries + count;
    }

    /// Replaces what the loop runs at `index`, in outgrown arrays too.
    void set_run(std::uint32_t index, invoke_fn run) noexcept;

    /// The subscription at `index` is not called any more, in no array.
    void set_gone(std::uint32_t index) noexcept;

    /// Makes room for notes, and gives it back.
    void keep_notes();
    void drop_notes() noexcept;

    /// Closes the gaps that ended subscriptions left. Not while walked.
    void compact() noexcept;
    void free_outgrown() noexcept;
    [[nodiscard]] std::size_t bytes() const noexcept;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
