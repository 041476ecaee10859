// What a gateway did not do, and why.
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`.
enum class refusal : std::uint8_t {
    malformed,            ///< no HTTP, no JSON, or a request that breaks off
    too_slow,             ///< it took longer than `gateway_options::request_time`
    too_large,            ///< head, path or body
    too_many_connections, ///< at a time
    too_many_requests,    ///< in a second, or more than the game takes
    wrong_host,           ///< a name that is not this gateway's: a page that rebinds its own
    foreign_origin,       ///< a page from elsewhere
    wrong_token,          ///< none, or another one
    unknown_path,         ///< nothing is there, or it is outside of the folder
    wrong_method,         ///< such as POST where there is something to read only
    wrong_type,           ///< a body that is not said to be JSON
    does_not_fit,         ///< a payload, or parameters, with the wrong fields
    not_answered,         ///< the game did not come round to it in `gateway_options::answer_time`
    reader_dropped,       ///< a reader of a stream that did not keep up
};
inline constexpr std::size_t refusal_kinds = 14;

/// Such as "courier.gateway.foreign-origin".
[[nodiscard]] std::string_view id_of(refusal why) noexcept;

/// Published by a gateway, on its game's thread, once a frame for each kind that there
/// was in it.
struct request_refused {
    refusal why;
    std::uint64_t times;
};

WIRED_COURIER_NAMESPACE_END
