// What waits for several have in common.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/flow/sequence_core.hpp>

#include <array>
#include <concepts>
#include <cstddef>
#include <optional>
#include <string>
#include <tuple>
#include <type_traits>
#include <utility>
#include <variant>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A wait's result as a value.
template <class Wait>
using kept_result = std::conditional_t<std::is_void_v<typename Wait::result_type>, std::monostate,
                                       std::remove_cvref_t<typename Wait::result_type>>;

template <class Wait>
inline constexpr bool can_be_kept = std::is_void_v<typename Wait::result_type>;
template <class Wait>
    requires(!std::is_void_v<typename Wait::result_type>)
inline constexpr bool can_be_kept<Wait> = std::is_constructible_v<kept_result<Wait>, typename Wait::result_type>;

template <class Wait>
kept_result<Wait> take_result(Wait& wait) {
    if constexpr (std::is_void_v<typename Wait::result_type>) {
        wait.result();
        return {};
    } else {
        return wait.result();
    }
}

/// `Own` has `note(which)`, called when one is over, true when that is the end
/// of it, and `still_wanted(which)`.
template <class Own, class... Waits>
class several_waits : public wait_base {
public:
    void end() noexcept {
        each([this]<std::size_t I>(auto& wait) {
            if (!own().still_wanted(I)) {
                wait.end();
            }
        });
    }

protected:
    explicit several_waits(Waits&&... waits) : waits_(std::move(waits)...) {}
    several_waits(several_waits&&) = default;
    ~several_waits() = default;

    bool begin_each(waiter& told) {
        waiter_ = &told;
        beginning_ = true;
        each([&]<std::size_t I>(auto& wait) {
            if (!over_) {
                places_[I] = place{{&is_done, told.of}, this, I};
                if (wait.begin(places_[I]) && !over_) {
                    over_ = own().note(I);
                }
            }
        });
        beginning_ = false;
        return over_;
    }

    template <class Do>
    void each(Do what) {
        each_of(what, std::index_sequence_for<Waits...>{});
    }
    template <class Do>
    void with(std::size_t which, Do what) {
        each([&]<std::size_t I>(auto& wait) {
            if (I == which) {
                what.template operator()<I>(wait);
            }
        });
    }
    [[nodiscard]] std::string describe_each() const {
        return std::apply([](const auto& first,
                             const auto&... others) { return (first.describe() + ... + (", " + others.describe())); },
                          waits_);
    }
    /// Of those that count, how many are source_gone.
    [[nodiscard]] std::size_t count_source_gone() const {
        return std::apply(
            [](const auto&... wait) { return (std::size_t{0} + ... + (wait.is_source_gone() ? 1U : 0U)); }, waits_);
    }
    auto take_each() {
        return std::apply([](auto&... wait) { return std::tuple<kept_result<Waits>...>{take_result(wait)...}; },
                          waits_);
    }

private:
    struct place : waiter {
        several_waits* all = nullptr;
        std::size_t which = 0;
    };

    Own& own() noexcept { return static_cast<Own&>(*this); }

    template <class Do, std::size_t... I>
    void each_of(Do& what, std::index_sequence<I...>) {
        (what.template operator()<I>(std::get<I>(waits_)), ...);
    }

    static void is_done(waiter& self) {
        const place& at = static_cast<place&>(self);
        at.all->one_is_over(at.which);
    }
    void one_is_over(std::size_t which) {
        if (over_) {
            return;
        }
        held_sequence now(*waiter_->of); // what is kept is copied, which may end it
        over_ = own().note(which);
        if (beginning_) {
            own().with(which, []<std::size_t>(auto& wait) { wait.keep(); });
        }
        if (!now.let_go()) {
            return;
        }
        if (over_ && !beginning_) {
            end();
            waiter_->done(*waiter_);
        }
    }

    std::tuple<Waits...> waits_;
    std::array<place, sizeof...(Waits)> places_{};
    waiter* waiter_ = nullptr;
    bool beginning_ = false;
    bool over_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
