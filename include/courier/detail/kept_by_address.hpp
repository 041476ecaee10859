// What an addressed channel keeps for late joiners.
#pragma once

#include <courier/detail/address_code.hpp>
#include <courier/detail/kept.hpp>

#include <cstddef>
#include <cstdint>
#include <optional>
#include <source_location>
#include <unordered_map>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI::detail {

template <class Payload, class Address>
class kept_by_address final : public kept_payloads {
public:
    void keep(const void* payload) override { everyones_.set(*static_cast<const Payload*>(payload), ++order_); }
    void keep_at(const void* address, const void* payload) override {
        by_address_[*static_cast<const Address*>(address)].set(*static_cast<const Payload*>(payload), ++order_);
    }
    void serve(channel_core& core, slot& s, std::source_location where) override {
        std::vector<one> kept;
        if (everyones_.payload) {
            kept.push_back(everyones_);
        }
        for (const auto& [address, at] : by_address_) {
            if (s.to_all != 0 || is_at(s, address)) {
                kept.push_back(at);
            }
        }
        std::vector<kept_place> places;
        for (const one& k : kept) {
            places.push_back({k.order, &*k.payload});
        }
        const std::vector<const void*> payloads = in_order(std::move(places));
        const std::size_t first = s.to_all != 0 || payloads.empty() ? 0 : payloads.size() - 1; // the newest of two
        deliver_to_one(core, s, payloads.data() + first, payloads.size() - first, where);
    }
    [[nodiscard]] const void* latest() const noexcept override {
        return everyones_.payload ? &*everyones_.payload : nullptr;
    }

private:
    struct one {
        std::optional<Payload> payload;
        std::uint64_t order = 0;

        void set(const Payload& newer, std::uint64_t now) {
            put(payload, newer);
            order = now;
        }
    };

    static bool is_at(slot& s, const Address& address) {
        const address_part& part = part_of(s);
        if constexpr (fits_a_code<Address>) {
            return part.code == code_of(address);
        } else {
            return static_cast<const held<Address>&>(*static_cast<const keyed_part&>(part).address).value == address;
        }
    }

    one everyones_;
    std::unordered_map<Address, one, address_hash, address_equal> by_address_;
    std::uint64_t order_ = 0;
};

} // namespace courier::inline WIRED_COURIER_ABI::detail
