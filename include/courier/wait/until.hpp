// Waits for states to be as wanted.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/sequence_core.hpp>
#include <courier/detail/flow/temporary.hpp>
#include <courier/keep_current.hpp>

#include <source_location>
#include <string>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class Test>
class until_wait final : public wait_base {
public:
    using result_type = void;

    until_wait(Test test, std::source_location where) : test_(std::move(test)), where_(where) {}
    until_wait(until_wait&&) = default;
    ~until_wait() = default;

    bool begin(waiter& told) {
        waiter_ = &told;
        beginning_ = true;
        if (refresher_node* const refresher =
                attach_refresher([this] { look(); }, nullptr, where_, waiter_->of->whose());
            refresher != nullptr) {
            in_ = access::own<subscription>(refresher->self);
            begin_refresher(*refresher);
        }
        beginning_ = false;
        return over_;
    }
    void result() const noexcept {}
    void end() noexcept { in_.end(); }
    [[nodiscard]] std::string describe() const override { return "what is tested at " + place(where_); }

private:
    void look() {
        if (over_) {
            return;
        }
        held_sequence now(*waiter_->of); // the test may end it
        const bool holds = static_cast<bool>(test_());
        if (!now.let_go() || !holds || over_) {
            return;
        }
        over_ = true;
        if (!beginning_) {
            in_.end();
            waiter_->done(*waiter_);
        }
    }

    Test test_;
    std::source_location where_;
    waiter* waiter_ = nullptr;
    bool beginning_ = false;
    bool over_ = false;
    subscription in_;
};

} // namespace detail

/// Waits until `test` holds, which reads states and formulas and is looked at
/// again when one of those has changed. Over at once when it holds already.
///
///     co_await courier::until([&] { return tide.read() > barge.draught.read(); });
template <class Test>
    requires std::predicate<std::decay_t<Test>&>
auto until(Test&& test, std::source_location where = std::source_location::current()) {
    detail::check_temporary<Test>();
    return detail::until_wait<std::decay_t<Test>>(std::forward<Test>(test), where);
}

WIRED_COURIER_NAMESPACE_END
