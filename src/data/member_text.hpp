// Members of the library's books that are texts in every format.
#pragma once

#include <courier/books.hpp>
#include <courier/config.hpp>
#include <courier/waiting_kind.hpp>

#include <array>
#include <cstddef>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

inline constexpr std::array<std::string_view, 3> waiting_kinds{"outbox", "inbox", "timetable"};

[[nodiscard]] inline std::string_view text_of_member(waiting_kind kind) noexcept {
    return kind == waiting_kind::outbox ? std::string_view() : waiting_kinds[static_cast<std::size_t>(kind)];
}
[[nodiscard]] inline std::string text_of_member(const code_line& where) {
    return where.file.empty() ? std::string() : where.text();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
