// SPDX-License-Identifier: MIT
#include <courier/detail/base/type_name.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string plain_type_name(std::string_view type) {
#define WIRED_COURIER_TEXT_(name) #name
#define WIRED_COURIER_TEXT(name) WIRED_COURIER_TEXT_(name)
    constexpr std::string_view version = WIRED_COURIER_TEXT(WIRED_COURIER_ABI) "::";
#undef WIRED_COURIER_TEXT
#undef WIRED_COURIER_TEXT_
    std::string plain{type};
    for (const std::string_view part :
         {version, std::string_view("{anonymous}::"), std::string_view("(anonymous namespace)::")}) {
        for (std::size_t at = plain.find(part); at != std::string::npos; at = plain.find(part, at)) {
            plain.erase(at, part.size());
        }
    }
    return plain;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
