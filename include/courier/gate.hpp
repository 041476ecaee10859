// Something that is open or closed, by which subscriptions live.
#pragma once

#include <courier/config.hpp>

#include <concepts>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI {

namespace detail {

struct gate_core {
    std::uint32_t refs = 1;
    bool open;
    std::string name;
};

/// Counts; for one thread, as everything here.
class gate_ref {
public:
    explicit gate_ref(gate_core* core) noexcept : core_(core) {}
    gate_ref(const gate_ref& other) noexcept : core_(other.core_) { ++core_->refs; }
    gate_ref& operator=(gate_ref other) noexcept {
        std::swap(core_, other.core_);
        return *this;
    }
    ~gate_ref() {
        if (--core_->refs == 0) {
            delete core_;
        }
    }
    [[nodiscard]] gate_core* operator->() const noexcept { return core_; }
    bool operator()() const noexcept { return core_->open; }

private:
    gate_core* core_;
};

} // namespace detail

/// Open while something holds, such as the storm watch; subscriptions with the
/// delivery option `.during = gate` are served only then:
///
///     courier::gate storm_watch{"storm watch", false};
///     crew.subscribe(ordered, handler, {.during = storm_watch});
///
/// Opening and closing takes effect at once, also in the middle of a publish.
/// When the gate ends, its subscriptions stay closed. A gate belongs to the
/// thread of the channels it is used with; it can be neither copied nor moved.
class gate {
public:
    /// `name` is for messages and reports and is copied.
    explicit gate(std::string_view name = {}, bool is_open = true)
        : core_(new detail::gate_core{.open = is_open, .name = std::string{name}}) {}
    gate(const gate&) = delete;
    gate& operator=(const gate&) = delete;
    ~gate() { core_->open = false; }

    void open() noexcept { core_->open = true; }
    void close() noexcept { core_->open = false; }
    [[nodiscard]] bool is_open() const noexcept { return core_->open; }
    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }

private:
    friend class during;
    detail::gate_ref core_;
};

/// When a subscription is live at all; the value of the delivery option
/// `.during`. Made from a gate, or from any copyable callable that takes
/// nothing and returns something that converts to bool, which is asked
/// whenever the subscription's turn has come. Empty, it is always live.
class during {
public:
    during() noexcept = default;

    during(const gate& g) : open_(g.core_) {} // NOLINT(google-explicit-constructor): written as an option's value

    template <class F>
        requires(!std::same_as<std::remove_cvref_t<F>, during> && std::predicate<std::decay_t<F>&>)
    during(F&& holds) // NOLINT(google-explicit-constructor): written as an option's value
        : open_(std::forward<F>(holds)) {}

    [[nodiscard]] std::function<bool()> take() && noexcept { return std::move(open_); }

private:
    std::function<bool()> open_;
};

} // namespace courier::inline WIRED_COURIER_ABI
