// For tests of one's own systems: what did a channel carry?
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/change.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/subscription.hpp>

#include <concepts>
#include <cstddef>
#include <source_location>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// Collects what a channel carries while the witness lives, to be asserted on:
///
///     courier::witness bitten{barges.bitten()};
///     wyrms.step();
///     CHECK(bitten.count() == 1);
///     CHECK(bitten.latest().barge == 3);
///
/// Payloads are copied; of a payload that cannot be copied only the number is
/// kept. The channel may die first: the collected payloads stay. Can be neither
/// copied nor moved. Belongs to the channel's thread, as a subscription does.
template <class Payload>
class witness {
public:
    /// The options are those of any subscription: a witness may stand in an
    /// early stage, take a few payloads only, or only some of them.
    explicit witness(const channel<Payload>& source, delivery_options<Payload> options = {},
                     std::source_location where = std::source_location::current()) {
        in_ = source.subscribe([this](const Payload& payload) { keep(payload); }, std::move(options), where);
    }

    /// Payloads for one address and for everyone: `courier::witness bitten{barges.bitten().at(3)};`
    template <class Address>
    explicit witness(const addressed_source<Payload, Address>& source, delivery_options<Payload> options = {},
                     std::source_location where = std::source_location::current()) {
        in_ = source.subscribe([this](const Payload& payload) { keep(payload); }, std::move(options), where);
    }
    witness(const witness&) = delete;
    witness& operator=(const witness&) = delete;

    /// How many payloads came since the witness was made or last cleared.
    [[nodiscard]] std::size_t count() const noexcept { return count_; }
    /// Whether it has heard nothing.
    [[nodiscard]] bool empty() const noexcept { return count_ == 0; }

    /// All of them, in the order in which they came.
    [[nodiscard]] const std::vector<Payload>& payloads() const noexcept
        requires std::copy_constructible<Payload>
    {
        return payloads_;
    }

    /// The latest one; throws `std::out_of_range` (without exceptions: aborts)
    /// when none came.
    [[nodiscard]] const Payload& latest() const
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
witness(const addressed_channel<Payload, Address>&) -> witness<Payload>;

/// Collects the values that a state or formula came to have:
///
///     courier::witness crates{harbour.crates()};
///     harbour.unload(3);
///     CHECK(crates.values() == std::vector{9});
template <class T>
class witness<change<T>> {
public:
    /// The options are those of any subscription.
    template <class Source>
        requires std::same_as<typename Source::payload_type, change<T>>
    explicit witness(const Source& source, delivery_options<change<T>> options = {},
                     std::source_location where = std::source_location::current()) {
        in_ = source.subscribe([this](const change<T>& c) { values_.push_back(c.after()); }, std::move(options), where);
    }
    witness(const witness&) = delete;
    witness& operator=(const witness&) = delete;

    /// How many changes came since the witness was made or last cleared.
    [[nodiscard]] std::size_t count() const noexcept { return values_.size(); }
    /// Whether it has heard nothing.
    [[nodiscard]] bool empty() const noexcept { return values_.empty(); }

    /// What the value became, each time.
    [[nodiscard]] const std::vector<T>& values() const noexcept { return values_; }

    /// The latest one; throws `std::out_of_range` (without exceptions: aborts)
    /// when none came.
    [[nodiscard]] decltype(auto) latest() const { return values_.at(values_.size() - 1); }

    /// Forgets what came so far.
    void clear() noexcept { values_.clear(); }

private:
    std::vector<T> values_;
    subscription in_;
};

template <class Source, class... More>
    requires requires { typename Source::value_type; }
witness(const Source&, More...) -> witness<change<typename Source::value_type>>;

WIRED_COURIER_NAMESPACE_END
