// Collects payloads for a sequence that is not always listening.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/owned.hpp>
#include <courier/detail/flow/sequence_core.hpp>
#include <courier/detail/flow/several_waits.hpp>
#include <courier/subscription.hpp>

#include <cstddef>
#include <source_location>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// Copies every payload of a source from when it is made, so that a loop in a
/// sequence misses none, whatever else it waits for in between:
///
///     courier::arrivals hails{harbour.hailed()};
///     for (;;) {
///         auto hail = co_await hails.next();
///         co_await courier::elapsed(clock, 2s);      // those that come meanwhile wait
///     }
///
/// A local of the sequence; ends with it. Collects also while the subscriber
/// is paused. Can be neither copied nor moved.
template <class Source>
class arrivals {
public:
    using payload_type = typename Source::payload_type;

    /// Listens to `source`, a channel, address, state, formula or pipeline, from now on. May allocate.
    explicit arrivals(const Source& source, std::source_location where = std::source_location::current()) {
        in_ = source.subscribe([this](const payload_type& payload) { come(payload); }, {}, where);
    }
    arrivals(const arrivals&) = delete;
    arrivals& operator=(const arrivals&) = delete;
    ~arrivals() = default;

    /// Waits for the next one that has not been taken; gives it by value.
    [[nodiscard]] auto next() { return next_wait(*this); }

    /// How many have come and were not taken.
    [[nodiscard]] std::size_t waiting() const noexcept { return came_.size() - taken_; }

private:
    class next_wait final : public detail::wait_base {
    public:
        using result_type = payload_type;

        explicit next_wait(arrivals& from) noexcept : from_(&from) {}
        next_wait(next_wait&&) = default;
        ~next_wait() { end(); }

        bool begin(detail::waiter& told) {
            if (from_->waiting() != 0) {
                return true;
            }
            told_ = &told;
            from_->told_ = told_;
            return false;
        }
        payload_type result() {
            const detail::owned<payload_type> first = from_->take_first();
            return std::move(*first);
        }
        void end() noexcept {
            if (told_ != nullptr && from_->told_ == told_) {
                from_->told_ = nullptr;
            }
        }
        [[nodiscard]] bool is_source_gone() const override { return !from_->in_.live(); }
        [[nodiscard]] const detail::channel_core* awaited() const override {
            const detail::slot* const s = detail::access::slot_of(from_->in_);
            return s != nullptr ? s->list->core : nullptr;
        }
        [[nodiscard]] std::string describe() const override {
            const detail::channel_core* const core = awaited();
            return core != nullptr ? "the next arrival of '" + core->name + "'"
                                   : "the next arrival of a channel that is gone";
        }

    private:
        arrivals* from_;
        detail::waiter* told_ = nullptr;
    };

    void come(const payload_type& payload) {
        const detail::lifetime::watch own(life_); // copying may end the sequence that this is a local of
        detail::owned<payload_type> copy = detail::make_owned<payload_type>(payload);
        if (own.is_over()) {
            return;
        }
        came_.push_back(std::move(copy));
        if (detail::waiter* const told = std::exchange(told_, nullptr); told != nullptr) {
            told->done(*told);
        }
    }

    // Places of those that were taken are given back once they are the most.
    detail::owned<payload_type> take_first() {
        detail::owned<payload_type> first = std::move(came_[taken_]);
        if (++taken_ * 2 > came_.size()) {
            came_.erase(came_.begin(), came_.begin() + static_cast<std::ptrdiff_t>(std::exchange(taken_, 0U)));
        }
        return first;
    }

    std::vector<detail::owned<payload_type>> came_;
    std::size_t taken_ = 0; ///< of these, the first ones
    detail::lifetime life_;
    detail::waiter* told_ = nullptr; ///< the one that waits for the next
    subscription in_;
};

WIRED_COURIER_NAMESPACE_END
