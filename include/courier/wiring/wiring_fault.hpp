// Faults of wiring files.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/fields.hpp>

#include <cstdint>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`.
enum class wiring_code : std::uint8_t {
    cannot_open,         ///< the file cannot be read
    not_toml,            ///< it is not TOML
    too_large,           ///< of a file, of how deep it is, or of how many wires there are
    include_circle,      ///< a file includes itself
    unknown_key,         ///< a key that means nothing here
    missing_key,         ///< something that has to be said is not
    wrong_type,          ///< a text where a number belongs, and the like
    out_of_range,        ///< a number that does not fit
    unknown_channel,     ///< nothing of that name can be a cause
    unknown_field,       ///< the payload, or the parameters, have no such field
    unknown_value,       ///< an enumeration has no such value
    unknown_action,      ///< nobody offers it
    unknown_state,       ///< nobody offers it
    unknown_phase,       ///< neither phases nor a phase of that name
    unknown_stage,       ///< nobody offers it
    unknown_set,         ///< no file has it
    unknown_target_kind, ///< a target where none belongs, or of another kind
    unknown_pattern,     ///< there is none of that name
    missing_parameter,   ///< an action, or a pattern, needs it
    unknown_parameter,   ///< it has no such parameter
    never_holds,         ///< conditions that exclude one another
    always_holds,        ///< a condition that says nothing
    leads_back,          ///< wires that set one another off without an end
    duplicate,           ///< the same thing twice
    unused_pattern,      ///< nobody uses it
};

WIRED_COURIER_ENUM_AS(wiring_code, cannot_open, "courier.wiring.cannot-open", not_toml, "courier.wiring.not-toml",
                      too_large, "courier.wiring.too-large", include_circle, "courier.wiring.include-circle",
                      unknown_key, "courier.wiring.unknown-key", missing_key, "courier.wiring.missing-key", wrong_type,
                      "courier.wiring.wrong-type", out_of_range, "courier.wiring.out-of-range", unknown_channel,
                      "courier.wiring.unknown-channel", unknown_field, "courier.wiring.unknown-field", unknown_value,
                      "courier.wiring.unknown-value", unknown_action, "courier.wiring.unknown-action", unknown_state,
                      "courier.wiring.unknown-state", unknown_phase, "courier.wiring.unknown-phase", unknown_stage,
                      "courier.wiring.unknown-stage", unknown_set, "courier.wiring.unknown-set", unknown_target_kind,
                      "courier.wiring.unknown-target-kind", unknown_pattern, "courier.wiring.unknown-pattern",
                      missing_parameter, "courier.wiring.missing-parameter", unknown_parameter,
                      "courier.wiring.unknown-parameter", never_holds, "courier.wiring.never-holds", always_holds,
                      "courier.wiring.always-holds", leads_back, "courier.wiring.leads-back", duplicate,
                      "courier.wiring.duplicate", unused_pattern, "courier.wiring.unused-pattern")

/// Such as "courier.wiring.unknown-field".
[[nodiscard]] std::string_view id_of(wiring_code code) noexcept;

/// One thing that is wrong, and where. Lines and columns count from 1; a column is
/// one of characters, not of bytes. 0: the file as a whole.
struct wiring_fault {
    wiring_code code;
    std::string file;
    std::uint32_t line = 0;
    std::uint32_t column = 0;
    std::string what;   ///< what is wrong, in one sentence
    std::string advice; ///< a name that would fit, or another cure; may be empty
    std::string text;   ///< the line itself

    /// For people, in up to four lines: the place and the fault, the line, a mark
    /// under the place, and the advice.
    [[nodiscard]] std::string picture() const;
};

/// Thrown when a wiring is not taken; the one in force stays.
class wiring_error : public std::runtime_error {
public:
    /// With all faults of a load; `what()` lists them.
    explicit wiring_error(std::vector<wiring_fault> faults);

    /// All of them, file by file and from the top.
    [[nodiscard]] const std::vector<wiring_fault>& faults() const noexcept { return faults_; }

private:
    std::vector<wiring_fault> faults_;
};

WIRED_COURIER_NAMESPACE_END
