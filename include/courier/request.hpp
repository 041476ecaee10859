// Questions whose answers come later.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/query.hpp>

#include <exception>
#include <optional>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

/// Makes requests.
struct request_access;

/// Where the answer to one request goes: the asker and the reply share it.
template <class Answer>
struct answer_place : counted<answer_place<Answer>> {
    using come = void (*)(void* whose);

    std::optional<Answer> answer;
    std::exception_ptr failure;
    come tell = nullptr; ///< null: nobody waits any more
    void* whose = nullptr;
};

} // namespace detail

/// The right to answer one request: once, at any time, or never. Its end without an answer says that there is none.
/// Movable. Belongs to the thread of its channel; what another thread finds out comes back through an inbox.
template <class Answer>
class [[nodiscard("courier: the asker is told that there is no answer as soon as this reply is destroyed")]] reply {
public:
    using answer_type = Answer;

    /// To nobody.
    reply() noexcept = default;
    /// Takes over what the other one has, which then has nothing.
    reply(reply&& other) noexcept = default;
    /// Takes over what the other one has, which then has nothing.
    reply& operator=(reply&& other) noexcept {
        detail::replace_handle(*this, std::move(other));
        return *this;
    }
    reply(const reply&) = delete; // courier: moved only: a request is answered once
    reply& operator=(const reply&) = delete;
    ~reply() {
        detail::at_the_end("a reply", [this] { decline(); });
    }

    /// Whether somebody still waits for the answer. False when the asker has ended, or its time was up.
    [[nodiscard]] bool wanted() const noexcept { return place_ && place_->tell != nullptr; }

    /// Gives the answer, and lets the asker go on, before this returns, as a publish would. False when nobody waits.
    /// Throws what the asker lets out.
    bool give(Answer answer) {
        return finish([&](detail::answer_place<Answer>& place) { place.answer.emplace(std::move(answer)); });
    }

    /// Says that there is no answer. False when nobody waits.
    bool decline() {
        return finish([](detail::answer_place<Answer>&) {});
    }

    /// Says why there is none: the asker's `co_await` throws this. False when nobody waits.
    bool fail(const std::exception_ptr& why) {
        return finish([&](detail::answer_place<Answer>& place) { place.failure = why; });
    }

private:
    template <class>
    friend class request;

    explicit reply(detail::held<detail::answer_place<Answer>> place) noexcept : place_(std::move(place)) {}

    template <class Put>
    bool finish(Put put) {
        if (!wanted()) {
            place_ = {};
            return false;
        }
        const detail::held<detail::answer_place<Answer>> place = std::move(place_); // this may end meanwhile
        put(*place);
        if (place->tell == nullptr) { // an answer's move may end the asker
            return false;
        }
        std::exchange(place->tell, nullptr)(place->whose);
        return true;
    }

    detail::held<detail::answer_place<Answer>> place_;
};

/// A question that may be answered at once or later: the payload of an ordinary channel.
///
///     struct PathAsked {
///         using answer = Path;
///         int from;
///         int to;
///     };
///     courier::channel<courier::request<PathAsked>> paths{"paths.asked"};
///     in.subscribe(paths, [this](const courier::request<PathAsked>& r) { open_[r.question().to] = r.take(); });
///     ...
///     open_[9].give(path); // two frames later
///
/// `co_await courier::ask(paths, {.from = 1, .to = 9})` sends one. Several may hear of it; the first that takes the
/// reply answers. When nobody has taken it at the end of the publish, there is no answer. What a handler needs of the
/// question later, it copies.
template <class Question>
class request {
public:
    using question_type = Question;
    using answer_type = detail::answer_to<Question>;
    static_assert(
        requires { typename Question::answer; },
        "courier: a question declares the type of its answer: add `using answer = ...;` to it");

    request(const request&) = delete; // courier: a request is good for its handler only; keep its question() and take()
    request& operator=(const request&) = delete;

    /// The question. Good while the handler runs.
    [[nodiscard]] const Question& question() const noexcept { return *question_; }

    /// The right to answer it, unless another handler has taken that; then a reply that nobody wants.
    reply<answer_type> take() const noexcept { return std::move(reply_); }

    /// Whether a handler has taken the reply.
    [[nodiscard]] bool taken() const noexcept { return !reply_.place_; }

private:
    friend struct detail::request_access;

    request(const Question& question, detail::held<detail::answer_place<answer_type>> to) noexcept
        : question_(&question), reply_(std::move(to)) {}

    const Question* question_;
    mutable reply<answer_type> reply_;
};

namespace detail {

struct request_access {
    template <class Question>
    static request<Question> make(const Question& question, held<answer_place<answer_to<Question>>> to) noexcept {
        return {question, std::move(to)};
    }
};

template <class Question>
struct kind_traits<request<Question>> {
    static constexpr payload_kind make() {
        return {type_name<Question>(), &module_tag, fields_of<Question>(),
                [](const void* payload) -> const void* {
                    return &static_cast<const request<Question>*>(payload)->question();
                },
                std::is_empty_v<Question>};
    }
};

} // namespace detail

WIRED_COURIER_NAMESPACE_END
