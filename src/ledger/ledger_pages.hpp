// How a ledger's books are kept; used between its parts.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/ledger/ledger_core.hpp>

#include <bit>
#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Notes something, if there is memory for it: a ledger never makes what it
/// looks at fail.
template <class Step>
void keep_book(ledger_core& ledger, Step step) noexcept {
#if WIRED_COURIER_EXCEPTIONS
    try {
        step();
    } catch (...) {
        ++ledger.left_out;
    }
#else
    static_cast<void>(ledger);
    step();
#endif
}

/// While those who take what is told are walked, nobody is taken out of the list.
class telling {
public:
    explicit telling(ledger_core& of) noexcept : of_(of) { ++of_->telling; }
    telling(const telling&) = delete;
    telling& operator=(const telling&) = delete;
    ~telling() {
        if (--of_->telling == 0) {
            std::erase_if(of_->takers, [](const taker& one) { return one.to == nullptr; });
        }
    }

private:
    held<ledger_core> of_; // a function of a recorder's may end it
};

/// Tells everybody who takes what happens on these channels (null: what is
/// about none), whatever one of them does.
template <class Step>
void tell(ledger_core& ledger, const account* about, Step step) noexcept {
    if (ledger.takers.empty()) [[likely]] {
        return;
    }
    const telling now(ledger);
    for (std::size_t i = 0; i < ledger.takers.size(); ++i) {
        keep_book(ledger, [&] {
            event_sink* const to = ledger.takers[i].to;
            if (to != nullptr && (about == nullptr || to->takes(*about))) {
                step(*to);
            }
        });
    }
}

[[nodiscard]] inline code_line line_of(std::source_location where) {
    return {where.file_name(), where.line()};
}

/// The account for channels such as this one; made when it is new.
account& account_for(ledger_core& ledger, const channel_core& core);

/// The line of code that publishes here, in the ledger's list.
std::uint32_t find_publish_site(account& books, std::source_location where, std::string_view who);

inline std::uint32_t publish_site(account& books, std::source_location where, std::string_view who) {
    if (books.site != nullptr) [[likely]] {
        const code_site& newest = *books.site;
        if (newest.file_key == where.file_name() && newest.where.line == where.line() &&
            (who.empty() ? newest.who.empty() : newest.who == who)) [[likely]] {
            return books.newest_site;
        }
    }
    return find_publish_site(books, where, who);
}

/// Tells one publish in the code from another.
[[nodiscard]] inline const void* key_of(std::source_location where) noexcept {
    if constexpr (sizeof(where) == sizeof(void*)) {
        return std::bit_cast<const void*>(where); // to what the compiler keeps of each
    } else {
        return nullptr; // then they are told apart by file and line
    }
}

/// Notes that its chain has come back to the event's channel.
void note_circle(ledger_core& ledger, const event_memory& newest) noexcept;

/// Keeps an event for a while, and notes when its chain comes back to its channel.
inline void remember(ledger_core& ledger, std::uint64_t id, const origin& by, std::uint32_t channel, std::uint32_t site,
                     bool is_post) {
    std::uint64_t ancestors = 0;
    if (const event_memory* const parent = by.cause != 0 ? ledger.find(by.cause) : nullptr; parent != nullptr) {
        ancestors = parent->ancestors | (parent->is_post ? 0 : std::uint64_t{1} << (parent->channel & 63));
    }
    event_memory& m = ledger.ring[id & ledger.ring_mask];
    m.id = id;
    m.cause = by.cause;
    m.ancestors = ancestors;
    m.frame = ledger.frame;
    m.channel = channel;
    m.site = site;
    m.handling = by.handling;
    m.is_post = is_post;
    if (!is_post && ((ancestors >> (channel & 63)) & 1) != 0) [[unlikely]] {
        note_circle(ledger, m);
    }
}

/// Notes that the order of two subscriptions decided something.
void note_order(ledger_core& ledger, std::uint32_t channel, noted_handler first, noted_handler second, order_matter how,
                std::uint32_t on = 0) noexcept;

/// Gives a subscription its note.
void enter_note(ledger_core& ledger, slot& s) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
