#include "wiring/run/live_step.hpp"

#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>

#include <cstring>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

live_step::live_step(const step_plan& plan, std::shared_ptr<action_base> action, const cause_base& cause,
                     const value_type* answer_before, const name_finder& find, std::source_location where)
    : action_(std::move(action)), target_name_(plan.target), at_event_(plan.at_event),
      fits_event_(cause.address_key == action_->address_key), own_(action_), where_(where) {
    if (plan.at_field) {
        at_field_.emplace(*cause.fields, *plan.at_field, !cause.fields->can_write);
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
    if (!target_name_.empty()) {
        target_ = find.target(target_name_);
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
    return at_event_ ? sources.address : nullptr;
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

template <class Then>
void live_step::call(const void* parameters, const void* event_address, failure_log& log, const bool& is_over,
                     const Then& then) const {
    struct context {
        const live_step& step;
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
    } here{*this, log, is_over, then};
    const auto come_back = [](void* known, const call_frame& frame) { static_cast<context*>(known)->follow(frame); };
    std::shared_ptr<const void> address; // its object may go meanwhile
    const void* to = event_address;
    if (at_event_ || at_field_) {
        if (to == nullptr) {
            here.fail("the event names no object");
            return;
        }
    } else if (target_ != nullptr) {
        address = target_->address;
        to = address.get();
        if (address == nullptr || target_->key != action_->address_key) {
            here.fail("'" + target_->name + (address == nullptr ? "' is not there" : "' is a " + target_->kind));
            return;
        }
    }
#if WIRED_COURIER_EXCEPTIONS
    try {
        action_->call(to, parameters, where_, &here, come_back);
    } catch (...) {
        if (here.has_come_back) { // what follows threw
            throw;
        }
        first_failure thrown;
        thrown.run([] { throw; });
        thrown.run([&] { here.fail("it threw an exception"); });
        thrown.rethrow();
    }
#else
    action_->call(to, parameters, where_, &here, come_back);
#endif
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
