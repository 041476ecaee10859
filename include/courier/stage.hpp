// Named places in the order of delivery.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

// Never defined: naming it where a constant is wanted stops the compiler.
void no_room_between_these_stages();

} // namespace detail

/// A named place in the order of delivery: earlier stages are served first;
/// within a stage the order is that of subscription. Stages are declared once,
/// as constants, relative to `ordinary`, which is where a subscription goes
/// that names no stage:
///
///     inline constexpr courier::stage rules        = courier::before(courier::ordinary, "rules");
///     inline constexpr courier::stage presentation = courier::after(courier::ordinary, "presentation");
///     inline constexpr courier::stage checks       = courier::between(rules, courier::ordinary, "checks");
///
/// Two stages compare by their place alone. A stage is a plain value; any
/// thread may use it. Its name must be a string literal.
class stage {
public:
    /// The name, for messages and reports.
    [[nodiscard]] constexpr std::string_view name() const noexcept { return name_; }

    friend constexpr bool operator==(stage a, stage b) noexcept { return a.place_ == b.place_; }
    friend constexpr auto operator<=>(stage a, stage b) noexcept { return a.place_ <=> b.place_; }

    friend consteval stage before(stage other, const char* name);
    friend consteval stage after(stage other, const char* name);
    friend consteval stage between(stage earlier, stage later, const char* name);
    /// The first stage, of which others are before or after; for the library.
    static consteval stage origin(const char* name) { return stage{0, name}; }

    /// The place in front of every other; for the library.
    static consteval stage begin(const char* name) { return stage{INT64_MIN, name}; }

    /// The place behind every other; for the library.
    static consteval stage end(const char* name) { return stage{INT64_MAX, name}; }

private:
    static constexpr std::int64_t gap = std::int64_t{1} << 32;

    constexpr stage(std::int64_t place, const char* name) noexcept : place_(place), name_(name) {}

    std::int64_t place_;
    const char* name_;
};

/// Where a subscription goes that names no stage.
inline constexpr stage ordinary = stage::origin("ordinary");

/// A stage one step earlier than `other`.
consteval stage before(stage other, const char* name) {
    return stage{other.place_ - stage::gap, name};
}

/// A stage one step later than `other`.
consteval stage after(stage other, const char* name) {
    return stage{other.place_ + stage::gap, name};
}

/// A stage half way between two others; does not compile when there is no
/// room or the two are the wrong way round.
consteval stage between(stage earlier, stage later, const char* name) {
    const std::int64_t half = (later.place_ - earlier.place_) / 2;
    if (half <= 0) {
        detail::no_room_between_these_stages(); // courier: the second stage is not later than the first by two steps
    }
    return stage{earlier.place_ + half, name};
}

WIRED_COURIER_NAMESPACE_END
