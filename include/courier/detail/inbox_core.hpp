// What threads send one another, without the types of the payloads.
#pragma once

#include <courier/poster.hpp>

#include <atomic>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <functional>
#include <memory>
#include <new>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

struct inbox_core;

/// Payloads up to this many bytes travel inside their message; larger ones
/// take an allocation each.
inline constexpr std::size_t inline_message = 48;

/// From a sender to a lane. Lives until no sender and no message needs it.
struct inbox_route {
    void (*relocate)(void* to, void* from) noexcept; ///< null: the bytes are copied
    void (*destroy)(void* stored) noexcept;          ///< null: nothing to do
    void (*arrive)(lane_base& lane, void* stored);   ///< posts it; `stored` is destroyed afterwards
    lane_user lane;                                  ///< touched by the owner only
    std::atomic<std::size_t> senders{0};
};

/// One payload on its way.
struct message {
    const inbox_route* route = nullptr;
    std::uint64_t cause; ///< of the sending thread; in what would be padding
    alignas(std::max_align_t) std::byte stored[inline_message];

    message() noexcept {} // NOLINT(modernize-use-equals-default): leaves the bytes alone
    message(message&& other) noexcept { take(other); }
    message& operator=(message&& other) noexcept {
        reset();
        take(other);
        return *this;
    }
    ~message() { reset(); }

    void reset() noexcept {
        if (route != nullptr && route->destroy != nullptr) {
            route->destroy(stored);
        }
        route = nullptr;
    }

private:
    void take(message& other) noexcept {
        route = std::exchange(other.route, nullptr);
        cause = other.cause;
        if (route == nullptr) {
            return;
        }
        if (route->relocate != nullptr) {
            route->relocate(stored, other.stored);
        } else {
            std::memcpy(stored, other.stored, inline_message);
        }
    }
};

template <class Item>
inline constexpr bool
    fits_a_message = sizeof(Item) <= inline_message &&
                     alignof(Item) <= alignof(std::max_align_t) && std::is_nothrow_move_constructible_v<Item>;

/// How items of one type are stored in a message.
template <class Item, class Lane>
struct message_of {
    using stored = std::conditional_t<fits_a_message<Item>, Item, std::unique_ptr<Item>>;

    static void put(message& m, Item&& item) {
        if constexpr (fits_a_message<Item>) {
            ::new (m.stored) Item(std::move(item));
        } else {
            ::new (m.stored) stored(std::make_unique<Item>(std::move(item)));
        }
    }

    static void set_up(inbox_route& route) noexcept {
        route.relocate = nullptr;
        route.destroy = nullptr;
        if constexpr (!std::is_trivially_copyable_v<stored>) {
            route.relocate = [](void* to, void* from) noexcept {
                auto& old = *std::launder(static_cast<stored*>(from));
                ::new (to) stored(std::move(old));
                old.~stored();
            };
        }
        if constexpr (!std::is_trivially_destructible_v<stored>) {
            route.destroy = [](void* at) noexcept { std::launder(static_cast<stored*>(at))->~stored(); };
        }
        route.arrive = [](lane_base& lane, void* at) {
            auto& held = *std::launder(static_cast<stored*>(at));
            if constexpr (fits_a_message<Item>) {
                static_cast<Lane&>(lane).post_item(std::move(held));
            } else {
                static_cast<Lane&>(lane).post_item(std::move(*held));
            }
        };
    }
};

/// For sharing between threads; the queue itself is in the compiled part.
std::shared_ptr<inbox_core> open_inbox(std::string_view name, std::size_t most, std::function<void()> wake);
void close_inbox(inbox_core& core) noexcept;

/// Enters a route; on the owner's thread.
inbox_route& enter_route(inbox_core& core, std::unique_ptr<inbox_route> route);

/// From any thread; false when it is refused or the inbox is closed.
bool send(inbox_core& core, message&& one);

/// Moves what has arrived into its lanes; on the owner's thread.
std::size_t take_in(inbox_core& core);
[[nodiscard]] std::size_t waiting_in(const inbox_core& core) noexcept;
[[nodiscard]] std::uint64_t refused_by(const inbox_core& core) noexcept;
[[nodiscard]] bool is_closed(const inbox_core& core) noexcept;
[[nodiscard]] const std::string& name_of(const inbox_core& core) noexcept;

} // namespace courier::inline WIRED_COURIER_ABI::detail
