// For those who want to know what a hub makes.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/channel_core.hpp>

#include <functional>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class hub_core;
struct port;

/// Is called with each channel or query that a hub, or one below it, has, and that it makes from now on.
class hub_watch {
public:
    hub_watch(hub_core& of, std::function<void(const port&)> call);
    hub_watch(const hub_watch&) = delete;
    hub_watch& operator=(const hub_watch&) = delete;
    ~hub_watch();

    [[nodiscard]] const hub_core* of() const noexcept { return of_; } ///< null: it has ended

private:
    friend class hub_core;
    hub_core* of_;
    hub_watch* next_ = nullptr; ///< of the hub
    std::function<void(const port&)> call_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
