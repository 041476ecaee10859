// What an addressed channel keeps for late joiners.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/address_code.hpp>
#include <courier/detail/delivery/address_told.hpp>
#include <courier/detail/delivery/kept.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Payload, class Address>
class kept_by_address final : public kept_payloads {
public:
    void keep(const void* payload) override { everyones_.set(*static_cast<const Payload*>(payload), ++order_); }
    void keep_at(const void* address, const void* payload) override {
        by_address_[*static_cast<const Address*>(address)].set(*static_cast<const Payload*>(payload), ++order_);
    }
    void serve(channel_core& core, slot& s, std::source_location where) override {
        std::vector<std::pair<const one*, const Address*>> those; // before anything is copied, which may bring more
        if (everyones_.payload) {
            those.emplace_back(&everyones_, nullptr);
        }
        for (const auto& [address, at] : by_address_) {
            if (at.payload && (s.to_all != 0 || is_at(s, address))) {
                those.emplace_back(&at, &address);
            }
        }
        const served_late late(s);
        std::vector<owned<Payload>> copies;
        std::vector<kept_place> places;
        for (const auto& [k, address] : those) {
            const std::uint64_t order = k->order;
            copies.push_back(make_owned<Payload>(k->payload.copy()));
            places.push_back({order, copies.back().get(), address});
        }
        serve_by_order(core, s, places, late, where);
    }
    [[nodiscard]] const void* latest() const noexcept override {
        return everyones_.payload ? &*everyones_.payload : nullptr;
    }

private:
    struct one {
        latest_value<Payload> payload;
        std::uint64_t order = 0;

        void set(const Payload& newer, std::uint64_t now) {
            order = now; // what is kept meanwhile is newer
            payload.put(newer);
        }
    };

    static bool is_at(slot& s, const Address& address) {
        const address_part& part = part_of(s);
        if constexpr (fits_a_code<Address>) {
            return part.code == code_of(address);
        } else {
            return static_cast<const held_address_of<Address>&>(*static_cast<const keyed_part&>(part).address).value ==
                   address;
        }
    }

    one everyones_;
    std::unordered_map<Address, one, address_hash, address_equal> by_address_;
    std::uint64_t order_ = 0;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
