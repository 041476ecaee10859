// For tests of one's own systems: what did a channel carry?
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/delivery.hpp>
#include <courier/subscription.hpp>

#include <concepts>
#include <cstddef>
#include <source_location>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI {

/// Collects what a channel carries while the probe lives, to be asserted on:
///
///     courier::probe bitten{barges.bitten()};
///     wyrms.step();
///     CHECK(bitten.count() == 1);
///     CHECK(bitten.last().barge == 3);
///
/// Payloads are copied; of a payload that cannot be copied only the number is
/// kept. The channel may die first: what was collected stays. Can be neither
/// copied nor moved. Belongs to the channel's thread, as a subscription does.
template <class Payload>
class probe {
public:
    /// The options are those of any subscription: a probe may stand in an
    /// early stage, take a few payloads only, or only some of them.
    explicit probe(const channel<Payload>& source, delivery<Payload> options = {},
                   std::source_location where = std::source_location::current()) {
        in_ = source.subscribe([this](const Payload& payload) { keep(payload); }, std::move(options), where);
    }

    /// What is for one address only, and for everyone: `courier::probe bitten{barges.bitten().at(3)};`
    template <class Address>
    explicit probe(const addressed_source<Payload, Address>& source, delivery<Payload> options = {},
                   std::source_location where = std::source_location::current()) {
        in_ = source.subscribe([this](const Payload& payload) { keep(payload); }, std::move(options), where);
    }
    probe(const probe&) = delete;
    probe& operator=(const probe&) = delete;

    /// How many payloads came since the probe was made or last cleared.
    [[nodiscard]] std::size_t count() const noexcept { return count_; }
    [[nodiscard]] bool empty() const noexcept { return count_ == 0; }

    /// All of them, in the order in which they came.
    [[nodiscard]] const std::vector<Payload>& payloads() const noexcept
        requires std::copy_constructible<Payload>
    {
        return payloads_;
    }

    /// The newest one; throws `std::out_of_range` (without exceptions: aborts)
    /// when none came.
    [[nodiscard]] const Payload& last() const
        requires std::copy_constructible<Payload>
    {
        return payloads_.at(count_ - 1);
    }

    /// Forgets what came so far.
    void clear() noexcept {
        payloads_.clear();
        count_ = 0;
    }

private:
    void keep(const Payload& payload) {
        if constexpr (std::copy_constructible<Payload>) {
            payloads_.push_back(payload);
        }
        ++count_;
    }

    std::vector<Payload> payloads_;
    std::size_t count_ = 0;
    subscription in_;
};

template <class Payload, class Address>
probe(const addressed_channel<Payload, Address>&) -> probe<Payload>;

} // namespace courier::inline WIRED_COURIER_ABI
