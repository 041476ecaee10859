// Where payloads wait until the game calls: outboxes and inboxes.
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A member of an outbox' or inbox' core; in its thread's list while that is open.
class waiting_place {
public:
    struct contents {
        std::size_t payloads = 0;
        std::source_location posted; ///< such as there
    };
    using look = contents (*)(const void* whose);

    waiting_place(const std::string& name, bool is_inbox, look how, const void* whose) noexcept;
    waiting_place(const waiting_place&) = delete;
    waiting_place& operator=(const waiting_place&) = delete;
    ~waiting_place() { leave(); }

    /// On the thread that made it.
    void leave() noexcept;

    /// Something begins to wait for a call of the game's; or that came.
    void note_frame() noexcept;
    void note_call() noexcept;

private:
    friend std::vector<struct left_waiting> list_left_waiting();

    const std::string& name_;
    look look_;
    const void* whose_;
    waiting_place* next_ = nullptr;
    waiting_place** back_ = nullptr; ///< what points to this one; null: not in the list
    std::uint64_t since_frame_ = 0;
    bool is_inbox_;
    bool was_called_ = false;
};

/// What waits in one place.
struct left_waiting {
    std::string name;
    bool is_inbox;
    std::size_t payloads;
    std::source_location posted; ///< one of them; empty: not known
    std::uint64_t since_frame;   ///< of the thread's ledger: no call since
    bool was_called;             ///< ever
};

/// All places of the calling thread in which something waits, the oldest first.
[[nodiscard]] std::vector<left_waiting> list_left_waiting();

} // namespace detail
WIRED_COURIER_NAMESPACE_END
