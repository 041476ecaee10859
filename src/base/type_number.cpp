// SPDX-License-Identifier: MIT
#include <courier/detail/base/type_number.hpp>

#include <mutex>
#include <string>
#include <unordered_map>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::uint32_t number_of_type(std::string_view name) {
    static std::mutex guard;
    // Never destroyed: hubs with static lifetime may ask late.
    static auto* const numbers = new std::unordered_map<std::string, std::uint32_t>;
    const std::lock_guard lock(guard);
    return numbers->try_emplace(std::string{name}, static_cast<std::uint32_t>(numbers->size() + 1)).first->second;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
