// For those who want to know when a value ends.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct source_node;

/// Is told of the end of one value.
class end_watch {
public:
    virtual void value_ended() noexcept = 0;

protected:
    end_watch() = default;
    end_watch(const end_watch&) = default;
    end_watch& operator=(const end_watch&) = default;
    ~end_watch() = default;
};
/// False when there is one already. Lasts until the value's end or `unwatch_end()`.
[[nodiscard]] bool watch_end(source_node& node, end_watch& by);
void unwatch_end(source_node& node) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
