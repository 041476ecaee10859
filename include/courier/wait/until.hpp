// Waits for states to be as wanted.
#pragma once

#include <courier/detail/sequence_core.hpp>
#include <courier/keep_current.hpp>

#include <source_location>
#include <string>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI {

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
        if (view_node* const view = attach_view([this] { look(); }, nullptr, where_, nullptr); view != nullptr) {
            in_ = access::own<subscription>(view->self);
            begin_view(*view);
        }
        beginning_ = false;
        return over_;
    }
    void result() const noexcept {}
    void end() noexcept { in_.end(); }
    [[nodiscard]] std::string describe() const override { return "what is tested at " + place(where_); }

private:
    void look() {
        if (!over_ && test_()) {
            over_ = true;
            if (!beginning_) {
                in_.end();
                waiter_->done(*waiter_);
            }
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
    requires std::predicate<Test&>
auto until(Test test, std::source_location where = std::source_location::current()) {
    return detail::until_wait<Test>(std::move(test), where);
}

} // namespace courier::inline WIRED_COURIER_ABI
