#include <courier/detail/type_number.hpp>

#include <mutex>
#include <string>
#include <unordered_map>

namespace courier::inline WIRED_COURIER_ABI::detail {

std::uint32_t number_of_type(std::string_view name) {
    static std::mutex guard;
    // Never destroyed: hubs with static lifetime may ask late.
    static auto* const numbers = new std::unordered_map<std::string, std::uint32_t>;
    const std::lock_guard lock(guard);
    return numbers->try_emplace(std::string{name}, static_cast<std::uint32_t>(numbers->size() + 1)).first->second;
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
