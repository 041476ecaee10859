// When changes are announced, and what depends on them is looked at.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/values/value_core.hpp>

#include <cstddef>
#include <cstdint>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class flight;

/// Nothing is settled meanwhile.
class while_settling {
public:
    while_settling() noexcept : was_(this_values.work & value_thread::settling) {
        this_values.work |= value_thread::settling;
    }
    while_settling(const while_settling&) = delete;
    while_settling& operator=(const while_settling&) = delete;
    ~while_settling() {
        this_values.work = static_cast<std::uint8_t>((this_values.work & value_thread::waiting) | was_);
    }

private:
    std::uint8_t was_;
};
[[nodiscard]] inline bool is_settling() noexcept {
    return (this_values.work & value_thread::settling) != 0;
}
/// Something waits to be announced or rerun.
inline void note_waiting() noexcept {
    this_values.work |= value_thread::waiting;
}

/// One for each thread that has values.
///
/// A change marks everything that depends on it, however far away, and collects
/// the refreshers and watched formulas among it. Settling announces what was changed,
/// then brings each of those up to date, in waves until nothing is left.
///
/// The shortcut: where one state alone has changed, and only plain refreshers
/// read it, those are run straight from its list, and nothing is marked.
class scheduler {
public:
    scheduler() = default;
    scheduler(const scheduler&) = delete;
    scheduler& operator=(const scheduler&) = delete;
    ~scheduler() = default;

    /// Nothing has changed when memory is full; queueing readers needs none afterwards.
    void enter_reader();
    void make_room_for_change();
    [[nodiscard]] std::size_t readers() const noexcept { return readers_; }

    /// It is to be announced, or compared, when things are settled.
    void note(source_node& changed);
    /// A state has another value.
    void change(source_node& state);
    /// Puts a stale refresher or watched formula where it waits, unless it waits or sleeps.
    void collect(reader_node& stale);
    /// Brings those that were collected up to date, in the order in which they were
    /// made: runs refreshers, announces formulas. The list is empty afterwards.
    void look_at(std::vector<reader_node*>& collected, first_failure& failed);
    /// Announces and reruns until there is nothing more to do, or 100 times, of which `waves` are over.
    void settle(int waves = 0);
    [[nodiscard]] bool is_quiet() const noexcept { return changed_.empty() && queue_.empty() && shortcut_ == nullptr; }

    // What is about to go.
    void forget(source_node& node) noexcept;
    void forget(reader_node& node) noexcept;
    void forget(const dependency& read) noexcept {
        if (shortcut_next_ == &read) {
            shortcut_next_ = read.next_reader;
        }
    }

private:
    [[nodiscard]] bool may_take_shortcut(const source_node& state) const noexcept;
    void leave_shortcut();
    void run_shortcut(first_failure& failed);
    void run_shortcut_in(flight& f);
    void mark_readers(source_node& from);
    void compare_changed(first_failure& failed);
    void announce_changed(first_failure& failed);
    [[gnu::cold]] void report_restless();

    std::size_t readers_ = 0;
    source_node* shortcut_ = nullptr;                   ///< the state that has changed
    dependency* shortcut_next_ = nullptr;               ///< its next refresher, while they are run
    std::vector<source_node*> changed_;                 ///< in the order of changes
    std::vector<reader_node*> queue_;                   ///< refreshers and watched formulas that are stale
    std::vector<std::vector<reader_node*>*> in_flight_; ///< those that are being looked at, the innermost last
    std::vector<std::vector<reader_node*>> spare_;      ///< emptied ones, for their room
};

/// Takes a reader out of a list, in its place.
inline void take_out(std::vector<reader_node*>& list, const reader_node& node) noexcept {
    if (node.place < list.size() && list[node.place] == &node) {
        list[node.place] = nullptr;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
