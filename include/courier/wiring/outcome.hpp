// What an action says has become of it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <optional>
#include <string>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// It could not be done: `return courier::failed{"the boom is stuck"};`.
struct failed {
    std::string why;
};

/// What an action returns that may fail, with an answer or without.
template <class Answer = void>
class outcome {
public:
    /// It succeeded.
    outcome(Answer answer) : answer_(std::move(answer)) {} // NOLINT(google-explicit-constructor): for `return`
    /// It failed, with the reason.
    outcome(failed what) : why_(std::move(what.why)) {} // NOLINT(google-explicit-constructor): the same

    /// Whether it succeeded.
    [[nodiscard]] explicit operator bool() const noexcept { return answer_.has_value(); }
    /// The answer; only when it succeeded.
    [[nodiscard]] const std::optional<Answer>& answer() const noexcept { return answer_; }
    /// The reason; empty when it succeeded.
    [[nodiscard]] const std::string& why() const noexcept { return why_; }

private:
    std::optional<Answer> answer_;
    std::string why_;
};

/// The outcome of an action that answers nothing: done, or failed with a reason.
template <>
class outcome<void> {
public:
    outcome() noexcept = default;
    /// It failed, with the reason.
    outcome(failed what) : why_(std::move(what.why)), is_done_(false) {} // NOLINT(google-explicit-constructor)

    /// Whether it succeeded.
    [[nodiscard]] explicit operator bool() const noexcept { return is_done_; }
    /// The reason; empty when it succeeded.
    [[nodiscard]] const std::string& why() const noexcept { return why_; }

private:
    std::string why_;
    bool is_done_ = true;
};

WIRED_COURIER_NAMESPACE_END
