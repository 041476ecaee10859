// Actions without their types, and with them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/detail/base/field_table.hpp>
#include <courier/detail/base/type_number.hpp>
#include <courier/subscriber.hpp>
#include <courier/wiring/outcome.hpp>

#include <cstdint>
#include <memory>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// In ledgers and recordings: what channels of actions carry.
template <class Parameters>
struct action;

namespace detail {

/// Stands in the books for what an action is called with, so that an action that
/// nobody called is not taken for a mistake.
template <class Parameters>
inline constexpr payload_kind action_kind = [] {
    payload_kind made = kind_traits<Parameters>::make();
    made.name = type_name<action<Parameters>>();
    return made;
}();

/// What becomes of a call, on the caller's stack.
struct call_frame {
    bool was_served = false;
    bool has_failed = false;
    std::string why;
    const void* answer = nullptr;
};

class action_base {
public:
    explicit action_base(std::string_view its_name) : name(its_name) {}
    action_base(const action_base&) = delete;
    action_base& operator=(const action_base&) = delete;
    virtual ~action_base() = default;

    /// Parameters as they are when nobody has set them.
    [[nodiscard]] virtual void* make() const = 0;
    virtual void destroy(void* parameters) const noexcept = 0;
    /// Calls it, and then, while the answer is there, `then`. `address` null: all objects
    /// that offer it; the last one's answer counts.
    virtual void call(const void* address, const void* parameters, std::source_location where, void* context,
                      void (*then)(void* context, const call_frame& frame)) = 0;
    /// An address of its own, for later.
    [[nodiscard]] virtual std::shared_ptr<const void> copy_address(const void*) const { return nullptr; }
    /// The same for one that is for no object in particular, where nothing follows from
    /// it. False, with the reason, when it failed.
    virtual bool call_only(const void* parameters, std::source_location where, std::string& why) = 0;
    /// How many offer it.
    [[nodiscard]] virtual std::size_t offered() const noexcept = 0;

    std::string name;
    std::string_view parameters_type;
    const field_table* fields = nullptr; ///< of the parameters; null where there are none
    std::uint64_t key = 0;               ///< of the action's type
    std::size_t size = 0;                ///< of the parameters, in bytes
    const value_type* answer = nullptr;  ///< null: none
    std::string_view address_type;       ///< empty: it is for no object in particular
    std::uint64_t address_key = 0;
};

template <class Result>
struct answer_of {
    using type = Result;
};
template <class Answer>
struct answer_of<outcome<Answer>> {
    using type = Answer;
};

template <class Channel, class Parameters, class Answer>
class typed_action : public action_base {
    static_assert(std::is_default_constructible_v<Parameters>,
                  "courier: the parameters of an action are a struct that can be made of nothing");

public:
    explicit typed_action(std::string_view its_name, addressing how = addressing::none)
        : action_base(its_name),
          called(access::channel_on<Channel>(*open_core(its_name, &action_kind<Parameters>, how))) {
        parameters_type = type_name<Parameters>();
        fields = fields_of<Parameters>();
        size = sizeof(Parameters);
        if constexpr (!std::is_void_v<Answer>) {
            answer = &known<Answer>::type;
        }
    }

    [[nodiscard]] void* make() const override { return new Parameters(); }
    void destroy(void* parameters) const noexcept override { delete static_cast<Parameters*>(parameters); }
    [[nodiscard]] std::size_t offered() const noexcept override { return called.size(); }

    /// What is subscribed: calls `function` and notes what it returns.
    template <class Function, class... Arguments>
    void serve(Function& function, const Arguments&... arguments) {
        frame* const now = now_; // on the stack of whoever calls: `function` may end everything else
        using result = decltype(function(arguments...));
        if constexpr (std::is_void_v<result>) {
            function(arguments...);
        } else {
            note(now, function(arguments...));
        }
        if (now != nullptr) {
            now->was_served = true;
        }
    }

    Channel called;

protected:
    using held_answer = std::conditional_t<std::is_void_v<Answer>, char, Answer>;
    struct frame : call_frame {
        std::optional<held_answer> value;
    };

    /// The innermost frame while it lives, whatever is thrown.
    struct innermost_frame {
        innermost_frame(frame*& its_now, frame& here) noexcept : now(its_now), before(std::exchange(its_now, &here)) {}
        innermost_frame(const innermost_frame&) = delete;
        innermost_frame& operator=(const innermost_frame&) = delete;
        ~innermost_frame() { now = before; }
        frame*& now;
        frame* before;
    };

    template <class Publish>
    bool call_only_in(Publish publish, std::string& why) {
        frame here;
        {
            const innermost_frame now(now_, here);
            publish();
        }
        if (here.was_served && !here.has_failed) [[likely]] {
            return true;
        }
        why = here.has_failed ? std::move(here.why) : "nobody offers it now";
        return false;
    }

    template <class Publish>
    void call_in(Publish publish, void* context, void (*then)(void*, const call_frame&)) {
        frame here;
        {
            const innermost_frame now(now_, here);
            publish();
        }
        if (!here.was_served && !here.has_failed) {
            here.has_failed = true;
            here.why = "nobody offers it now";
        }
        here.answer = here.value ? &*here.value : nullptr;
        then(context, here);
    }

private:
    static void note(frame* now, held_answer answer) {
        if (now != nullptr) {
            now->value = std::move(answer);
        }
    }
    template <class Any>
    static void note(frame* now, outcome<Any> result) {
        if (now == nullptr) {
            return;
        }
        if (!result) {
            now->has_failed = true;
            now->why = result.why();
        } else if constexpr (!std::is_void_v<Any>) {
            now->value = std::move(*result.answer());
        }
    }

    frame* now_ = nullptr; ///< of the innermost call
};

template <class Parameters, class Answer>
class plain_action final : public typed_action<channel<Parameters>, Parameters, Answer> {
public:
    using typed_action<channel<Parameters>, Parameters, Answer>::typed_action;

    void call(const void*, const void* parameters, std::source_location where, void* context,
              void (*then)(void* context, const call_frame& frame)) override {
        this->call_in([&] { this->called.publish(*static_cast<const Parameters*>(parameters), where); }, context, then);
    }
    bool call_only(const void* parameters, std::source_location where, std::string& why) override {
        return this->call_only_in([&] { this->called.publish(*static_cast<const Parameters*>(parameters), where); },
                                  why);
    }
};

template <class Parameters, class Address, class Answer>
class addressed_action final : public typed_action<addressed_channel<Parameters, Address>, Parameters, Answer> {
public:
    explicit addressed_action(std::string_view its_name)
        : typed_action<addressed_channel<Parameters, Address>, Parameters, Answer>(its_name, addressing_by<Address>) {
        this->address_type = type_name<Address>();
        this->address_key = key_of_type<Address>();
    }

    void call(const void* address, const void* parameters, std::source_location where, void* context,
              void (*then)(void* context, const call_frame& frame)) override {
        const Parameters& what = *static_cast<const Parameters*>(parameters);
        if (address == nullptr) {
            this->call_in([&] { this->called.publish(what, where); }, context, then);
            return;
        }
        const Address to = *static_cast<const Address*>(address); // its owner may go meanwhile
        this->call_in([&] { this->called.publish_to(to, what, where); }, context, then);
    }
    [[nodiscard]] std::shared_ptr<const void> copy_address(const void* address) const override {
        return std::make_shared<const Address>(*static_cast<const Address*>(address));
    }
    bool call_only(const void*, std::source_location, std::string& why) override {
        why = "it needs an object";
        return false;
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
