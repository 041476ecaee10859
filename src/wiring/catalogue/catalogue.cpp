// SPDX-License-Identifier: MIT
#include <courier/wiring/catalogue.hpp>

#include <algorithm>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

template <class Entries>
auto* entry_named(const Entries& entries, std::string_view name) noexcept {
    const auto found = std::find_if(entries.begin(), entries.end(), [&](const auto& e) { return e.name == name; });
    return found != entries.end() ? &*found : nullptr;
}

} // namespace

const channel_entry* catalogue::channel(std::string_view name) const noexcept {
    return entry_named(channels, name);
}

const action_entry* catalogue::action(std::string_view name) const noexcept {
    return entry_named(actions, name);
}

WIRED_COURIER_NAMESPACE_END
