// Payloads of one channel on their way through an outbox.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/depth.hpp>
#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/later/backlog_base.hpp>
#include <courier/detail/later/sleepers.hpp>
#include <courier/posting_options.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <source_location>
#include <span>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The part of a backlog that does not depend on whether there are addresses.
/// `Item` is what waits.
template <class Payload, class Item>
class backlog_of : public backlog_base {
    static_assert(std::is_nothrow_move_constructible_v<Item> || std::is_copy_constructible_v<Item>,
                  "courier: a posted payload must be movable without throwing (say so with noexcept), or copyable, so "
                  "that no waiting payload is lost when a move fails; keep the part that throws in a "
                  "std::unique_ptr");

public:
    backlog_of(outbox_core& to, channel_core& on, posting_options<Payload>&& how)
        : backlog_base(to, on), how_(std::move(how)) {
        if (how_.combine && how_.keep == keep::all) {
            how_.keep = keep::one; // there is nothing else that it could mean
        }
        takes_all_ = how_.keep == keep::all && how_.limit == unbounded_size && !keeps_order;
    }
    ~backlog_of() override { // it is in no list any more
        while (first_aside_ != nullptr) {
            delete std::exchange(first_aside_, first_aside_->next);
        }
    }

    bool begin_round() noexcept override {
        if (first_aside_ != nullptr) [[unlikely]] {
            after_use();
        }
        waiting_.swap(round_);
        marks.swap(round_marks);
        done_ = std::exchange(dropped_, 0); // those go with the round
        gave_way = done_ + std::exchange(erased_, 0);
        if (!round_marks.empty()) [[unlikely]] {
            keep_marks_of_all();
        }
        return first_aside_ != nullptr || !waiting_.empty();
    }
    void end_round() noexcept override {
        round_.clear(); // of which nobody takes anything, nor puts anything there
        round_marks.clear();
        done_ = 0;
    }
    [[nodiscard]] std::size_t left() const noexcept override { return round_.size() - done_; }
    [[nodiscard]] std::size_t waiting() const noexcept override { return in_line() + aside_; }
    void drop() noexcept override {
        if (busy || posts_aside) {
            lets_go = true; // whoever is at it does this
            return;
        }
        const auto policy = std::exchange(how_.combine, nullptr); // it may own a poster of this outbox
        dropped_ = 0;
        done_ = 0;
        marks.clear();
        round_marks.clear();
        empty_out(waiting_);
        empty_out(round_);
        while (first_aside_ != nullptr) {
            delete take_first_aside();
        }
    }

    /// Room for so many more, so that posting them takes no memory for itself.
    void make_room(std::size_t more) {
        if (waiting_.capacity() - waiting_.size() < more) [[unlikely]] {
            grow(waiting_.size() + more);
        }
    }
    [[gnu::noinline]] void grow(std::size_t enough) {
        if (!busy) { // else what comes is laid aside
            in_use([this, enough] {
                waiting_.reserve(enough < 2 * waiting_.capacity() ? 2 * waiting_.capacity() : enough);
            });
        }
    }
    /// For so many in a round and as many that wait.
    void reserve(std::size_t count) {
        waiting_.reserve(count);
        if (!in_round) { // else it is read from
            round_.reserve(count);
        }
    }
    void make_room_for_one() override { make_room(1); }
    /// Whether posting one more is nothing but putting it behind the others.
    [[nodiscard]] bool takes_plainly() const noexcept { return takes_all_ && queued && !overseen(); }
    void append(const Item& item) noexcept { waiting_.push_back(item); } // there is room

    /// Posts one, also while busy.
    virtual bool post_item(Item&& item) = 0;
    /// Posts a copy of each; how many were taken.
    std::size_t post_all(std::span<const Item> all) {
        const held until_then(static_cast<backlog_base&>(*this)); // a copy may be the end of much
        std::size_t taken = 0;
        for (std::size_t i = 0; i < all.size() && !box_closed && !target->closed; ++i) {
            if constexpr (is_quiet<Item>) {
                if (takes_plainly()) {
                    waiting_.insert(waiting_.end(), all.begin() + static_cast<std::ptrdiff_t>(i), all.end());
                    return taken + all.size() - i;
                }
            }
            taken += post_item(Item(all[i])) ? 1U : 0U;
        }
        return taken;
    }

    std::uint32_t sleep(Item&& item, std::source_location at) { return asleep_.add(std::move(item), at); }
    void wake(std::uint32_t sleeper, bool copy) override {
        make_room(1);
        woke = true; // from here on the sleeper is gone, whatever is thrown
        const caused_by now(origin_of(asleep_.mark_of(sleeper)));
        where = asleep_.mark_of(sleeper).where;
        if constexpr (std::copy_constructible<Payload>) {
            if (copy) {
                post_item(asleep_.copy_of(sleeper));
                return;
            }
        }
        post_item(asleep_.take(sleeper));
    }
    void forget(std::uint32_t sleeper) noexcept override { asleep_.remove(sleeper); }

protected:
    static const void* payload_in(const Item& item) noexcept {
        if constexpr (std::is_same_v<Item, Payload>) {
            return &item;
        } else {
            return &item.payload;
        }
    }
    /// Where all of this backlog go, if it is not everyone.
    [[nodiscard]] virtual address_label aimed_at() const { return {}; }
    /// The address, where there is one.
    [[nodiscard]] address_label label_in(const Item& item) const noexcept {
        if constexpr (std::is_same_v<Item, Payload>) {
            return aimed_at();
        } else {
            return item.to ? label_of(*item.to) : address_label{};
        }
    }
    [[nodiscard]] std::size_t in_line() const noexcept { return waiting_.size() - dropped_; }

    /// Carries out a change of what waits, in which code of the user's runs: a
    /// payload's move or end, a combining function, a comparison of addresses.
    /// Backlog and outbox stay, whatever that ends. What it posts here is laid
    /// aside and posted as soon as the change is over; a round that it begins
    /// leaves this backlog for the next one.
    template <class Change>
    void in_use(Change change) {
        struct use {
            backlog_of& own;
            bool takes_all;
            ~use() {
                own.takes_all_ = takes_all;
                own.busy = false;
                if (own.lets_go) [[unlikely]] {
                    own.after_use();
                }
            }
        };
        busy = true;
        const use now{*this, std::exchange(takes_all_, false)};
        change();
    }

    /// The same for what only moves or ends payloads.
    template <class Change>
    void move_around(Change change) {
        if constexpr (is_quiet<Item>) {
            change();
        } else {
            in_use(change);
        }
    }

    /// The same for what combines them, too.
    template <class Change>
    void combine_in_use(Change change) {
        if (is_quiet<Item> && !how_.combine) {
            change();
        } else {
            in_use(change);
        }
    }

    /// Posts one, whatever the policy; not while busy.
    virtual bool post_now(Item&& item) = 0;

    /// What is posted while this backlog is busy.
    bool lay_aside(Item&& item) {
        if (is_refused(item)) {
            return false;
        }
        auto* const made = new item_aside{std::move(item)};
        item_aside** end = &first_aside_;
        while (*end != nullptr) {
            end = &(*end)->next;
        }
        *end = made;
        ++aside_;
        lets_go = true;
        if (!queued) {
            queue(*this);
        }
        return true;
    }

    /// Takes one more, unless that is turned away.
    bool take(Item&& item) {
        if (is_refused(item)) [[unlikely]] {
            return false;
        }
        push(std::move(item));
        if (in_line() > how_.limit) [[unlikely]] {
            ++turned_away;
            drop_oldest();
        }
        return true;
    }

    void combine(Item& into, Payload& kept, Payload&& newer) {
        if (overseen()) [[unlikely]] {
            note_at(static_cast<std::size_t>(&into - waiting_.data()), &newer, label_in(into),
                    posting_outcome::combined);
        }
        if (how_.combine) {
            how_.combine(kept, newer); // held by the caller that posts: in_use()
        } else if constexpr (!std::is_nothrow_move_constructible_v<Payload>) {
            std::vector<Item> all = copy_from(0, static_cast<std::size_t>(&into - waiting_.data()), &newer);
            waiting_.swap(all);
        } else if constexpr (std::is_nothrow_move_assignable_v<Payload>) {
            kept = std::move(newer);
        } else {
            kept.~Payload(); // such as one with const members
            ::new (&kept) Payload(std::move(newer));
        }
    }

    /// The place of the next `count` of the round, which count as delivered
    /// from now on, whatever their handlers throw.
    std::size_t advance(std::size_t count) noexcept {
        delivered += count;
        return std::exchange(done_, done_ + count);
    }

    posting_options<Payload> how_;
    bool takes_all_ = false; ///< without a bound, and not in the middle of a change
    std::vector<Item> waiting_;
    std::vector<Item> round_;
    std::size_t dropped_ = 0; ///< of `waiting_`, from its beginning
    std::size_t erased_ = 0;  ///< dropped before those
    std::size_t done_ = 0;    ///< of `round_`

private:
    sleepers<Item> asleep_;

    struct item_aside {
        Item item;
        item_aside* next = nullptr;
    };

    bool is_refused(const Item& item) noexcept {
        if (how_.when_full != when_full::turn_away || waiting() < how_.limit) [[likely]] {
            return false;
        }
        ++turned_away;
        if (overseen()) {
            note(payload_in(item), label_in(item), posting_outcome::turned_away);
        }
        return true;
    }

    void push(Item&& item) {
        if (keeps_order) [[unlikely]] {
            make_room_in_order(*this);
            waiting_.push_back(std::move(item));
            note_in_order(*this);
        } else {
            waiting_.push_back(std::move(item));
        }
        if (!queued) [[unlikely]] {
            queue(*this);
        }
        if (overseen()) [[unlikely]] {
            note_at(waiting_.size() - 1, payload_in(waiting_.back()), label_in(waiting_.back()),
                    posting_outcome::waits);
        }
    }

    void drop_oldest() noexcept {
        ++dropped_;
        if (dropped_ >= how_.limit) {
            if_memory_allows([this] { close_gap(); }); // else the next one tries again
        }
    }
    void close_gap() {
        const auto count = static_cast<std::ptrdiff_t>(dropped_);
        if constexpr (std::is_nothrow_move_constructible_v<Item> && std::is_nothrow_move_assignable_v<Item>) {
            waiting_.erase(waiting_.begin(), waiting_.begin() + count);
        } else {
            std::vector<Item> rest = copy_from(dropped_);
            waiting_.swap(rest);
        }
        if (!marks.empty()) [[unlikely]] {
            marks.erase(marks.begin(), dropped_ < marks.size() ? marks.begin() + count : marks.end());
        }
        erased_ += std::exchange(dropped_, 0);
    }

    // For what may throw when it is moved: those that wait stay as they are
    // until there is another one of each.
    std::vector<Item> copy_from(std::size_t first, std::size_t without = SIZE_MAX, Payload* instead = nullptr) {
        std::vector<Item> rest;
        rest.reserve(waiting_.capacity());
        for (; first < waiting_.size(); ++first) {
            if (first != without) {
                rest.push_back(std::move_if_noexcept(waiting_[first]));
            } else if constexpr (std::is_same_v<Item, Payload>) {
                rest.push_back(std::move(*instead));
            } else {
                rest.push_back({waiting_[first].to, std::move(*instead)});
            }
        }
        return rest;
    }

    [[gnu::noinline]] void after_use() noexcept {
        if (posts_aside) {
            return; // the outer one goes on
        }
        post_what_is_aside();
        lets_go = first_aside_ != nullptr;
        if (left_users != 0 || closes || box_closed) {
            let_go_after_use(*this);
        }
    }

    void keep_marks_of_all() noexcept {
#if WIRED_COURIER_EXCEPTIONS
        try {
            round_marks.resize(round_.size());
        } catch (...) {
            round_marks.clear(); // causes are a service, no more
        }
#else
        round_marks.resize(round_.size());
#endif
    }

    item_aside* take_first_aside() noexcept {
        --aside_;
        return std::exchange(first_aside_, first_aside_->next);
    }
    // Whoever posted them has been told that they wait, so nobody is left whom
    // an exception would reach.
    void post_what_is_aside() noexcept {
        const while_true now(posts_aside);
        for (std::uint32_t most = depth_limit(); first_aside_ != nullptr && !box_closed; --most) {
            if (most == 0) {
                at_the_end(target->name, [this] { report_restless(*this); });
                return;
            }
            const owned<item_aside> one(take_first_aside());
            at_the_end(target->name, [&] { post_now(std::move(one->item)); });
        }
    }

    item_aside* first_aside_ = nullptr;
    std::size_t aside_ = 0;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
