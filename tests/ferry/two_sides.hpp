// A sender and a receiver, and what came.
#pragma once

#include "support.hpp"

namespace test {

/// What came, in its order, on a topic that is sent with a promise.
struct two_sides {
    two_sides(courier::ferry_options near_options, courier::ferry_options far_options, courier::guarantee promised)
        : near(std::move(near_options)), far(std::move(far_options)) {
        near.send(here, "t/landed", {.guarantee = promised});
        far.receive(there, "t/landed", {.guarantee = promised});
        in.subscribe(there, [this](const Landed& one) { got.push_back(one.barge); });
    }
    void publish(int count) {
        for (int i = 0; i < count; ++i) {
            here.publish({++newest, 0});
        }
    }
    [[nodiscard]] bool has_all() const {
        std::vector<bool> seen(static_cast<std::size_t>(newest) + 1);
        for (const int one : got) {
            seen[static_cast<std::size_t>(one)] = true;
        }
        return std::count(seen.begin() + 1, seen.end(), true) == newest;
    }
    [[nodiscard]] bool is_in_order() const { return std::is_sorted(got.begin(), got.end()); }
    [[nodiscard]] std::size_t twice() const {
        std::map<int, int> times;
        std::size_t more = 0;
        for (const int one : got) {
            more += ++times[one] > 1 ? 1U : 0U;
        }
        return more;
    }
    /// In order, when each is counted as it came first.
    [[nodiscard]] bool first_are_in_order() const {
        int highest = 0;
        std::vector<bool> seen(static_cast<std::size_t>(newest) + 1);
        for (const int one : got) {
            const bool is_first = !seen[static_cast<std::size_t>(one)];
            seen[static_cast<std::size_t>(one)] = true;
            if (is_first && one < highest) {
                return false;
            }
            highest = std::max(highest, one);
        }
        return true;
    }

    courier::channel<Landed> here{"here"};
    courier::channel<Landed> there{"there"};
    courier::ferry near;
    courier::ferry far;
    std::vector<int> got;
    int newest = 0;
    courier::subscriber in{"far"};
};

} // namespace test
