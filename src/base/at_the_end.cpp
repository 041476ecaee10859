// SPDX-License-Identifier: MIT
#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/fault.hpp>

#include <exception>
#include <string>
#include <string_view>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

#if WIRED_COURIER_EXCEPTIONS
namespace {

std::string lost_failure(std::string_view channel) {
    std::string why = "an exception";
    try {
        throw;
    } catch (const std::exception& error) {
        why += " ('" + std::string{error.what()} + "')";
    } catch (...) {}
    return "a handler or policy of '" + std::string{channel} + "' threw " + why +
           ", and no caller was left to receive it: its object was being destroyed, or its post had returned";
}

} // namespace

void report_lost_failure(std::string_view channel) noexcept {
    std::string message; // stays empty where there is no memory
    if_memory_allows([&] { message = lost_failure(channel); });
    if_memory_allows([&] { // and nobody is there whom what a fault handler throws would reach
        raise(fault_code::failure_lost, severity::notice, std::move(message),
              "install a failure handler on the channel, or do not throw there", std::source_location{});
    });
}
#endif

} // namespace detail
WIRED_COURIER_NAMESPACE_END
