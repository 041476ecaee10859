// SPDX-License-Identifier: MIT
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/later/timetable_core.hpp>

#include <algorithm>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

struct is_later {
    bool operator()(const due_time& a, const due_time& b) const noexcept {
        return a.time != b.time ? a.time > b.time : a.order > b.order;
    }
};
constexpr is_later later;

} // namespace

bool due_times::is_again_first() const noexcept {
    return !again_.empty() && (in_order_.empty() || later(in_order_.back(), again_.front()));
}

void due_times::take_first() noexcept {
    if (is_again_first()) {
        std::pop_heap(again_.begin(), again_.end(), later);
        again_.pop_back();
    } else {
        in_order_.pop_back();
    }
}

// Most have one delay, and come out of their bucket in this order.
void due_times::put_in_order() noexcept {
    if (!std::is_sorted(in_order_.begin(), in_order_.end(), later)) {
        std::sort(in_order_.begin(), in_order_.end(), later);
    }
}

void due_times::make_room_for_again() {
    reserve_by_halves(again_, again_.size() + 1);
}

void due_times::add_again(const due_time& one) {
    again_.push_back(one);
    std::push_heap(again_.begin(), again_.end(), later);
}

void due_times::make_heap() noexcept {
    std::make_heap(again_.begin(), again_.end(), later);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
