// How pipelines and waits hold what they subscribe to.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <concepts>

WIRED_COURIER_NAMESPACE_BEGIN

template <class Payload, class Address>
class addressed_source;

namespace detail {

struct pipeline_base {};

template <class T>
concept pipeline_like = std::derived_from<T, pipeline_base>;

/// Channels, states and formulas are referred to.
template <class Source>
class source_held {
public:
    explicit source_held(const Source& source) noexcept : source_(&source) {}
    [[nodiscard]] const Source& get() const noexcept { return *source_; }

private:
    const Source* source_;
};

/// What stands for something else is a value, and copied.
template <class Source>
class source_copied {
public:
    explicit source_copied(const Source& source) : source_(source) {}
    [[nodiscard]] const Source& get() const noexcept { return source_; }

private:
    Source source_;
};
template <pipeline_like Source>
class source_held<Source> : public source_copied<Source> {
public:
    using source_copied<Source>::source_copied;
};
template <class Payload, class Address>
class source_held<addressed_source<Payload, Address>> : public source_copied<addressed_source<Payload, Address>> {
public:
    using source_copied<addressed_source<Payload, Address>>::source_copied;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
