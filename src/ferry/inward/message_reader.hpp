// Messages from a broker, looked at and made into payloads.
// SPDX-License-Identifier: MIT
#pragma once

#include "ferry/inward/inward_route.hpp"
#include "ferry/inward/seen_numbers.hpp"
#include "ferry/losses.hpp"
#include "ferry/mqtt/mqtt_client.hpp"

#include <courier/config.hpp>
#include <courier/ferry/ferry_options.hpp>

#include <atomic>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Whatever comes may have been made by anybody. Belongs to the ferry's thread.
class message_reader {
public:
    message_reader(ferry_options options, losses& lost) : options_(std::move(options)), lost_(lost) {}

    void add(std::shared_ptr<inward_route> route);
    void read(const crossing_head& head, std::string_view payload,
              const std::function<void(landed_message&&, bool promised)>& to);
    [[nodiscard]] std::uint64_t known_already() const noexcept { return again_.load(std::memory_order_relaxed); }
    /// Messages that matched no route.
    [[nodiscard]] std::uint64_t unexpected() const noexcept { return unexpected_.load(std::memory_order_relaxed); }

private:
    struct entrance {
        std::shared_ptr<inward_route> route;
        seen_numbers seen;
    };

    void enter(entrance& by, const crossing_head& head, std::string_view payload,
               const std::function<void(landed_message&&, bool promised)>& to);
    [[nodiscard]] bool has_form(const crossing_head& head, std::string_view payload) const;
    [[nodiscard]] bool is_due(entrance& by, const crossing_head& head, const std::optional<crossing_id>& id);
    [[nodiscard]] bool fill(const inward_route& route, const crossing_head& head, std::string_view payload,
                            void* object) const;

    const ferry_options options_;
    losses& lost_;
    std::vector<std::unique_ptr<entrance>> entrances_;
    std::unordered_multimap<std::string, entrance*> exact_;
    std::vector<entrance*> wide_;
    std::atomic<std::uint64_t> again_{0};
    std::atomic<std::uint64_t> unexpected_{0};
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
