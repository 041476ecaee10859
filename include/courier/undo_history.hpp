// Undo and redo of changes to values.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/values/value_port.hpp>
#include <courier/hub.hpp>
#include <courier/together.hpp>

#include <cstddef>
#include <source_location>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

/// A share in what a history knows, in the source file.
struct undo_share;
struct end_undo_share {
    void operator()(undo_share* gone) const noexcept;
};
using undo_part = owned<undo_share, end_undo_share>;

/// A step is being made; its history may end meanwhile.
class undo_step {
public:
    explicit undo_step(const undo_part& of);
    undo_step(const undo_step&) = delete;
    undo_step& operator=(const undo_step&) = delete;
    ~undo_step();

private:
    undo_part own_;
};

} // namespace detail

/// Takes back what was changed together, and does it again: for editors, puzzles, and testers who try something.
///
///     courier::undo_history steps{50};
///     steps.keep(tide);
///     steps.keep(berths);
///     steps.together([&] { tide.set(3); berths.add("mole"); });   // one step
///     steps.undo();                                               // both are as they were, announced as one change
///     steps.redo();
///
/// A step has the values that it changed before and after, also where a handler or refresher that heard of a change
/// changed more. What handlers change on hearing that a step is undone is set back at once, so they need no code for
/// it. A change outside of a step stays until an undone step gives the value what it had before. The newest `limit`
/// steps are kept. A new step forgets those that were undone.
///
/// It copies each value that it keeps once, and twice for each step that changed it. Values may end at any time.
/// Belongs to the thread of its values. Every member may be called by a handler, which may also destroy it. Can be
/// neither copied nor moved.
class undo_history {
public:
    /// Has the newest `limit` steps; with 0 nothing can be undone.
    explicit undo_history(std::size_t limit = 100);
    undo_history(const undo_history&) = delete; // courier: neither copied nor moved; hold its object by std::unique_ptr
    undo_history& operator=(const undo_history&) = delete;
    ~undo_history();

    /// Steps have the changes of this state or announced list from now on. Keeping it twice is the same as once.
    template <class Value>
        requires requires(Value& value) { detail::port_of(value); }
    void keep(Value& value, std::source_location where = std::source_location::current()) {
        static_assert(detail::has_copies<typename Value::value_type>,
                      "courier: steps copy values; this type has no copy");
        static_assert(detail::value_ops_of<Value>::can_set, "courier: a formula follows from other values; keep those");
        keep(detail::port_of(value), where);
    }
    /// The states and lists of a hub and of the hubs below it (`hub::value()`), now and later. The hub may end first.
    void keep(hub& all, std::source_location where = std::source_location::current());

    /// Carries `changes` out together, as `courier::together()`, and makes a step of what they changed, if anything.
    /// Inside of another `together()` it is a part of that, and does not become a step; then false. When `changes` or a
    /// handler throws, what was changed is a step all the same.
    template <class Changes>
    bool together(Changes&& changes) {
        if (detail::this_hold.holds != 0) {
            courier::together(changes);
            return false;
        }
        const detail::undo_step now(core_);
        courier::together(changes);
        return true;
    }

    /// Gives the values of the newest step what they had before it. False when there is none, or inside of a step.
    bool undo(std::source_location where = std::source_location::current());
    /// Gives the values of the step that was undone last what they had after it. False when there is none.
    bool redo(std::source_location where = std::source_location::current());

    /// How many steps can be undone.
    [[nodiscard]] std::size_t undoable() const noexcept;
    /// How many steps can be redone.
    [[nodiscard]] std::size_t redoable() const noexcept;
    /// Forgets all steps, and keeps the values.
    void clear() noexcept;

private:
    void keep(const detail::port& value, std::source_location where);

    detail::undo_part core_;
};

WIRED_COURIER_NAMESPACE_END
