// How a timetable keeps what is due; here, so that those who include timetables compile none of it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/timetable_core.hpp>

#include <algorithm>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct is_later {
    bool operator()(const due_time& a, const due_time& b) const noexcept {
        return a.time != b.time ? a.time > b.time : a.order > b.order;
    }
};

inline bool due_times::is_again_first() const noexcept {
    return !again_.empty() && (in_order_.empty() || is_later{}(in_order_.back(), again_.front()));
}

inline bool due_times::empty() const noexcept {
    return in_order_.empty() && again_.empty();
}

inline const due_time& due_times::first() const noexcept {
    return is_again_first() ? again_.front() : in_order_.back();
}

inline void due_times::take_first() noexcept {
    if (is_again_first()) {
        std::pop_heap(again_.begin(), again_.end(), is_later{});
        again_.pop_back();
    } else {
        in_order_.pop_back();
    }
}

inline void due_times::add(const due_time& one) {
    in_order_.push_back(one);
}

// Most have one delay, and come out of their bucket in this order.
inline void due_times::put_in_order() noexcept {
    if (!std::is_sorted(in_order_.begin(), in_order_.end(), is_later{})) {
        std::sort(in_order_.begin(), in_order_.end(), is_later{});
    }
}

inline void due_times::make_room_for_again() {
    reserve_by_halves(again_, again_.size() + 1);
}

inline void due_times::add_again(const due_time& one) {
    again_.push_back(one);
    std::push_heap(again_.begin(), again_.end(), is_later{});
}

inline void due_times::put_back(const due_time& one) {
    in_order_.push_back(one);
}

template <class Test>
void due_times::erase_if(Test test) noexcept {
    std::erase_if(in_order_, test);
    std::erase_if(again_, test);
    std::make_heap(again_.begin(), again_.end(), is_later{});
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
