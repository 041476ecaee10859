// Questions on their way, until they are answered or it is too late.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/ferry/remote_query.hpp>

#include <chrono>
#include <cstdint>
#include <map>
#include <memory>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Belongs to the game's thread.
class questions {
public:
    explicit questions(std::size_t most) : most_(most) {}

    /// A new question's number.
    [[nodiscard]] std::uint64_t next_ticket() noexcept { return ++newest_; }
    [[nodiscard]] bool has_room() const noexcept { return waiting_.size() < most_; }
    void add(std::uint64_t ticket, const std::shared_ptr<answer_desk>& desk, std::chrono::milliseconds limit);
    /// False when nobody waits for it any more.
    bool answer(std::uint64_t ticket, const void* answer, std::source_location where);
    /// Tells those for which it is too late; each may be the end of much, but not of this.
    void look();

private:
    using clock = std::chrono::steady_clock;
    struct waiting {
        std::weak_ptr<answer_desk> desk;
        clock::time_point until;
    };

    const std::size_t most_;
    std::uint64_t newest_ = 0;
    std::map<std::uint64_t, waiting> waiting_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
