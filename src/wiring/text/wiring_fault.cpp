#include <courier/wiring/wiring_fault.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

std::string_view id_of(wiring_code code) noexcept {
    switch (code) {
    case wiring_code::cannot_open:
        return "courier.wiring.cannot-open";
    case wiring_code::not_toml:
        return "courier.wiring.not-toml";
    case wiring_code::too_large:
        return "courier.wiring.too-large";
    case wiring_code::include_circle:
        return "courier.wiring.include-circle";
    case wiring_code::unknown_key:
        return "courier.wiring.unknown-key";
    case wiring_code::missing_key:
        return "courier.wiring.missing-key";
    case wiring_code::wrong_type:
        return "courier.wiring.wrong-type";
    case wiring_code::out_of_range:
        return "courier.wiring.out-of-range";
    case wiring_code::unknown_channel:
        return "courier.wiring.unknown-channel";
    case wiring_code::unknown_field:
        return "courier.wiring.unknown-field";
    case wiring_code::unknown_value:
        return "courier.wiring.unknown-value";
    case wiring_code::unknown_action:
        return "courier.wiring.unknown-action";
    case wiring_code::unknown_state:
        return "courier.wiring.unknown-state";
    case wiring_code::unknown_phase:
        return "courier.wiring.unknown-phase";
    case wiring_code::unknown_stage:
        return "courier.wiring.unknown-stage";
    case wiring_code::unknown_set:
        return "courier.wiring.unknown-set";
    case wiring_code::unknown_target_kind:
        return "courier.wiring.unknown-target-kind";
    case wiring_code::unknown_pattern:
        return "courier.wiring.unknown-pattern";
    case wiring_code::missing_parameter:
        return "courier.wiring.missing-parameter";
    case wiring_code::unknown_parameter:
        return "courier.wiring.unknown-parameter";
    case wiring_code::never_holds:
        return "courier.wiring.never-holds";
    case wiring_code::always_holds:
        return "courier.wiring.always-holds";
    case wiring_code::leads_back:
        return "courier.wiring.leads-back";
    case wiring_code::duplicate:
        return "courier.wiring.duplicate";
    case wiring_code::unused_pattern:
        return "courier.wiring.unused-pattern";
    }
    return "courier.wiring.unknown";
}

std::string wiring_fault::told() const {
    std::string all = file;
    if (line != 0) {
        all += ":" + std::to_string(line) + ":" + std::to_string(column);
    }
    all += ": " + what + " [" + std::string(id_of(code)) + "]";
    if (line != 0) {
        all += "\n    " + text + "\n    ";
        std::size_t characters = 1; // of which one may be several bytes; a tab stays one
        for (std::size_t i = 0; i < text.size() && characters < column; ++i) {
            if ((static_cast<unsigned char>(text[i]) & 0xc0U) != 0x80U) {
                all += text[i] == '\t' ? '\t' : ' ';
                ++characters;
            }
        }
        all += "^";
    }
    return advice.empty() ? all : all + "\n    " + advice;
}

namespace {

std::string all_told(const std::vector<wiring_fault>& faults) {
    std::string all;
    for (const wiring_fault& one : faults) {
        all += (all.empty() ? "" : "\n") + one.told();
    }
    return all;
}

} // namespace

wiring_error::wiring_error(std::vector<wiring_fault> faults)
    : std::runtime_error(all_told(faults)), faults_(std::move(faults)) {}

WIRED_COURIER_NAMESPACE_END
