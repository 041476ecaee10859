// Ask, and get an answer or none.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/base/refusals.hpp>
#include <courier/subscription.hpp>
#include <courier/verdict.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <optional>
#include <source_location>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

class hub; // courier: #include <courier/hub.hpp>
template <class Question>
class asker; // courier: #include <courier/asker.hpp>

/// Who may answer a query.
enum class answering : std::uint8_t {
    by_one,   ///< one answerer at most; a second one is refused
    in_order, ///< any number; the first that has an answer wins
};

namespace detail {

/// What travels to the answerers.
template <class Question, class Answer>
struct asked {
    const Question& question;
    std::optional<Answer>* first; ///< where the first answer goes
    std::vector<Answer>* all;     ///< where all go instead, if wanted
};

template <class Question>
consteval answering answering_of() {
    if constexpr (requires { Question::answered; }) {
        return Question::answered;
    } else {
        return answering::by_one;
    }
}

/// The type of the answer to a question; an int for any other type, which causes no further message.
template <class Question>
struct answer_type_of {
    using type = int;
};
template <class Question>
    requires requires { typename Question::answer; }
struct answer_type_of<Question> {
    using type = typename Question::answer;
};
template <class Question>
using answer_to = typename answer_type_of<Question>::type;

template <class F, class Question, class Answer>
concept answers = (takes_payload<F, Question> || takes_nothing<F, Question>)&&requires(F& f, const Question& question) {
    { call_handler(f, question) } -> std::convertible_to<std::optional<Answer>>;
};

/// An answerer for a query that takes one, as a handler; as small as `F`.
template <class F, class Question, class Answer>
struct only_answer {
    F answer;
    void operator()(const asked<Question, Answer>& a) const
        requires answers<const F, Question, Answer>
    {
        *a.first = call_handler(answer, a.question);
    }
    void operator()(const asked<Question, Answer>& a)
        requires(!answers<const F, Question, Answer>)
    {
        *a.first = call_handler(answer, a.question);
    }
};

/// The default: answers when nobody has before it.
template <class F, class Question, class Answer>
struct last_answer {
    F answer;
    void operator()(const asked<Question, Answer>& a) {
        if (a.all == nullptr && !*a.first) {
            *a.first = call_handler(answer, a.question);
        } else if (a.all != nullptr && a.all->empty()) {
            if (std::optional<Answer> own = call_handler(answer, a.question)) {
                a.all->push_back(std::move(*own));
            }
        }
    }
};

inline constexpr stage when_nobody_answers = stage::end("default");

/// One of several.
template <class F, class Question, class Answer>
struct next_answer {
    F answer;
    verdict operator()(const asked<Question, Answer>& a) {
        std::optional<Answer> own = call_handler(answer, a.question);
        if (!own) {
            return verdict::go_on;
        }
        if (a.all != nullptr) {
            a.all->push_back(std::move(*own));
            return verdict::go_on;
        }
        *a.first = std::move(own);
        return verdict::stop;
    }
};

/// A query without its types; a hub can end it without the code of the module that made it.
struct query_base {
    channel_core* core_;
    subscription default_;

    explicit query_base(channel_core& core) noexcept : core_(&core) {} // takes its reference
    query_base(const query_base&) = delete;
    query_base& operator=(const query_base&) = delete;
    ~query_base() { close_core(*core_); }

    /// Answerers, the default not counted.
    [[nodiscard]] std::size_t answerers() const noexcept { return core_->live - (default_.live() ? 1U : 0U); }

    /// Reports the second answerer of a query that takes one.
    void report_second(std::source_location where) const;
};

template <class Question, class Answer>
struct kind_traits<asked<Question, Answer>> {
    static constexpr payload_kind make() {
        return {type_name<Question>(),
                &module_tag,
                fields_of<Question>(),
                [](const void* payload) -> const void* {
                    return &static_cast<const asked<Question, Answer>*>(payload)->question;
                },
                std::is_empty_v<Question>,
                true,
                false};
    }
};

} // namespace detail

/// A question that one system asks and others answer, without knowing of one
/// another. The question is a struct of named fields that says what its answer
/// is, and, if several may answer, that too:
///
///     struct DepthAsked {
///         using answer = int; // fathoms
///         static constexpr auto answered = courier::answering::in_order;
///         int hour;
///     };
///     courier::query<DepthAsked> depth{"tides.depth"};
///     harbour.answer(depth, [](const DepthAsked& q) -> std::optional<int> { ... });
///     if (const std::optional<int> fathoms = depth.ask({.hour = 3})) ...
///
/// Answerers are subscriptions: ended with their subscriber, silent while it
/// is paused, ordered by stage, live only during what `.during` says, free to
/// end anything at any time. A handler that throws counts as one without an
/// answer; the exception reaches the asker once the others were asked.
///
/// A `const query&` lets code ask; a `query&` lets it answer.
/// Belongs to one thread, as a channel does; asking from within an answer is
/// subject to the same depth limit as publishing.
template <class Question>
class query : private detail::query_base {
    static_assert(std::is_class_v<Question> && std::is_same_v<Question, std::remove_cvref_t<Question>>,
                  "courier: a question is a struct with named fields, without const or reference");
    static_assert(
        requires { typename Question::answer; },
        "courier: a question declares the type of its answer: add `using answer = ...;` to it");

public:
    using question_type = Question;
    using answer_type = detail::answer_to<Question>;
    static_assert(std::is_object_v<answer_type> && std::is_move_constructible_v<answer_type>,
                  "courier: an answer is a value; to answer with something that lives elsewhere, use a pointer");

    /// How it is answered, as the question says; `by_one` when it says nothing.
    static constexpr answering answered = detail::answering_of<Question>();

    /// Whether a callable of that type can answer it.
    template <class F>
    static constexpr bool is_answered_by = detail::answers<F, Question, answer_type>;

    /// `name` is for messages and reports and is copied.
    explicit query(std::string_view name) : query_base(*detail::open_core(name, &detail::kind_of<travelling>)) {}

    /// With an answer for when nobody else has one; see `set_default()`.
    template <class Default>
    query(std::string_view name, Default&& otherwise) : query(name) {
        set_default(std::forward<Default>(otherwise));
    }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }

    /// The answer, or nothing: nobody answers, no answerer has one, or the
    /// question was nested too deeply. Allocates nothing.
    [[nodiscard("courier: an unused answer need not be asked for")]] std::optional<answer_type>
    ask(const Question& question, std::source_location where = std::source_location::current()) const {
        return ask_core(*core_, question, where);
    }

    /// Every answer there is, in the order of the answerers; the default only
    /// when there is no other.
    [[nodiscard("courier: unused answers need not be asked for")]] std::vector<answer_type>
    ask_all(const Question& question, std::source_location where = std::source_location::current()) const {
        static_assert(answered == answering::in_order,
                      "courier: this query has one answerer at most; ask() it, or let its question say "
                      "`static constexpr auto answered = courier::answering::in_order;`");
        std::vector<answer_type> all;
        const detail::asked<Question, answer_type> out{question, nullptr, &all};
        put(*core_, out, where);
        return all;
    }

    /// Answers from now on, until the returned subscription ends. `handler`
    /// takes the question, or nothing, and returns the answer or a
    /// `std::optional` of it. A second answerer of a query that is answered
    /// `by_one` is refused with `fault_code::second_answerer` and is not live.
    template <class Handler>
    subscription answer(Handler&& handler, delivery_options<Question> options = {},
                        std::source_location where = std::source_location::current()) {
        static_assert(is_answered_by<std::decay_t<Handler>>, WIRED_COURIER_NO_ANSWERER);
        return detail::access::own<subscription>(attach(std::forward<Handler>(handler), options, where, nullptr));
    }

    /// Does not compile; the message says what to write instead.
    template <class Never = void, class Handler>
    subscription answer(Handler&&, delivery_options<Question> = {}) const {
        static_assert(!std::is_void_v<Never>, "courier: a const query can be asked only; to answer, hold the query "
                                              "itself");
        return {};
    }

    /// The answer when no answerer has one: a value, or a callable
    /// like an answerer. It comes back whenever they leave. Replaces the one
    /// before.
    template <class Default>
    void set_default(Default&& otherwise, std::source_location where = std::source_location::current()) {
        delivery_options<Question> options{.stage = detail::when_nobody_answers};
        detail::slot* made = nullptr;
        if constexpr (is_answered_by<std::decay_t<Default>>) {
            made = attach_as<detail::last_answer>(std::forward<Default>(otherwise), options, where, nullptr);
        } else {
            static_assert(std::convertible_to<Default, answer_type>,
                          "courier: a default is an answer, or a callable that takes the question and returns one");
            made = attach_as<detail::last_answer>(
                [value = answer_type(std::forward<Default>(otherwise))] { return value; }, options, where, nullptr);
        }
        if (made != nullptr) {                                  // else the one before stays
            default_ = detail::access::own<subscription>(made); // whose end may be that of this query
        }
    }

    /// How many answerers there are, paused ones included, the default not.
    [[nodiscard]] std::size_t size() const noexcept { return answerers(); }

    /// Makes the calling thread the one the query belongs to, as `channel::adopt()` does.
    void adopt() noexcept { detail::adopt(*core_); }

private:
    friend class hub;
    friend class subscriber;
    friend class asker<Question>;
    friend struct detail::access;

    using travelling = detail::asked<Question, answer_type>;

    explicit query(detail::channel_core& core) noexcept : query_base(core) {}

    static receipt put(detail::channel_core& core, const travelling& out, std::source_location where) {
        if constexpr (checked_build) {
            detail::check_use(core, "asked", where);
        }
        return detail::publish(core, &out, where);
    }

    static std::optional<answer_type> ask_core(detail::channel_core& core, const Question& question,
                                               std::source_location where) {
        std::optional<answer_type> answer;
        put(core, {question, &answer, nullptr}, where);
        return answer;
    }

    template <class Handler>
    detail::slot* attach(Handler&& handler, delivery_options<Question>& options, std::source_location where,
                         detail::ownership whose) {
        if constexpr (answered == answering::by_one) {
            if (answerers() != 0) {
                report_second(where);
                return nullptr;
            }
            return attach_as<detail::only_answer>(std::forward<Handler>(handler), options, where, whose);
        } else {
            return attach_as<detail::next_answer>(std::forward<Handler>(handler), options, where, whose);
        }
    }

    template <template <class, class, class> class As, class Handler>
    detail::slot* attach_as(Handler&& handler, delivery_options<Question>& options, std::source_location where,
                            detail::ownership whose) {
        using F = std::decay_t<Handler>;
        if constexpr (!is_answered_by<F>) {
            return detail::never_subscribed(); // that the handler gives no answer was said where it was subscribed
        } else {
            if constexpr (requires(F& f) { f == nullptr; }) {
                if (handler == nullptr) {
                    detail::report_empty_handler(*core_, where);
                    return nullptr;
                }
            }
            delivery_options<travelling> same{
                .stage = options.stage, .times = options.times, .during = std::move(options.during)};
            if (detail::condition_fn test = detail::guards::test_of(options.condition)) {
                same.condition = [test = std::move(test)](const travelling& t) {
                    return test(&t.question) == turn::served;
                };
            }
            As<F, Question, answer_type> own{std::forward<Handler>(handler)};
            return detail::attach_handler<travelling>(*core_, own, same, where, whose);
        }
    }
};

WIRED_COURIER_NAMESPACE_END
