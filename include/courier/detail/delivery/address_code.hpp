// From an address to the number it is found by.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/copy_bytes.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/address_book.hpp>
#include <courier/detail/delivery/address_text.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// An address that its bytes say everything about.
template <class Address>
inline constexpr bool fits_a_code = sizeof(Address) <= sizeof(std::uint64_t) && std::is_trivially_copyable_v<Address> &&
                                    std::has_unique_object_representations_v<Address>;

template <class Address>
concept hashed_address = requires(const Address& a) {
    { std::hash<Address>{}(a) } -> std::convertible_to<std::size_t>;
    { a == a } -> std::convertible_to<bool>;
};

template <class Address>
inline constexpr addressing addressing_by = fits_a_code<Address> ? addressing::by_code : addressing::by_key;

/// One to one, so that different numbers have different codes; the upper bits
/// depend on all (multiplicative hashing; Knuth, "The Art of Computer
/// Programming", volume 3, 6.4).
inline std::uint64_t mix(std::uint64_t number) noexcept {
    number ^= number >> 32;
    return number * 0x9E3779B97F4A7C15U;
}

template <class Address>
std::uint64_t code_of(const Address& address) {
    if constexpr (fits_a_code<Address>) {
        std::uint64_t number = 0;
        copy_bytes(&number, &address, sizeof(Address));
        return mix(number);
    } else {
        return mix(std::hash<Address>{}(address));
    }
}

template <class Address>
struct held_address_of final : held_address {
    // NOLINTNEXTLINE(modernize-pass-by-value): the type may have no move that does not throw
    explicit held_address_of(const Address& a) : held_address{&destroy_it}, value(a) {}
    static void destroy_it(held_address* self) noexcept { delete static_cast<held_address_of*>(self); }
    Address value;
};

template <class Address>
bool same_held(const held_address& a, const held_address& b) {
    return static_cast<const held_address_of<Address>&>(a).value ==
           static_cast<const held_address_of<Address>&>(b).value;
}

template <class Address>
const address_cell& find_at(const address_book& book, const Address& address) {
    if constexpr (fits_a_code<Address>) {
        return book.find(code_of(address));
    } else {
        return book.find(code_of(address), [&address](const held_address& h) {
            return static_cast<const held_address_of<Address>&>(h).value == address;
        });
    }
}

/// The same two questions, as the standard containers ask them.
struct address_hash {
    template <class Address>
    std::size_t operator()(const Address& address) const {
        return static_cast<std::size_t>(code_of(address) >> 16);
    }
};
struct address_equal {
    template <class Address>
    bool operator()(const Address& a, const Address& b) const {
        if constexpr (fits_a_code<Address>) {
            return code_of(a) == code_of(b);
        } else {
            return a == b;
        }
    }
};

/// Calls `attach` with what it needs to know of the address.
template <class Address, class Attach>
slot* attach_at(const Address& address, Attach attach) {
    if constexpr (fits_a_code<Address>) {
        const address_request at{code_of(address), nullptr, nullptr, label_of(address)};
        return attach(at);
    } else {
        auto own = make_owned<held_address_of<Address>>(address);
        const address_request at{code_of(address), own.get(), &same_held<Address>, label_of(address)};
        slot* const made = attach(at);
        if (made != nullptr) {
            own.release(); // the subscription has it now
        }
        return made;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
