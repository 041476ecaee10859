// What the broker is to keep for those who come late.
// SPDX-License-Identifier: MIT
#pragma once

#include "ferry/outward/outward_message.hpp"

#include <courier/config.hpp>

#include <cstddef>
#include <functional>
#include <map>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The latest message of each topic that the broker has, so that one that has forgotten all can be told
/// again. Belongs to the ferry's thread.
class kept_messages {
public:
    /// What does not fit into `most` bytes is not remembered.
    explicit kept_messages(std::size_t most) noexcept : most_(most) {}

    /// The broker has it. Takes the place of the one before on its topic.
    void remember(outward_message one);
    /// It waits again.
    void forget(const outward_message& one);
    /// All of them wait again.
    void take_all(const std::function<void(outward_message&&)>& to);

private:
    using by_topic = std::map<std::string, outward_message>;
    void forget(by_topic::iterator one);

    const std::size_t most_;
    std::size_t bytes_ = 0;
    by_topic latest_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
