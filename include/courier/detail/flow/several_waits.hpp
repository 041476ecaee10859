// What waits for several have in common.
// SPDX-License-Identifier: MIT
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

/// Whether nobody has published on `one` so far, as far as its ledger knows.
[[nodiscard]] inline bool is_unused(const channel_core* one) noexcept {
    return one != nullptr && one->walks == 0;
}

/// `Own` has `note(which)`, called when one is over, true when that is the end of it.
template <class Own, class... Waits>
class several_waits : public wait_base {
public:
    /// Those that are not over; of the others the result may still be wanted.
    void end() noexcept {
        over_ = true;
        each([this]<std::size_t I>(auto& wait) {
            if (!places_[I].over) {
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
                    places_[I].over = true;
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
    /// Those that are still waited for, and how many are over.
    [[nodiscard]] std::string describe_each() const {
        std::string all;
        std::size_t over = 0;
        each_pending([&all](const auto& wait) { all += (all.empty() ? "" : ", ") + wait.describe(); }, &over);
        return over == 0 ? all : all + "; " + std::to_string(over) + (over == 1 ? " is over" : " are over");
    }
    /// Of those that are still waited for, how many never can be over.
    [[nodiscard]] std::size_t count_source_gone() const {
        std::size_t count = 0;
        each_pending([&count](const auto& wait) { count += wait.is_source_gone() ? 1U : 0U; });
        return count;
    }
    /// Of their channels, the first on which nobody published, or else the first.
    [[nodiscard]] const channel_core* most_in_vain() const {
        const channel_core* found = nullptr;
        each_pending([&found](const auto& wait) {
            const channel_core* const one = wait.awaited();
            found = found == nullptr || (is_unused(one) && !is_unused(found)) ? one : found;
        });
        return found;
    }
    /// The first, if nobody published on any of them; else null.
    [[nodiscard]] const channel_core* all_in_vain() const {
        const channel_core* first = nullptr;
        bool all = true;
        each_pending([&](const auto& wait) {
            const channel_core* const one = wait.awaited();
            all = all && is_unused(one);
            first = first == nullptr ? one : first;
        });
        return all ? first : nullptr;
    }
    auto take_each() {
        return std::apply([](auto&... wait) { return std::tuple<kept_result<Waits>...>{take_result(wait)...}; },
                          waits_);
    }

private:
    struct place : waiter {
        several_waits* all = nullptr;
        std::size_t which = 0;
        bool over = false;
    };

    Own& own() noexcept { return static_cast<Own&>(*this); }

    template <class Do, std::size_t... I>
    void each_of(Do& what, std::index_sequence<I...>) {
        (what.template operator()<I>(std::get<I>(waits_)), ...);
    }

    template <class Do>
    void each_pending(Do what, std::size_t* over = nullptr) const {
        std::size_t at = 0;
        std::apply(
            [&](const auto&... wait) {
                const auto look = [&](const auto& one) {
                    if (!places_[at++].over) {
                        what(one);
                    } else if (over != nullptr) {
                        ++*over;
                    }
                };
                (look(wait), ...);
            },
            waits_);
    }

    static void is_done(waiter& self) {
        const place& at = static_cast<place&>(self);
        at.all->one_is_over(at.which);
    }
    void one_is_over(std::size_t which) {
        if (over_) {
            return;
        }
        places_[which].over = true;
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
