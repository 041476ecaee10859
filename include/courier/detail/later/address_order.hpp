// Sorts a round's payloads by their addresses.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/address_code.hpp>

#include <cstddef>
#include <cstdint>
#include <type_traits>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The order of a round's payloads: rows of those for addresses, each sorted by key, and for equal keys as they were;
/// between rows one payload that stays where it is. Sorting takes one pass for every eleven bits in which keys differ
/// (radix sort, least significant digit first: Knuth, "The Art of Computer Programming", 5.2.5).
class address_order {
public:
    /// Makes room for so many. Takes memory unless there were as many before.
    void begin(std::size_t most);
    void add(std::uint64_t key) noexcept {
        all_[size_] = {key, size_};
        ++size_;
    }
    void end_row();
    /// One that ends a row and belongs to none.
    void add_between();
    template <class Visit>
    void each(Visit visit) const {
        for (std::uint32_t i = 0; i < size_; ++i) {
            visit(all_[i].place);
        }
    }

private:
    struct keyed_place {
        std::uint64_t key;
        std::uint32_t place;
    };
    std::vector<keyed_place> all_;
    std::vector<keyed_place> other_;
    std::uint32_t size_ = 0;
    std::uint32_t row_ = 0; ///< where it begins
};

/// Numbers and enums have their own order; other addresses are kept together, in no order of meaning.
template <class Address>
[[nodiscard]] std::uint64_t order_key(const Address& address) {
    if constexpr (std::is_enum_v<Address>) {
        return order_key(static_cast<std::underlying_type_t<Address>>(address));
    } else if constexpr (std::is_integral_v<Address>) {
        constexpr std::uint64_t sign = std::is_signed_v<Address> ? std::uint64_t{1} << 63 : 0;
        return static_cast<std::uint64_t>(address) ^ sign; // which puts negative ones first
    } else {
        return code_of(address);
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
