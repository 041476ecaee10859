// Asks, and waits for the answer.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/flow/sequence_core.hpp>
#include <courier/request.hpp>

#include <exception>
#include <optional>
#include <source_location>
#include <string>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class Question>
class ask_wait final : public wait_base {
    using answer = answer_to<Question>;

public:
    using result_type = std::optional<answer>;

    ask_wait(channel<request<Question>>& to, Question question, std::source_location where)
        : to_(&to), question_(std::move(question)), where_(where) {}
    ask_wait(ask_wait&& other) // before it has begun
        : wait_base(other), to_(other.to_), question_(std::move(other.question_)), where_(other.where_) {}
    ~ask_wait() { end(); }

    bool begin(waiter& told) {
        waiter_ = &told;
        name_ = to_->name();
        place_ = held<answer_place<answer>>::taking_over(new answer_place<answer>);
        place_->whose = this;
        place_->tell = [](void* self) {
            waiter& over = *static_cast<ask_wait*>(self)->waiter_;
            over.done(over);
        };
        to_->publish(request_access::make(question_, place_), where_);
        return false; // a reply that nobody took says at its end that there is no answer
    }
    result_type result() {
#if WIRED_COURIER_EXCEPTIONS
        if (place_->failure) {
            std::rethrow_exception(std::move(place_->failure));
        }
#endif
        return std::move(place_->answer);
    }
    void end() noexcept {
        if (place_) {
            place_->tell = nullptr;
        }
    }
    [[nodiscard]] std::string describe() const override { return "an answer from '" + name_ + "'"; }

private:
    channel<request<Question>>* to_;
    Question question_;
    std::source_location where_;
    std::string name_; ///< the channel may end before the answer comes
    waiter* waiter_ = nullptr;
    held<answer_place<answer>> place_;
};

} // namespace detail

/// Publishes `question` on `to` as a `request`, and waits for the answer: a `std::optional`, empty when nobody has one.
/// The end of the wait lets the question go: its reply is not `wanted()` any more. Throws the exception that the
/// answerer gave to `fail()`. Several questions may be on their way; each gets its own answer.
///
///     const auto path = co_await courier::ask(paths, {.from = 1, .to = 9});
///     const auto soon = co_await courier::within(clock, 2s, courier::ask(paths, {.from = 1, .to = 9}));
template <class Question>
auto ask(channel<request<Question>>& to, std::type_identity_t<Question> question,
         std::source_location where = std::source_location::current()) {
    return detail::ask_wait<Question>(to, std::move(question), where);
}

WIRED_COURIER_NAMESPACE_END
