#include <courier/recording/recording_error.hpp>

#include <array>
#include <cstddef>

WIRED_COURIER_NAMESPACE_BEGIN

std::string_view id_of(recording_fault code) noexcept {
    constexpr std::array<std::string_view, 8> ids{"courier.recording.cannot-open",   "courier.recording.empty",
                                                  "courier.recording.foreign",       "courier.recording.wrong-version",
                                                  "courier.recording.line-too-long", "courier.recording.not-utf8",
                                                  "courier.recording.bad-line",      "courier.recording.cannot-replay"};
    return ids[static_cast<std::size_t>(code)];
}

WIRED_COURIER_NAMESPACE_END
