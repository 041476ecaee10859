// An inbox without the types of the payloads, and the routes from inlets to
// backlogs.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/budget.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/base/shared.hpp>
#include <courier/detail/delivery/oversight.hpp>
#include <courier/detail/later/backlog_user.hpp>
#include <courier/detail/later/sending_log.hpp>
#include <courier/detail/later/waiting_places.hpp>

#include <atomic>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// From the inlets of one target to its backlog. Lives until no inlet is left
/// and what they sent has been read.
struct inbox_route {
    /// Posts what comes next in `from`, as long as it goes this way and `most`
    /// are not reached; returns how many. None when the backlog could not make room
    /// for one, which `failed` tells.
    std::size_t (*arrive)(inbox_core& core, inbox_route& route, sending_log& from, std::size_t most,
                          first_failure& failed);
    /// Destroys what comes next in `from`, which goes this way.
    void (*discard)(sending_log& from) noexcept;

    backlog_user backlog;    ///< the owner's
    std::uint64_t taken = 0; ///< the owner's: how many have been read
    std::atomic<std::size_t> inlets{0};
    std::atomic<std::uint64_t> sent{0}; ///< by the inlets that have ended
};

struct inbox_core {
    inbox_core(std::string_view inbox_name, std::size_t bound, std::function<void()> hook);
    inbox_core(const inbox_core&) = delete;
    inbox_core& operator=(const inbox_core&) = delete;
    /// Destroys what nobody has taken in; on the thread of whoever was last.
    ~inbox_core();

    // Read by all, hardly ever written.
    const std::uint64_t number;
    const std::size_t limit;
    const std::function<void()> wake;
    const bool wakes;
    std::atomic<bool> closed{false};
    const std::string name;

    // Written by all, but not for each payload.
    alignas(cache_line) std::atomic<sending_log*> new_logs{nullptr};
    std::atomic<std::size_t> room;       ///< how many more may be on their way
    std::atomic<std::size_t> writers{0}; ///< logs, about
    std::atomic<std::uint64_t> turned_away{0};
    std::atomic<bool> idle{true};         ///< the owner wants to be woken
    std::atomic<bool> routes_left{false}; ///< a route has lost its last inlet

    // The owner's.
    alignas(cache_line) sending_log* newest_log = nullptr; ///< a ring; the next one is the first to be read
    std::vector<owned<inbox_route>> routes;
    std::uint64_t told_turned_away = 0;
    bool was_refusing = false;
    bool taking = false;
    waiting_place place; ///< known to ledgers
    static waiting_place::contents look_into(const void* inbox);
};

shared<inbox_core> open_inbox(std::string_view name, std::size_t limit, std::function<void()> wake);
void close_inbox(inbox_core& core) noexcept;

/// Enters a route; on the owner's thread.
inbox_route& enter_route(inbox_core& core, owned<inbox_route> route);

/// What `send()` does when the way at hand is not open: this thread's log with
/// room for so many bytes, or null when the payload is turned away.
sending_log* make_way(const shared<inbox_core>& of, std::size_t bytes);

/// Wakes the owner if it wants to be woken.
void wake_owner(inbox_core& core) noexcept;

/// Moves what has arrived into its backlogs; on the owner's thread.
std::size_t take_in(inbox_core& core, const budget& most);
[[nodiscard]] std::size_t waiting_in(inbox_core& core) noexcept;

/// What is true while something that was sent is posted.
class as_sent {
public:
    explicit as_sent(std::uint64_t cause) noexcept
        : by_({unpacked_cause(cause), 0, this_oversight.serial, !is_from_here(cause)}) {} // not what goes on here

private:
    caused_by by_;
};

/// How items of one type are read.
template <class Item, class Backlog>
struct reading_of {
    /// What is read is gone, whatever becomes of it.
    class one {
    public:
        explicit one(sending_log& from) noexcept : one(from, *from.read_at()) {}
        one(sending_log& from, message_head& head) noexcept
            : item_(std::launder(reinterpret_cast<Item*>(place_in_log<Item>::of(head)))) {
            from.read_to(reinterpret_cast<std::byte*>(item_) + place_in_log<Item>::size);
        }
        one(const one&) = delete;
        one& operator=(const one&) = delete;
        ~one() { item_->~Item(); }
        Item& operator*() const noexcept { return *item_; }

    private:
        Item* item_;
    };

    static std::size_t arrive(inbox_core& core, inbox_route& route, sending_log& from, std::size_t most,
                              first_failure& failed) {
        std::size_t count = 0;
        bool fits = true;
        while (count < most && fits && from.read_at()->route() == &route &&
               !core.closed.load(std::memory_order_relaxed)) {
            if (!route.backlog.open()) {
                const one unwanted(from);
                ++count;
                ++route.taken;
                continue;
            }
            auto& backlog = static_cast<Backlog&>(*route.backlog.get());
            const std::size_t left = most - count;
            const std::size_t at_once = !backlog.takes_plainly() ? 1 : left < 1024 ? left : 1024;
            fits = false;
            failed.run([&] {
                backlog.make_room(at_once);
                fits = true;
            });
            if (!fits) {
                break;
            }
            if constexpr (std::is_trivially_copyable_v<Item>) {
                if (backlog.takes_plainly()) { // nothing of the user's runs
                    const std::size_t read = from.template read_run<Item>(
                        route, at_once, [&backlog](const Item& item) { backlog.append(item); });
                    count += read;
                    route.taken += read;
                    continue;
                }
            }
            message_head& head = *from.read_at();
            const std::uint64_t cause = head.cause();
            const one item(from, head);
            ++count;
            ++route.taken;
            failed.run([&] { post(backlog, std::move(*item), cause); });
        }
        return count;
    }

    static void discard(sending_log& from) noexcept { const one item(from); }

private:
    static void post(Backlog& backlog, Item&& item, std::uint64_t cause) {
        if (overseen()) [[unlikely]] {
            const as_sent now(cause);
            backlog.post_item(std::move(item));
        } else {
            backlog.post_item(std::move(item));
        }
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
