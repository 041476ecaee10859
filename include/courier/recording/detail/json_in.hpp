// JSON that is read into a payload, without the library that parsed it.
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <deque>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A value in a parsed document that stays where it is.
class json_in {
public:
    explicit json_in(const void* node) noexcept : node_(node) {}

    /// Whether there is a value, of whatever type.
    [[nodiscard]] bool exists() const noexcept { return node_ != nullptr; }
    [[nodiscard]] bool is_null() const noexcept;
    // Each is false when the value is of another type, or does not fit.
    [[nodiscard]] bool get(bool& into) const noexcept;
    [[nodiscard]] bool get(std::int64_t& into) const noexcept;
    [[nodiscard]] bool get(std::uint64_t& into) const noexcept;
    [[nodiscard]] bool get(double& into) const noexcept;
    [[nodiscard]] bool get(std::string_view& into) const noexcept;
    [[nodiscard]] std::size_t size() const noexcept; ///< of a list; else 0
    [[nodiscard]] json_in at(std::size_t i) const noexcept;
    [[nodiscard]] json_in find(std::string_view name) const noexcept; ///< in an object

private:
    const void* node_;
};

/// Text that payloads refer to without owning it; it stays as long as this.
class kept_texts {
public:
    std::string_view keep(std::string_view text) { return texts_.emplace_back(text); }

private:
    std::deque<std::string> texts_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
