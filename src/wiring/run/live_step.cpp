#include "wiring/run/live_step.hpp"

#include <courier/detail/base/in_use.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

live_step::live_step(const step_plan& plan, std::shared_ptr<action_base> action, std::shared_ptr<target_place> target,
                     const cause_base& cause, const value_type* answer_before, const name_finder& find,
                     std::source_location where)
    : action_(std::move(action)), target_(std::move(target)), own_(action_), where_(where) {
    for (const parameter_plan& one : plan.parameters) {
        const reach to(*action_->fields, one.to, false);
        parameters_.push_back({to, live_value(one.what, to.type(), cause, answer_before, find)});
    }
    write_constants(own_.object());
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

template <class Then>
void live_step::call(const void* parameters, failure_log& log, first_failure& thrown, const bool& is_over,
                     Then then) const {
    const std::shared_ptr<const void> address = target_ != nullptr ? target_->address : nullptr;
    const auto follow = [&](const call_frame& frame) {
        if (frame.has_failed) {
            log.note(action_->name, frame.why);
        }
        if (!is_over) {
            then(!frame.has_failed, frame.answer);
        }
    };
    if (target_ != nullptr && (address == nullptr || target_->key != action_->address_key)) {
        call_frame frame;
        frame.has_failed = true;
        frame.why = "'" + target_->name + (address == nullptr ? "' is not there" : "' is a " + target_->kind);
        follow(frame);
        return;
    }
    bool has_come_back = false;
    struct context {
        decltype(follow)& go_on;
        bool& has_come_back;
    } here{follow, has_come_back};
    thrown.run([&] {
        action_->call(address.get(), parameters, where_, &here, [](void* known, const call_frame& frame) {
            auto& c = *static_cast<context*>(known);
            c.has_come_back = true;
            c.go_on(frame);
        });
    });
    if (!has_come_back) { // it threw
        call_frame frame;
        frame.has_failed = true;
        frame.why = "it threw an exception";
        follow(frame);
    }
}

void live_step::run(const value_sources& sources, failure_log& log, first_failure& thrown, const bool& is_over) const {
    const auto follow = [&](bool done, const void* answer) {
        const value_sources next{sources.payload, done ? answer : nullptr};
        for (const live_step& one : done ? success : failure) {
            if (!is_over) {
                one.run(next, log, thrown, is_over);
            }
        }
    };
    std::string why;
    if (!is_busy_) [[likely]] {
        const while_true now(is_busy_);
        if (write(sources, own_.object(), true, why)) [[likely]] {
            call(own_.object(), log, thrown, is_over, follow);
            return;
        }
    } else {
        const made_parameters apart(action_);
        write_constants(apart.object());
        if (write(sources, apart.object(), true, why)) {
            call(apart.object(), log, thrown, is_over, follow);
            return;
        }
    }
    log.note(action_->name, why);
    follow(false, nullptr);
}

filled_step live_step::fill(const value_sources& sources) const {
    filled_step made{this, made_parameters(action_), true, {}, {}, {}};
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
                           first_failure& thrown, const bool& is_over) const {
    const auto follow = [&](bool done, const void* answer) {
        const value_sources next{nullptr, done ? answer : nullptr};
        for (const filled_step& one : done ? filled.success : filled.failure) {
            if (!is_over) {
                one.step->run_filled(one, next, log, thrown, is_over);
            }
        }
    };
    bool fits = filled.fits;
    std::string why = filled.why;
    for (const parameter& one : parameters_) {
        if (fits && one.value.needs_answer()) {
            fits = one.value.write(sources, one.to.to_write(filled.parameters.object()), why);
        }
    }
    if (fits) {
        call(filled.parameters.object(), log, thrown, is_over, follow);
    } else {
        log.note(action_->name, why);
        follow(false, nullptr);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
