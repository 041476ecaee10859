// Questions that come from other processes, and answers that go back, without their types.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/asker.hpp>
#include <courier/config.hpp>
#include <courier/data/detail/payload_door.hpp>
#include <courier/publisher.hpp>
#include <courier/query.hpp>
#include <courier/request.hpp>

#include <memory>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A struct's own fields, or a value as the only one.
template <class T>
[[nodiscard]] constexpr const field_table* fields_to_send() {
    if constexpr (fields_of<T>() != nullptr) {
        return fields_of<T>();
    } else {
        static_assert(make_type<T>().kind != value_kind::other,
                      "courier: a payload crosses by its fields, which are not known here; see courier/fields.hpp");
        return &value_as_field<T>::table;
    }
}

/// Takes what a question door has found out, at once or later. May outlive the ferry.
class answer_taker {
public:
    answer_taker() = default;
    answer_taker(const answer_taker&) = delete;
    answer_taker& operator=(const answer_taker&) = delete;
    virtual ~answer_taker() = default;
    /// Null: there is none. Called once.
    virtual void answered(const void* answer) = 0;
};

class question_door_base : public payload_door {
public:
    virtual void ask(const void* question, std::unique_ptr<answer_taker> to, std::source_location where) const = 0;
    receipt publish(const void*, std::string_view, std::source_location) const final { return {}; }
};

template <class Question>
class typed_question_door : public question_door_base {
    static_assert(made_of_nothing<Question>,
                  "courier: a question that comes from outside is a struct that can be made of nothing");

public:
    explicit typed_question_door(std::string_view its_name) {
        name = its_name;
        type = type_name<Question>();
        fields = fields_of<Question>();
    }
    [[nodiscard]] void* make() const override { return new Question(); }
    void destroy(void* payload) const noexcept override { delete static_cast<Question*>(payload); }
};

/// Asks a query.
template <class Question>
class question_door final : public typed_question_door<Question> {
public:
    explicit question_door(const query<Question>& with) : typed_question_door<Question>(with.name()), ask_(with) {}
    void ask(const void* question, std::unique_ptr<answer_taker> to, std::source_location where) const override {
        const std::optional<typename Question::answer> found = ask_.ask(*static_cast<const Question*>(question), where);
        to->answered(found ? &*found : nullptr);
    }

private:
    asker<Question> ask_;
};

/// Publishes a request, whose reply brings the answer.
template <class Question>
class request_door final : public typed_question_door<Question> {
    using place = answer_place<answer_to<Question>>;

    /// Lives as long as the reply does.
    struct waiting {
        std::unique_ptr<answer_taker> to;
        held<place> at;

        static void come(void* whose) {
            const std::unique_ptr<waiting> own(static_cast<waiting*>(whose));
            const auto& answer = own->at->answer;
            own->to->answered(answer ? &*answer : nullptr);
        }
    };

public:
    explicit request_door(channel<request<Question>>& with)
        : typed_question_door<Question>(with.name()), out_(with, "ferry") {}
    void ask(const void* question, std::unique_ptr<answer_taker> to, std::source_location where) const override {
        const auto at = held<place>::taking_over(new place);
        at->whose = new waiting{std::move(to), at};
        at->tell = &waiting::come;
        out_.publish(request_access::make(*static_cast<const Question*>(question), at), where);
    }

private:
    publisher<request<Question>> out_; ///< the channel may end first
};

/// Where answers from other processes come in.
class answers_door : public payload_door {
public:
    receipt publish(const void*, std::string_view, std::source_location) const final { return {}; }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
