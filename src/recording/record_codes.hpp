// What the recorder puts into its queue, and the writer takes out of it.
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

enum class record : std::uint8_t {
    began,      ///< name, count, (key, value)*
    channel,    ///< number, name, payload, hub, is query
    closed,     ///< number
    schema,     ///< number, entries; each: name, has inside, (inside's entries)
    site,       ///< number, text, publisher
    subscribed, ///< number, channel, party number, party, line, stage, address, paused, since
    ended,      ///< number, channel, by its channel's end
    paused,     ///< number, channel, is paused
    party_ended,
    event,
    post,
    frame,
    waiting,
    skipped,
    finished,
};

enum event_flag : std::uint8_t {
    flag_refused = 1,
    flag_vacant = 2,
    flag_stopped = 4,
    flag_outside = 8,
    flag_retained = 16,
    flag_closed = 32,
};

inline constexpr std::uint32_t no_schema = UINT32_MAX;        ///< the fields are not known
inline constexpr std::uint32_t empty_schema = UINT32_MAX - 1; ///< there are none

inline constexpr int recording_format = 1;

/// Lines of up to so many bytes are read many at a time.
inline constexpr std::size_t usual_line = std::size_t{1} << 20;
/// No recording has a longer one; an event whose line would be longer is
/// written without its payload and turns.
inline constexpr std::size_t longest_line = std::size_t{16} << 20;
/// Names and the like are cut to so many bytes.
inline constexpr std::size_t longest_name = std::size_t{16} << 10;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
