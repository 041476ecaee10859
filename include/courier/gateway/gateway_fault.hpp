// What a gateway did not do, and why.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/coded_fault.hpp>
#include <courier/config.hpp>
#include <courier/fields.hpp>

#include <cstddef>
#include <cstdint>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`. Requests are refused for one of the first
/// `gateway_refusals`; the others are thrown, but for `failed`.
enum class gateway_code : std::uint8_t {
    malformed,            ///< not HTTP, not JSON, or a request that breaks off
    too_slow,             ///< it took longer than `gateway_options::request_time`
    too_large,            ///< head, path or body
    too_many_connections, ///< at a time
    too_many_requests,    ///< in a second, or more than the game takes
    wrong_host,           ///< a name that is not this gateway's: a page that rebinds its own
    foreign_origin,       ///< a page from elsewhere
    wrong_token,          ///< none, or another one
    unknown_path,         ///< nothing is there, or it is outside of the folder
    wrong_method,         ///< such as POST where there is something to read only
    wrong_type,           ///< a body that does not say it is JSON
    does_not_fit,         ///< a payload or parameters with the wrong fields
    not_answered,         ///< the game did not take it in within `gateway_options::answer_time`
    reader_dropped,       ///< a reader of a stream that did not keep up
    failed,               ///< the action was carried out, and failed in the game
    cannot_listen,        ///< the port is taken, or the address is not this machine's
    no_folder,            ///< the folder of `gateway_options` is not there
    no_address,           ///< not the address of a gateway
    no_answer,            ///< nobody answers at that address
    no_page,              ///< this build has no page, for reports and for serving recordings
    unknown_action,       ///< a wiring that does not offer it
};

WIRED_COURIER_ENUM_AS(gateway_code, malformed, "courier.gateway.malformed", too_slow, "courier.gateway.too-slow",
                      too_large, "courier.gateway.too-large", too_many_connections,
                      "courier.gateway.too-many-connections", too_many_requests, "courier.gateway.too-many-requests",
                      wrong_host, "courier.gateway.wrong-host", foreign_origin, "courier.gateway.foreign-origin",
                      wrong_token, "courier.gateway.wrong-token", unknown_path, "courier.gateway.unknown-path",
                      wrong_method, "courier.gateway.wrong-method", wrong_type, "courier.gateway.wrong-type",
                      does_not_fit, "courier.gateway.does-not-fit", not_answered, "courier.gateway.not-answered",
                      reader_dropped, "courier.gateway.reader-dropped", failed, "courier.gateway.failed", cannot_listen,
                      "courier.gateway.cannot-listen", no_folder, "courier.gateway.no-folder", no_address,
                      "courier.gateway.no-address", no_answer, "courier.gateway.no-answer", no_page,
                      "courier.gateway.no-page", unknown_action, "courier.gateway.unknown-action")

/// How many codes stand for refused requests.
inline constexpr std::size_t gateway_refusals = 14;

/// Such as "courier.gateway.foreign-origin".
[[nodiscard]] std::string_view id_of(gateway_code code) noexcept;

using gateway_fault = coded_fault<gateway_code>;

/// Thrown by a gateway that cannot begin, by one that is asked to accept an action it cannot
/// find, and by `run_follower`.
using gateway_error = coded_error<gateway_code>;

/// Published by a gateway, on its game's thread: at most once a frame for each code.
struct requests_refused {
    gateway_code code;
    std::uint64_t times;
};

WIRED_COURIER_NAMESPACE_END
