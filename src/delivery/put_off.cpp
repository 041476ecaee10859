// SPDX-License-Identifier: MIT
#include <courier/detail/delivery/put_off.hpp>

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/delivery/flight.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// In the order of asking.
struct waiting_calls {
    put_off* first = nullptr;
    put_off** end = nullptr; ///< where the next one is hung; null: at `first`
};
thread_local constinit waiting_calls this_queue;

} // namespace

bool put_off::has_to_wait() noexcept {
    return this_thread.outermost.is_under_way();
}

bool put_off::ask() noexcept {
    if (!has_to_wait()) {
        return false;
    }
    if (back_ == nullptr) {
        back_ = this_queue.end != nullptr ? this_queue.end : &this_queue.first;
        *back_ = this;
        this_queue.end = &next_;
        by_ = origin_here();
        this_thread.outermost.ask_for_more();
    }
    return true;
}

void put_off::withdraw() noexcept {
    if (back_ == nullptr) {
        return;
    }
    *back_ = next_;
    if (next_ != nullptr) {
        next_->back_ = back_;
    } else {
        this_queue.end = back_ != &this_queue.first ? back_ : nullptr;
    }
    next_ = nullptr;
    back_ = nullptr;
}

void carry_out_what_was_put_off() {
    first_failure failed;
    while (this_queue.first != nullptr) {
        put_off& one = *this_queue.first;
        one.withdraw();
        const caused_by by(one.by_);
        failed.run([&] { one.what_(one.whose_); }); // which may be the end of it
    }
    failed.rethrow();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
