// SPDX-License-Identifier: MIT
#include <courier/detail/base/stable_id.hpp>
#include <courier/wiring/catalogue_fault.hpp>
#include <courier/wiring/wiring_fault.hpp>

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

std::string_view id_of(wiring_code code) noexcept {
    return detail::stable_id(code);
}

std::string_view id_of(catalogue_code code) noexcept {
    return detail::stable_id(code);
}

std::string wiring_fault::picture() const {
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
        all += (all.empty() ? "" : "\n") + one.picture();
    }
    return all;
}

} // namespace

wiring_error::wiring_error(std::vector<wiring_fault> faults)
    : std::runtime_error(all_told(faults)), faults_(std::move(faults)) {}

WIRED_COURIER_NAMESPACE_END
