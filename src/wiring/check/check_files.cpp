// SPDX-License-Identifier: MIT
#include <courier/wiring/check.hpp>

#include "wiring/check/declared_states.hpp"
#include "wiring/text/read_files.hpp"

#include <set>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using namespace detail;

class target_list {
public:
    target_list(const wiring_document& document, const catalogue& has, wiring_check& into)
        : document_(document), names_(names_of(has.targets)), into_(into) {
        known_.insert(names_.begin(), names_.end());
    }

    void add(const wire_plan& wire) {
        add(wire.target.name, wire.target.at);
        add(wire.steps);
        add(wire.otherwise);
    }

private:
    void add(const std::vector<step_plan>& steps) {
        for (const step_plan& one : steps) {
            add(one.target.name, one.target.at);
            add(one.success);
            add(one.failure);
        }
    }
    void add(const std::string& name, place_in at) {
        if (!name.empty() && known_.insert(name).second) {
            const std::string near = nearest_of(name, names_);
            into_.awaited.push_back({name, document_.files[at.file].name, at.line, at.column,
                                     near.empty() ? "" : "did you mean " + in_quotes(near) + "?"});
        }
    }

    const wiring_document& document_;
    std::vector<std::string> names_;
    std::set<std::string> known_;
    wiring_check& into_;
};

wiring_check check(wiring_document& document, fault_list& faults, const catalogue& has) {
    wiring_check made;
    made.files = document.files.size();
    if (!faults.empty()) {
        made.faults = faults.take();
        return made;
    }
    const declarations declared(document.parsed, has, faults);
    const wiring_plan plan = check_wiring(document.parsed, document.store, declared.all(), faults);
    made.wires = plan.wires.size();
    target_list targets(document, has, made);
    for (const wire_plan& one : plan.wires) {
        targets.add(one);
    }
    made.faults = faults.take();
    return made;
}

} // namespace

wiring_check check_wiring(const std::vector<std::filesystem::path>& files, const catalogue& has) {
    wiring_document document;
    fault_list faults(document.files);
    read_files(files, document, faults);
    return check(document, faults, has);
}

wiring_check check_wiring_edited(const std::filesystem::path& file, std::string_view text, const catalogue& has,
                                 const std::vector<std::filesystem::path>& inside) {
    wiring_document document;
    fault_list faults(document.files);
    read_edited(file, text, inside, document, faults);
    return check(document, faults, has);
}

wiring_check check_wiring_text(std::string_view file, std::string_view text, const catalogue& has) {
    wiring_document document;
    fault_list faults(document.files);
    read_text(file, text, document, faults);
    return check(document, faults, has);
}

WIRED_COURIER_NAMESPACE_END
