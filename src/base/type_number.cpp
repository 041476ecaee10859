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
