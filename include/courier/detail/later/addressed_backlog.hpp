// Payloads of one addressed channel on their way through an outbox.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_payload.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/address_code.hpp>
#include <courier/detail/delivery/address_text.hpp>
#include <courier/detail/delivery/publish_at.hpp>
#include <courier/detail/later/address_index.hpp>
#include <courier/detail/later/address_order.hpp>
#include <courier/detail/later/backlog.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <optional>
#include <source_location>
#include <span>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Posts for each member of a group; how many payloads were taken.
template <class Group, class Post>
std::size_t count_taken(const Group& to, Post post) {
    std::size_t taken = 0;
    for (const auto& member : to.members()) { // copied, since a payload's copy may change the group
        taken += post(member) ? 1U : 0U;
    }
    return taken;
}

template <class Payload, class Address>
class addressed_backlog final : public backlog_of<Payload, addressed_payload<Payload, Address>> {
public:
    using item = addressed_payload<Payload, Address>;
    using backlog_of<Payload, item>::backlog_of;

    bool post(Payload&& payload) {
        return kept_meanwhile([&] { return post_item({std::nullopt, std::move(payload)}); });
    }
    bool post_to(const Address& to, Payload&& payload) {
        if constexpr (is_quiet<item>) {
            if (this->takes_plainly()) [[likely]] {
                this->waiting_.emplace_back(to, payload); // made where it lies, not copied there
                return true;
            }
        }
        return kept_meanwhile([&] { return post_item({to, std::move(payload)}); });
    }
    bool post_item(item&& one) override {
        has_had_everyone_ = has_had_everyone_ || !one.to;
        if (this->takes_plainly()) [[likely]] {
            this->move_around([&] { this->waiting_.push_back(std::move(one)); });
            return true;
        }
        return this->busy ? this->lay_aside(std::move(one)) : post_now(std::move(one));
    }

    std::size_t post_all(std::span<const item> all) {
        for (const item& one : all) {
            has_had_everyone_ = has_had_everyone_ || !one.to;
        }
        return backlog_of<Payload, item>::post_all(all);
    }

    void append(const item& one) noexcept {
        has_had_everyone_ = has_had_everyone_ || !one.to;
        backlog_of<Payload, item>::append(one);
    }

    bool begin_round() noexcept override {
        places_.clear(); // before what is laid aside is posted, and again for the round to come
        everyone_ = none;
        const bool more = backlog_of<Payload, item>::begin_round();
        if (this->by_address && this->left() > 1) [[unlikely]] {
            if_memory_allows(
                [this] { this->move_around([this] { sort_round(); }); }); // else they come as they were posted
        }
        places_.clear();
        everyone_ = none;
        return more;
    }

    std::size_t deliver(std::size_t most) override;

private:
    static constexpr std::uint32_t none = std::numeric_limits<std::uint32_t>::max();

    /// While the payload is moved beside its address, which may end much.
    template <class Step>
    bool kept_meanwhile(Step step) {
        if constexpr (is_quiet<item>) {
            return step();
        } else {
            const held until_then(static_cast<backlog_base&>(*this));
            return step();
        }
    }

    [[gnu::noinline]] bool post_now(item&& one) override {
        bool taken = true;
        if (this->how_.keep == keep::one_per_address) {
            this->in_use([&] { taken = post_per_address(std::move(one)); });
        } else if (this->how_.keep == keep::all || this->in_line() == 0) {
            this->move_around([&] { taken = this->take(std::move(one)); });
        } else {
            this->combine_in_use([&] {
                this->combine(this->waiting_.back(), this->waiting_.back().payload, std::move(one.payload));
                this->waiting_.back().to = std::move(one.to);
            });
        }
        return taken;
    }

    // Places are counted from the beginning of the round, so that they stay
    // the same when the oldest are dropped.
    [[nodiscard]] item* at(std::uint32_t place) noexcept {
        return place >= this->erased_ + this->dropped_ ? &this->waiting_[place - this->erased_] : nullptr;
    }

    item* find_waiting(const std::optional<Address>& to, std::uint64_t code) {
        if (!to) {
            return everyone_ != none ? at(everyone_) : nullptr;
        }
        const std::uint32_t* const place = places_.find(code, [&](std::uint32_t candidate) {
            const item* const one = at(candidate);
            return one != nullptr && one->to && address_equal{}(*one->to, *to);
        });
        return place != nullptr ? at(*place) : nullptr;
    }

    bool post_per_address(item&& one) {
        const bool addressed = one.to.has_value();
        const std::uint64_t code = addressed ? code_of(*one.to) : 0;
        if (item* const there = find_waiting(one.to, code); there != nullptr) {
            this->combine(*there, there->payload, std::move(one.payload));
            return true;
        }
        places_.make_room(); // before anything is taken
        if (!this->take(std::move(one))) {
            return false;
        }
        const auto last = static_cast<std::uint32_t>(this->erased_ + this->waiting_.size() - 1);
        if (addressed) {
            places_.add(code, last);
        } else {
            everyone_ = last;
        }
        return true;
    }

    /// Room for sorting, which stays.
    struct sorting {
        address_order order;
        std::vector<item> sorted;
        std::vector<post_mark> sorted_marks;
    };
    /// Each row of those for addresses. Whatever takes memory comes before anything is moved.
    void sort_round() {
        if (sorting_ == nullptr) {
            sorting_ = make_owned<sorting>();
        }
        auto& [order, sorted, sorted_marks] = *sorting_;
        order.begin(this->round_.size());
        for (std::size_t i = this->done_; i < this->round_.size(); ++i) {
            if (const item& one = this->round_[i]; one.to) {
                order.add(order_key(*one.to));
            } else {
                order.add_between();
            }
        }
        order.end_row();
        sorted.clear();
        sorted.reserve(this->round_.size());
        sorted_marks.clear();
        sorted_marks.reserve(this->round_marks.size());
        const auto take = [&](std::size_t place) {
            sorted.push_back(std::move_if_noexcept(this->round_[place]));
            if (!this->round_marks.empty()) {
                sorted_marks.push_back(this->round_marks[place]);
            }
        };
        for (std::size_t i = 0; i < this->done_; ++i) {
            take(i);
        }
        order.each([&](std::size_t place) { take(this->done_ + place); });
        this->round_.swap(sorted);
        this->round_marks.swap(sorted_marks);
    }

    /// How many of the round, from `first` on and `most` at most, are for addresses.
    [[nodiscard]] std::size_t count_addressed(std::size_t first, std::size_t most) const noexcept {
        std::size_t count = has_had_everyone_ ? 0 : most;
        while (count < most && this->round_[first + count].to) {
            ++count;
        }
        return count;
    }
    std::size_t deliver_together(std::size_t most);
    void deliver_at_place(std::size_t place);

    owned<sorting> sorting_; ///< if ever needed
    address_index places_;
    std::uint32_t everyone_ = none;
    bool has_had_everyone_ = false; ///< ever
};

template <class Payload, class Address>
void addressed_backlog<Payload, Address>::deliver_at_place(std::size_t place) {
    const item& one = this->round_[place];
    if (this->target->closed) {
        return;
    }
    if (!one.to) {
        publish_all(*this->target, &one.payload, 1, sizeof(Payload), this->where, this->marks_from(place));
    } else {
        this->publish_as_posted(
            place, [&](std::source_location from) { publish_at(*this->target, *one.to, &one.payload, from); });
    }
}

// To those who take several, too; returns how many, none when the next one is for everyone.
template <class Payload, class Address>
std::size_t addressed_backlog<Payload, Address>::deliver_together(std::size_t most) {
    const std::size_t count = count_addressed(this->done_, most < this->left() ? most : this->left());
    if (count == 0) {
        return 0;
    }
    struct piece {
        addressed_backlog& own;
        std::size_t first;
    } of{*this, this->advance(count)};
    const item& first = this->round_[of.first];
    const auto* const begin = reinterpret_cast<const std::byte*>(&first);
    const posts all{begin, count, sizeof(item),
                    static_cast<std::size_t>(reinterpret_cast<const std::byte*>(&first.payload) - begin)};
    deliver_posts(
        *this->target, all, this->where,
        [](void* whose, std::size_t i) {
            const piece& in = *static_cast<piece*>(whose);
            in.own.deliver_at_place(in.first + i);
        },
        &of);
    return count;
}

template <class Payload, class Address>
std::size_t addressed_backlog<Payload, Address>::deliver(std::size_t most) {
    std::size_t count = 0;
    while (count < most && this->left() != 0) {
        const std::size_t together = this->target->posts != 0 ? deliver_together(most - count) : 0;
        count += together;
        if (together == 0) {
            ++count;
            deliver_at_place(this->advance(1));
        }
    }
    return count;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
