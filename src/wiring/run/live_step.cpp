// SPDX-License-Identifier: MIT
#include "wiring/run/live_step.hpp"

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>

#include <cstring>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

live_step::live_step(const step_plan& plan, std::shared_ptr<action_base> action, const cause_base& cause,
                     const value_type* answer_before, const name_finder& find, std::source_location where)
    : action_(std::move(action)), plan_(plan.target), fits_event_(cause.address_key == action_->address_key),
      own_(action_), where_(where) {
    if (plan_.field) {
        at_field_.emplace(*cause.fields, *plan_.field, !cause.fields->can_write);
        fits_event_ = at_field_->type().name == action_->address_type;
    }
    parameters_.reserve(plan.parameters.size());
    for (const parameter_plan& one : plan.parameters) {
        const reach to(*action_->fields, one.to, false);
        live_value value(one.what, to.type(), cause, answer_before, find);
        if (value.is_field_copy() && to.is_fixed()) {
            add_copy({value.offset(), to.offset(), to.type().size});
        } else {
            varies_ = varies_ || value.varies();
            parameters_.push_back({to, std::move(value)});
        }
    }
    write_constants(own_.object());
}

void live_step::bind(target_finder& find) {
    if (!plan_.name.empty()) {
        target_ = find.target(plan_.name);
    }
    if (!plan_.group.empty()) {
        group_ = find.group(plan_.group);
    }
    for (live_step& one : success) {
        one.bind(find);
    }
    for (live_step& one : failure) {
        one.bind(find);
    }
}

/// Neighbours that stay neighbours are copied as one.
void live_step::add_copy(field_copy made) {
    if (!copies_.empty()) {
        field_copy& before = copies_.back();
        if (before.from + before.size == made.from && before.to + before.size == made.to) {
            before.size += made.size;
            return;
        }
    }
    copies_.push_back(made);
}

const void* live_step::event_address(const value_sources& sources) const noexcept {
    if (!fits_event_) {
        return nullptr;
    }
    if (at_field_) {
        return sources.payload != nullptr ? at_field_->in(sources.payload) : nullptr;
    }
    return plan_.is_event ? sources.address : nullptr;
}

void live_step::write_constants(void* object) const {
    std::string why;
    for (const parameter& one : parameters_) {
        if (!one.value.varies()) {
            static_cast<void>(one.value.write({}, one.to.to_write(object), why)); // it was checked
        }
    }
}

bool live_step::write(const value_sources& sources, void* object, bool answers, std::string& why) const {
    copy_fields(sources.payload, object);
    for (const parameter& one : parameters_) {
        if (!one.value.varies() || (!answers && one.value.needs_answer())) {
            continue;
        }
        if (one.to.is_optional() && !one.value.is_there(sources)) {
            one.to.drop(object);
        } else if (!one.value.write(sources, one.to.to_write(object), why)) {
            return false;
        }
    }
    return true;
}

namespace {

/// What follows from a failure follows whatever those who hear of it throw.
template <class Follow>
void note_failure(failure_log& log, const std::string& action, const std::string& why, std::source_location where,
                  const bool& is_over, Follow follow) {
    first_failure thrown;
    thrown.run([&] { log.note(action, why, where); });
    if (!is_over) {
        thrown.run(follow);
    }
    thrown.rethrow();
}

} // namespace

/// One call of an action, and what follows from it.
template <class Then>
struct live_step::calling {
    const live_step& step;
    const void* parameters;
    failure_log& log;
    const bool& is_over;
    const Then& then;
    bool has_come_back = false;

    void follow(const call_frame& frame) {
        has_come_back = true;
        if (frame.has_failed) [[unlikely]] {
            note_failure(log, step.action_->name, frame.why, step.where_, is_over,
                         [&] { then(false, nullptr, frame.why); });
        } else if (!is_over) {
            then(true, frame.answer, frame.why);
        }
    }
    void fail(std::string why) {
        call_frame frame;
        frame.has_failed = true;
        frame.why = std::move(why);
        follow(frame);
    }
    void call_at(const void* to) {
        has_come_back = false;
        const auto come_back = [](void* known, const call_frame& frame) {
            static_cast<calling*>(known)->follow(frame);
        };
#if WIRED_COURIER_EXCEPTIONS
        try {
            step.action_->call(to, parameters, step.where_, this, come_back);
        } catch (...) {
            if (has_come_back) { // what follows threw
                throw;
            }
            first_failure thrown;
            thrown.run([] { throw; });
            thrown.run([&] { fail("it threw an exception"); });
            thrown.rethrow();
        }
#else
        step.action_->call(to, parameters, step.where_, this, come_back);
#endif
    }
};

std::string live_step::find_object(const void* event_address, std::shared_ptr<const void>& kept,
                                   const void*& to) const {
    if (plan_.is_event || at_field_) {
        to = event_address;
        return to == nullptr ? "the event names no object" : "";
    }
    if (target_ != nullptr) {
        kept = target_->address;
        to = kept.get();
        if (to == nullptr || target_->key != action_->address_key) {
            return "'" + target_->name + (to == nullptr ? "' is not there" : "' is a " + target_->kind);
        }
    }
    return {};
}

template <class Then>
void live_step::call_group(const void* event_address, calling<Then>& with) const {
    const std::shared_ptr<const group_source> members = group_->members; // another may take its place meanwhile
    if (members == nullptr || !members->is_there() || members->address_key != action_->address_key) {
        with.fail("the group '" + group_->name + "' is not there");
        return;
    }
    std::shared_ptr<const void> kept; // its object may go meanwhile
    const void* except = nullptr;
    static_cast<void>(find_object(event_address, kept, except)); // who is not there need not be left out
    struct visited {
        calling<Then>& with;
        first_failure thrown;
        bool any = false;
    } each{with, {}};
    members->each(except, &each, [](void* context, const void* address) {
        auto& now = *static_cast<visited*>(context);
        now.any = true;
        if (!now.with.is_over) {
            now.thrown.run([&] { now.with.call_at(address); });
        }
    });
    if (!each.any) {
        with.fail("the group '" + group_->name + "' has no member for it");
    }
    each.thrown.rethrow();
}

template <class Then>
void live_step::call(const void* parameters, const void* event_address, failure_log& log, const bool& is_over,
                     const Then& then) const {
    calling<Then> here{*this, parameters, log, is_over, then};
    if (group_ != nullptr) {
        call_group(event_address, here);
        return;
    }
    std::shared_ptr<const void> kept; // its object may go meanwhile
    const void* to = nullptr;
    if (std::string why = find_object(event_address, kept, to); !why.empty()) {
        here.fail(std::move(why));
    } else {
        here.call_at(to);
    }
}

namespace {

/// What follows from one step, of which each is done whatever the others throw.
template <class Steps, class Do>
void each_of(const Steps& steps, const bool& is_over, Do run) {
    if (steps.empty()) [[likely]] {
        return;
    }
    first_failure thrown;
    for (const auto& one : steps) {
        if (!is_over) {
            thrown.run([&] { run(one); });
        }
    }
    thrown.rethrow();
}

} // namespace

void live_step::run(const value_sources& sources, failure_log& log, const bool& is_over) const {
    const auto follow = [&](bool done, const void* answer, const std::string& reason) {
        const value_sources next{sources.payload, done ? answer : nullptr, done ? nullptr : &reason, sources.address};
        each_of(done ? success : failure, is_over, [&](const live_step& one) { one.run(next, log, is_over); });
    };
    std::string why;
    if (!is_busy_) [[likely]] {
        const while_true now(is_busy_);
        if (write(sources, own_.object(), true, why)) [[likely]] {
            call(own_.object(), event_address(sources), log, is_over, follow);
            return;
        }
    } else {
        const made_parameters apart(action_);
        write_constants(apart.object());
        if (write(sources, apart.object(), true, why)) {
            call(apart.object(), event_address(sources), log, is_over, follow);
            return;
        }
    }
    note_failure(log, action_->name, why, where_, is_over, [&] { follow(false, nullptr, why); });
}

filled_step live_step::fill(const value_sources& sources) const {
    filled_step made{this, made_parameters(action_), {}, true, {}, {}, {}};
    if (const void* const address = event_address(sources); address != nullptr) {
        made.address = action_->copy_address(address);
    }
    write_constants(made.parameters.object());
    made.fits = write(sources, made.parameters.object(), false, made.why);
    for (const live_step& one : success) {
        made.success.push_back(one.fill(sources));
    }
    for (const live_step& one : failure) {
        made.failure.push_back(one.fill(sources));
    }
    return made;
}

void live_step::run_filled(const filled_step& filled, const value_sources& sources, failure_log& log,
                           const bool& is_over) const {
    const auto follow = [&](bool done, const void* answer, const std::string& reason) {
        const value_sources next{nullptr, done ? answer : nullptr, done ? nullptr : &reason};
        each_of(done ? filled.success : filled.failure, is_over,
                [&](const filled_step& one) { one.step->run_filled(one, next, log, is_over); });
    };
    bool fits = filled.fits;
    std::string why = filled.why;
    for (const parameter& one : parameters_) {
        if (fits && one.value.needs_answer()) {
            fits = one.value.write(sources, one.to.to_write(filled.parameters.object()), why);
        }
    }
    if (fits) {
        call(filled.parameters.object(), filled.address.get(), log, is_over, follow);
    } else {
        note_failure(log, action_->name, why, where_, is_over, [&] { follow(false, nullptr, why); });
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
