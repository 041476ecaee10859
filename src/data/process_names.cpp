// SPDX-License-Identifier: MIT
#include "data/process_names.hpp"

#include <algorithm>
#include <atomic>
#include <mutex>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

struct name_list {
    std::mutex guard;
    std::vector<process_name> names;
    std::atomic<std::uint32_t> count{0};
};

name_list& all_names() {
    static name_list all;
    return all;
}

} // namespace

void know_process(process_name name) {
    name_list& all = all_names();
    const std::lock_guard lock(all.guard);
    if (std::none_of(all.names.begin(), all.names.end(),
                     [&](const process_name& one) { return one.process == name.process && one.run == name.run; })) {
        all.names.push_back(std::move(name));
        all.count.store(static_cast<std::uint32_t>(all.names.size()), std::memory_order_release);
    }
}

std::vector<process_name> known_processes() {
    name_list& all = all_names();
    const std::lock_guard lock(all.guard);
    return all.names;
}

std::uint32_t known_process_count() noexcept {
    return all_names().count.load(std::memory_order_acquire);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
