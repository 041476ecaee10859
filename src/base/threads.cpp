// SPDX-License-Identifier: MIT
#include <courier/threads.hpp>

#include <atomic>
#include <map>
#include <mutex>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

std::atomic<std::uint32_t> last_number{0};
thread_local std::uint32_t own_number = 0;

// Names stay after their thread, since a report may come later than its end.
struct name_table {
    std::mutex guard;
    std::map<std::uint32_t, std::string> names;
};

name_table& table() {
    static name_table one;
    return one;
}

} // namespace

void name_this_thread(std::string_view name) {
    const std::uint32_t number = detail::this_thread_number();
    name_table& all = table();
    const std::lock_guard lock(all.guard);
    all.names[number] = name;
}

namespace detail {

std::uint32_t this_thread_number() noexcept {
    if (own_number == 0) {
        own_number = ++last_number;
    }
    return own_number;
}

std::string describe_thread(std::uint32_t number) {
    name_table& all = table();
    const std::lock_guard lock(all.guard);
    const auto found = all.names.find(number);
    std::string text = "thread " + std::to_string(number);
    if (found != all.names.end()) {
        text += " '" + found->second + "'";
    }
    return text;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
