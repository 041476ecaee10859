// A question for another process, and what comes back.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/ferry/ferry.hpp>
#include <courier/publisher.hpp>
#include <courier/sequence.hpp>
#include <courier/wait/next.hpp>

#include <chrono>
#include <cstdint>
#include <memory>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>

WIRED_COURIER_NAMESPACE_BEGIN

/// What became of a question.
enum class remote_outcome : std::uint8_t {
    answered,
    nobody_knew, ///< it was asked, and nobody there had an answer
    too_late,    ///< no answer came in time
};

/// What became of a question.
template <class Answer>
struct remote_answer {
    std::uint64_t ticket = 0; ///< what `remote_query::ask()` returned
    remote_outcome how = remote_outcome::too_late;
    std::optional<Answer> answer;
};

namespace detail {

class outward_place;

/// The answers to one remote query's questions, without their type.
class answer_desk {
public:
    answer_desk() = default;
    answer_desk(const answer_desk&) = delete;
    answer_desk& operator=(const answer_desk&) = delete;
    virtual ~answer_desk() = default;
    [[nodiscard]] virtual std::unique_ptr<answers_door> make_door() const = 0;
    /// `answer` is null where there is none.
    virtual void came(std::uint64_t ticket, remote_outcome how, const void* answer, std::source_location where) = 0;
};

/// A remote query's place in a ferry.
class asking_place {
public:
    asking_place(ferry_core& of, std::shared_ptr<answer_desk> desk, std::string_view topic, std::string_view name,
                 const field_table* question, std::chrono::milliseconds limit);
    asking_place(const asking_place&) = delete;
    asking_place& operator=(const asking_place&) = delete;
    ~asking_place();
    std::uint64_t ask(const void* question);

private:
    std::weak_ptr<ferry_core> core_;
    std::shared_ptr<answer_desk> desk_;
    outward_place* to_ = nullptr;
    std::string answers_topic_;
    std::chrono::milliseconds limit_;
};

template <class Answer>
class typed_answer_desk final : public answer_desk {
    class door final : public answers_door {
    public:
        door() { fields = fields_to_send<Answer>(); }
        [[nodiscard]] void* make() const override { return new Answer(); }
        void destroy(void* payload) const noexcept override { delete static_cast<Answer*>(payload); }
    };

public:
    explicit typed_answer_desk(std::string_view name) : answered(name), out_(answered, "ferry") {}
    [[nodiscard]] std::unique_ptr<answers_door> make_door() const override { return std::make_unique<door>(); }
    void came(std::uint64_t ticket, remote_outcome how, const void* answer, std::source_location where) override {
        remote_answer<Answer> made{ticket, how, std::nullopt};
        if (answer != nullptr) {
            made.answer = *static_cast<const Answer*>(answer);
        }
        out_.publish(made, where);
    }

    channel<remote_answer<Answer>> answered;

private:
    publisher<remote_answer<Answer>> out_;
};

} // namespace detail

/// Asks other processes, where a `ferry::answer()` is at the topic. What becomes of each
/// question comes on a channel, in good time or not at all:
///
///     courier::remote_query<DepthAsked> depth{over, "gannet/office/depth", std::chrono::milliseconds(500)};
///     in.subscribe(depth.answered(), [](const courier::remote_answer<Depth>& a) { ... });
///     const std::uint64_t ticket = depth.ask({.hour = 3});
///
/// The limit is of real time, and is looked at by `ferry::take_in()`. A question that has not left by
/// then, or waits at the broker for a process that is away, is let go. If several processes
/// answer, the first one counts. Belongs to the thread that the ferry belongs to; either may end first.
template <class Question>
class remote_query {
public:
    using answer_type = typename Question::answer;

    /// Throws `ferry_error` for an invalid topic.
    remote_query(ferry& over, std::string_view topic, std::chrono::milliseconds limit)
        : desk_(std::make_shared<detail::typed_answer_desk<answer_type>>(std::string(topic) + ".answered")),
          place_(*over.core_, desk_, topic, detail::type_name<Question>(), detail::fields_of<Question>(), limit) {
        static_assert(std::is_empty_v<Question> || detail::fields_of<Question>() != nullptr,
                      "courier: the fields of this question are not known; see courier/fields.hpp");
    }

    /// The question's number, of this ferry; answers name it. 0 when it could not be put:
    /// `ferry_options::max_questions` wait already, or the ferry has ended.
    std::uint64_t ask(const Question& question) { return place_.ask(&question); }

    /// Published when an answer has come, or the limit is over.
    [[nodiscard]] const channel<remote_answer<answer_type>>& answered() const noexcept { return desk_->answered; }

private:
    std::shared_ptr<detail::typed_answer_desk<answer_type>> desk_;
    detail::asking_place place_;
};

/// Asks, and waits for the answer in a sequence: empty when nobody knew, no answer came in time, or the question could
/// not be put. `to` must outlive the wait.
///
///     const auto depth = co_await courier::ask(office_depth, {.hour = 3});
template <class Question>
sequence<std::optional<typename Question::answer>> ask(remote_query<Question>& to,
                                                       std::type_identity_t<Question> question) {
    using answer = remote_answer<typename Question::answer>;
    const std::uint64_t ticket = to.ask(question);
    if (ticket == 0) {
        co_return std::nullopt;
    }
    const answer& came = co_await next(to.answered(), [ticket](const answer& one) { return one.ticket == ticket; });
    co_return came.answer;
}

WIRED_COURIER_NAMESPACE_END
