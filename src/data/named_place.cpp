// SPDX-License-Identifier: MIT
#include "data/named_place.hpp"

#include <bit>
#include <map>
#include <mutex>
#include <set>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// What a std::source_location of libstdc++ points to: its ABI says so, for g++ and
/// clang alike (`std::source_location::__impl`), since compilers fill it in.
struct place_layout {
    const char* file;
    const char* function;
    unsigned line;
    unsigned column;
};
static_assert(sizeof(std::source_location) == sizeof(const place_layout*),
              "courier: the component wiring needs libstdc++, whose layout of std::source_location it knows");

} // namespace

std::source_location named_place(std::string_view file, std::uint32_t line) {
    static std::mutex one_at_a_time;
    static auto& files = *new std::set<std::string, std::less<>>();
    static auto& places = *new std::map<std::pair<const char*, std::uint32_t>, place_layout>();
    const std::scoped_lock only_this(one_at_a_time);
    auto known = files.find(file);
    if (known == files.end()) {
        known = files.emplace(file).first;
    }
    const char* const name = known->c_str();
    const place_layout& there = places.try_emplace({name, line}, place_layout{name, "wire", line, 1}).first->second;
    return std::bit_cast<std::source_location>(&there);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
