// SPDX-License-Identifier: MIT
#include <courier/recording/recording_fault.hpp>

#include <courier/detail/base/stable_id.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

std::string_view id_of(recording_code code) noexcept {
    return detail::stable_id(code);
}

WIRED_COURIER_NAMESPACE_END
