// Payloads on their way to the writer: a tag and the value, one after the other.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <cstring>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

enum class tag : std::uint8_t { null, no, yes, integer, natural, real, text, list, object };

/// Bytes in the machine's own order; they do not leave the process.
class packed_bytes {
public:
    template <class T>
    void put(const T& plain) {
        static_assert(std::is_trivially_copyable_v<T>);
        std::memcpy(grow(sizeof(T)), &plain, sizeof(T));
    }
    template <class T>
    void put(tag kind, const T& plain) {
        static_assert(std::is_trivially_copyable_v<T>);
        std::byte* const at = grow(1 + sizeof(T));
        *at = static_cast<std::byte>(kind);
        std::memcpy(at + 1, &plain, sizeof(T));
    }
    void put_text(std::string_view text) {
        put(static_cast<std::uint32_t>(text.size()));
        const auto* const first = reinterpret_cast<const std::byte*>(text.data());
        bytes_.insert(bytes_.end(), first, first + text.size());
    }
    /// Where so many more bytes may be written.
    std::byte* grow(std::size_t by) {
        const std::size_t at = bytes_.size();
        bytes_.resize(at + by);
        return bytes_.data() + at;
    }
    void put(tag kind) { bytes_.push_back(static_cast<std::byte>(kind)); }

    [[nodiscard]] std::size_t size() const noexcept { return bytes_.size(); }
    [[nodiscard]] std::vector<std::byte>& bytes() noexcept { return bytes_; }

private:
    std::vector<std::byte> bytes_;
};

class packed_reader {
public:
    packed_reader(const std::byte* first, const std::byte* past) noexcept : at_(first), past_(past) {}

    template <class T>
    T take() noexcept {
        T plain;
        std::memcpy(&plain, at_, sizeof(T));
        at_ += sizeof(T);
        return plain;
    }
    std::string_view take_text() noexcept {
        const auto size = take<std::uint32_t>();
        return {reinterpret_cast<const char*>(take_bytes(size)), size};
    }
    const std::byte* take_bytes(std::size_t size) noexcept { return std::exchange(at_, at_ + size); }
    [[nodiscard]] bool empty() const noexcept { return at_ == past_; }

private:
    const std::byte* at_;
    const std::byte* past_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
