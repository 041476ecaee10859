// Where payloads wait until the game calls: outboxes, inboxes and timetables.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/waiting_kind.hpp>

#include <cstddef>
#include <cstdint>
#include <optional>
#include <source_location>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A member of the core of an outbox, inbox or timetable; in its thread's list while that is open.
class waiting_place {
public:
    struct contents {
        std::size_t payloads = 0;
        std::source_location posted; ///< such as there
    };
    using look = contents (*)(const void* whose);

    waiting_place(const std::string& name, waiting_kind kind, look how, const void* whose) noexcept;
    waiting_place(const waiting_place&) = delete;
    waiting_place& operator=(const waiting_place&) = delete;
    ~waiting_place() { unlink(); }

    /// Leaves what waits in a last report. While it can be looked into, on the thread that made it.
    void leave() noexcept;

    /// Something begins to wait for a call of the game's; or that came.
    void note_frame() noexcept;
    void note_call() noexcept;

private:
    friend std::vector<struct left_waiting> list_left_waiting();
    void unlink() noexcept;
    [[nodiscard]] struct left_waiting report(const contents& in) const;

    const std::string& name_;
    look look_;
    const void* whose_;
    waiting_place* next_ = nullptr;
    waiting_place** back_ = nullptr; ///< what points to this one; null: not in the list
    std::uint64_t since_frame_ = 0;
    waiting_kind kind_;
    bool was_called_ = false;
};

/// What waits in one place.
struct left_waiting {
    std::string name;
    waiting_kind kind;
    std::size_t payloads;
    std::source_location posted;              ///< one of them; empty: not known
    std::uint64_t since_frame;                ///< of the thread's ledger: no call since
    bool was_called;                          ///< ever
    std::optional<std::uint64_t> ended_frame; ///< in which the place ended; empty: it is there
};

/// All places of the calling thread in which something waits, the oldest first.
[[nodiscard]] std::vector<left_waiting> list_left_waiting();

} // namespace detail
WIRED_COURIER_NAMESPACE_END
