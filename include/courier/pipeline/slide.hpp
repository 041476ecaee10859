// Gives on the last few as one.
#pragma once

#include <courier/detail/pipeline.hpp>

#include <cstddef>
#include <span>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI {
namespace detail {

template <class In, class Next>
struct slide_receiver {
    static constexpr bool ends = Next::ends;
    std::size_t count;
    std::vector<In> twice; ///< room for two windows, so that one lies in one piece and little is moved
    std::size_t begin;
    Next next;

    template <class Value>
    auto operator()(const Value& value, ending* end) -> received<Next, std::span<const In>> {
        if (twice.size() == 2 * count) {
            twice.erase(twice.begin(), twice.begin() + static_cast<std::ptrdiff_t>(begin + 1));
            begin = 0;
        } else if (twice.size() - begin == count) {
            ++begin;
        }
        twice.push_back(value);
        if (twice.size() - begin < count) {
            return given_nothing<Next, std::span<const In>>();
        }
        return next(std::span<const In>(twice.data() + begin, count), end);
    }
};

struct slide_step : adaptor_base {
    template <class In>
    using output = std::span<const In>;
    std::size_t count;

    template <class In, class Next>
    auto around(Next next) const {
        slide_receiver<In, Next> made{count, {}, 0, std::move(next)};
        made.twice.reserve(2 * count);
        return made;
    }
};

} // namespace detail

/// Once `count` have come, gives on the last `count` with each that comes, the
/// oldest first, as a `std::span` of copies that is good while the handler runs.
inline auto slide(std::size_t count) {
    return detail::slide_step{{}, count != 0 ? count : 1};
}

} // namespace courier::inline WIRED_COURIER_ABI
