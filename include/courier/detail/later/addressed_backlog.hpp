// Payloads of one addressed channel on their way through an outbox.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/address_code.hpp>
#include <courier/detail/delivery/address_text.hpp>
#include <courier/detail/delivery/publish_at.hpp>
#include <courier/detail/later/address_index.hpp>
#include <courier/detail/later/backlog.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <optional>
#include <source_location>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Payload, class Address>
struct addressed_item {
    std::optional<Address> to; ///< nobody in particular: everyone
    Payload payload;
};

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
class addressed_backlog final : public backlog_of<Payload, addressed_item<Payload, Address>> {
public:
    using item = addressed_item<Payload, Address>;
    using backlog_of<Payload, item>::backlog_of;

    bool post(Payload&& payload) {
        return kept_meanwhile([&] { return post_item({std::nullopt, std::move(payload)}); });
    }
    bool post_to(const Address& to, Payload&& payload) {
        return kept_meanwhile([&] { return post_item({to, std::move(payload)}); });
    }
    bool post_item(item&& one) override {
        if (this->takes_plainly()) [[likely]] {
            this->move_around([&] { this->waiting_.push_back(std::move(one)); });
            return true;
        }
        return this->busy ? this->lay_aside(std::move(one)) : post_now(std::move(one));
    }

    bool begin_round() noexcept override {
        places_.clear(); // before what is laid aside is posted, and again for the round to come
        everyone_ = none;
        const bool more = backlog_of<Payload, item>::begin_round();
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

    [[gnu::noinline]] void deliver_marked(const item& one, const post_mark& mark) {
        const caused_by now(origin_of(mark));
        publish_at(*this->target, *one.to, one.payload, mark.is_set ? mark.where : this->where);
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

    address_index places_;
    std::uint32_t everyone_ = none;
};

template <class Payload, class Address>
std::size_t addressed_backlog<Payload, Address>::deliver(std::size_t most) {
    std::size_t count = 0;
    while (count < most && this->left() != 0) {
        const std::size_t place = this->advance(1);
        const item& one = this->round_[place];
        ++count;
        if (this->target->closed) {
            continue;
        }
        const post_mark* const mark = this->marks_from(place);
        if (!one.to) {
            publish_all(*this->target, &one.payload, 1, sizeof(Payload), this->where, mark);
        } else if (mark != nullptr) [[unlikely]] {
            deliver_marked(one, *mark);
        } else {
            publish_at(*this->target, *one.to, one.payload, this->where);
        }
    }
    return count;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
