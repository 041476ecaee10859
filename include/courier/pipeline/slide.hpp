// Gives on the last few as one.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

#include <cstddef>
#include <span>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The last few. Room for two windows, so that one lies in one piece and little is moved.
template <class In>
struct slide_window {
    std::vector<In> twice;
    std::size_t begin = 0;

    [[nodiscard]] std::size_t size() const noexcept { return twice.size() - begin; }
    void add(const In& value, std::size_t count) {
        if (twice.size() == 2 * count) {
            twice.erase(twice.begin(), twice.begin() + static_cast<std::ptrdiff_t>(begin + 1));
            begin = 0;
        } else if (size() == count) {
            ++begin;
        }
        twice.push_back(value);
    }
    [[nodiscard]] slide_window copy(std::size_t count) const {
        slide_window made;
        made.twice.reserve(2 * count);
        made.twice.assign(twice.begin() + static_cast<std::ptrdiff_t>(begin), twice.end());
        return made;
    }
};

template <class In, class Next>
struct slide_receiver {
    static constexpr bool ends = Next::ends;
    static constexpr bool asks = Next::asks || !is_quiet<In>;
    template <class>
    using gives = received<Next, std::span<const In>>;
    std::size_t count;
    slide_window<In> window;
    const slide_window<In>* shown = nullptr; ///< to a handler that runs, which makes the next one come
    Next next;

    template <class Value, class From>
    auto operator()(const Value& value, From* end) -> received<Next, std::span<const In>> {
        in_use now(*this);
        now.own.add(value, count);
        if constexpr (!is_quiet<In>) {
            if (end->is_over()) {
                return given_nothing<Next, std::span<const In>>();
            }
        }
        if (now.own.size() < count) {
            return given_nothing<Next, std::span<const In>>();
        }
        return next(std::span<const In>(now.own.twice.data() + now.own.begin, count), end);
    }

private:
    /// The handler has the window to itself; payloads that come meanwhile use a copy.
    struct in_use {
        slide_receiver& whole;
        slide_window<In> own;
        const slide_window<In>* before;

        explicit in_use(slide_receiver& of)
            : whole(of), own(of.shown != nullptr && of.window.twice.empty() ? of.shown->copy(of.count)
                                                                            : std::exchange(of.window, {})),
              before(std::exchange(of.shown, &own)) {}
        in_use(const in_use&) = delete;
        in_use& operator=(const in_use&) = delete;
        ~in_use() {
            whole.shown = before;
            if (whole.window.twice.empty()) {
                std::swap(whole.window, own);
            }
        }
    };
};

struct slide_step : adaptor_base {
    template <class In>
    using output = std::span<const In>;
    std::size_t count;

    template <class In, class Next>
    auto around(Next next) const {
        slide_receiver<In, Next> made{count, {}, nullptr, std::move(next)};
        made.window.twice.reserve(2 * count);
        return made;
    }
};

} // namespace detail

/// Once `count` have come, gives on the last `count` with each that comes, the
/// oldest first, as a `std::span` of copies that is good while the handler runs.
inline auto slide(std::size_t count) {
    return detail::slide_step{{}, count != 0 ? count : 1};
}

WIRED_COURIER_NAMESPACE_END
