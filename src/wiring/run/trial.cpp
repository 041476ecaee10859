// SPDX-License-Identifier: MIT
// Wires that are tried once.
#include "data/made_object.hpp"
#include "wiring/check/checker.hpp"
#include "wiring/run/wiring_core.hpp"

#include <courier/data/detail/shape.hpp>
#include <courier/detail/base/in_use.hpp>

#include <algorithm>
#include <stdexcept>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

[[noreturn]] void refuse(const cause_base& cause, const std::string& why) {
    throw wiring_error({{wiring_code::wrong_type,
                         "sample",
                         0,
                         0,
                         "'" + cause.name + "' " + why,
                         "let code publish one, and look at what comes of it",
                         {}}});
}

/// A payload of which some fields are filled in.
class sample_payload {
public:
    sample_payload(const cause_base& cause, std::string_view text, const offer_list& has) : payload_(maker_for(cause)) {
        fill(cause, text, has);
    }
    [[nodiscard]] const void* get() const noexcept { return payload_.get(); }

private:
    static const value_maker& maker_for(const cause_base& cause) {
        if (cause.maker == nullptr) {
            refuse(cause, cause.state != nullptr ? "is a state, of whose changes none can be made"
                                                 : "has payloads of which none can be made here");
        }
        return *cause.maker;
    }

    void fill(const cause_base& cause, std::string_view text, const offer_list& has) {
        wiring_document document;
        fault_list faults(document.files);
        read_text("sample", text, document, faults);
        const value_shape shape = shape_of(cause.fields, cause.type, true);
        std::vector<parameter_plan> fields;
        if (faults.empty()) {
            wire_checker by(has.all, faults);
            check_sample(by, document.parsed.front(), shape, cause.name, fields);
        }
        if (!faults.empty()) {
            throw wiring_error(faults.take());
        }
        for (const parameter_plan& one : fields) {
            const reach to(*cause.fields, one.to, false);
            std::string why;
            const live_value value(one.what, to.type(), cause, nullptr, has);
            if (!value.write({}, to.to_write(payload_.get()), why)) {
                refuse(cause, "does not take it: " + why);
            }
        }
    }

    made_object<value_maker> payload_;
};

wire_trial try_wire(live_wire& wire, std::string_view sample, const offer_list& has) {
    const held until_then(wire);
    const sample_payload payload(*wire.cause, sample, has);
    const std::uint64_t before = wire.log.failures;
    wire_trial made;
    made.held = wire.try_with(payload.get());
    made.failures = wire.log.failures - before;
    made.last_failure = made.failures != 0 ? wire.log.last : std::string();
    return made;
}

} // namespace

wire_trial wiring_core::try_once(std::string_view wanted, std::string_view sample) {
    const std::shared_ptr<const offer_list> has = list();
    const std::shared_ptr<const wire_table> table = in_force;
    for (const wire_row& row : table->rows) {
        if (row.wire->label == wanted) {
            return try_wire(*row.wire, sample, *has);
        }
    }
    throw std::out_of_range("courier: no wire '" + std::string(wanted) + "' is in force");
}

wire_trial wiring_core::try_draft(draft_parts& draft, std::string_view sample) {
    draft.keeps_none = true; // all wires are made, and none is taken from what is in force
    draft.prepare();
    if (!draft.faults.empty()) {
        throw wiring_error(draft.faults);
    }
    const auto is_part = [&](const wire_plan& one) {
        return one.family != 0 && one.family == draft.plan.wires[0].family;
    };
    if (draft.made.empty() ||
        (draft.made.size() > 1 && !std::all_of(draft.plan.wires.begin(), draft.plan.wires.end(), is_part))) {
        throw std::out_of_range("courier: one wire is tried, and here are " + std::to_string(draft.made.size()));
    }
    draft.made.front()->bind(*this);
    return try_wire(*draft.made.front(), sample, *draft.has);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
