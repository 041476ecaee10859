// SPDX-License-Identifier: MIT
#include <courier/wiring/wiring_audit.hpp>

#include "wiring/check/checker.hpp"
#include "wiring/run/wiring_core.hpp"

#include <map>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using namespace detail;

class wire_audit {
public:
    explicit wire_audit(const wiring_core& of) : of_(of) {}

    audit_report report() {
        for (const wire_row& row : of_.in_force->rows) {
            const std::string where = of_.in_force->files[row.at.file].name + ":" + std::to_string(row.at.line);
            const auto note = [&](const target_place& target) {
                if (!target.has_come) {
                    missing_[target.name].push_back(where);
                }
            };
            if (row.wire->target != nullptr) {
                note(*row.wire->target);
            }
            for (const auto* const all : {&row.wire->steps, &row.wire->otherwise}) {
                for (const live_step& one : *all) {
                    one.each_target(note);
                }
            }
        }
        never_came();
        cause_ended();
        always_fails();
        return std::move(made_);
    }

private:
    void never_came() {
        std::vector<std::string> there;
        for (const auto& [name, place] : of_.targets) {
            if (place->has_come) {
                there.push_back(name);
            }
        }
        for (const auto& [name, places] : missing_) {
            const std::string near = nearest_of(name, there);
            made_.findings.push_back({finding_code::never_came,
                                      "no object was ever called " + in_quotes(name) + ", and " +
                                          std::to_string(places.size()) +
                                          (places.size() == 1 ? " wire names it" : " wires name it"),
                                      places.front(),
                                      near.empty() ? "see whether the level has it, and gives it that name"
                                                   : "did you mean " + in_quotes(near) + "?",
                                      {},
                                      {},
                                      0});
        }
    }

    void cause_ended() {
        for (const wire_row& row : of_.in_force->rows) {
            if (const live_wire& wire = *row.wire; wire.waits_for_cause()) {
                made_.findings.push_back(
                    {finding_code::cause_ended,
                     in_quotes(wire.label) + " waits for " + in_quotes(wire.cause->name) + ", which has ended",
                     of_.in_force->files[row.at.file].name + ":" + std::to_string(row.at.line),
                     "offer the channel of that name that takes its place, or the hub that makes it", wire.cause->name,
                     wire.label, 0});
            }
        }
    }

    void always_fails() {
        for (const wire_row& row : of_.in_force->rows) {
            const live_wire& wire = *row.wire;
            const std::uint64_t times = wire.caused + wire.otherwise_done;
            if (times != 0 && wire.log.failures >= times) {
                made_.findings.push_back(
                    {finding_code::always_fails,
                     in_quotes(wire.label) + " failed each of " + std::to_string(times) + " times: " + wire.log.last,
                     of_.in_force->files[row.at.file].name + ":" + std::to_string(row.at.line),
                     "see whether what it acts on is there then, or say what is to follow: failed = ...",
                     wire.cause->name, wire.label, 0});
            }
        }
    }

    const wiring_core& of_;
    std::map<std::string, std::vector<std::string>> missing_; ///< lines of wires, by names
    audit_report made_;
};

} // namespace

audit_report audit(const wiring& of) {
    return wire_audit(*of.core_).report();
}

WIRED_COURIER_NAMESPACE_END
