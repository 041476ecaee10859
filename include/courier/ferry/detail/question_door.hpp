// Questions that come from other processes, and answers that go back, without their types.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/asker.hpp>
#include <courier/config.hpp>
#include <courier/data/detail/payload_door.hpp>
#include <courier/query.hpp>

#include <memory>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>

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

/// Takes what a question door has found out.
class answer_taker {
public:
    /// Null: there is none.
    virtual void answered(const void* answer) = 0;

protected:
    answer_taker() = default;
    answer_taker(const answer_taker&) = default;
    answer_taker& operator=(const answer_taker&) = default;
    ~answer_taker() = default;
};

class question_door_base : public payload_door {
public:
    virtual void ask(const void* question, answer_taker& to, std::source_location where) const = 0;
    receipt publish(const void*, std::string_view, std::source_location) const final { return {}; }
};

template <class Question>
class question_door final : public question_door_base {
    static_assert(made_of_nothing<Question>,
                  "courier: a question that comes from outside is a struct that can be made of nothing");
    using answer_type = typename Question::answer;

public:
    explicit question_door(const query<Question>& with) : ask_(with) {
        name = with.name();
        type = type_name<Question>();
        fields = fields_of<Question>();
    }
    [[nodiscard]] void* make() const override { return new Question(); }
    void destroy(void* payload) const noexcept override { delete static_cast<Question*>(payload); }
    void ask(const void* question, answer_taker& to, std::source_location where) const override {
        const std::optional<answer_type> found = ask_.ask(*static_cast<const Question*>(question), where);
        to.answered(found ? &*found : nullptr);
    }

private:
    asker<Question> ask_;
};

/// Where answers from other processes come in.
class answers_door : public payload_door {
public:
    receipt publish(const void*, std::string_view, std::source_location) const final { return {}; }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
