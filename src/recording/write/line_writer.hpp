// From packed records to lines of JSON.
#pragma once

#include "recording/record_codes.hpp"

#include <courier/recording/detail/packed.hpp>

#include <fmt/format.h>

#include <cstdint>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A copy, since the module that it is from may go.
struct schema_node {
    std::string name; ///< as a key: quoted and escaped, with a colon
    std::vector<schema_node> inside;
};

class line_writer {
public:
    /// Writes the lines of every record in `from` behind those in `to`.
    void write(packed_reader in, fmt::memory_buffer& to);

private:
    void head(std::string_view type, std::string_view id_prefix, std::uint64_t id);
    void subject(std::string_view quoted_text);
    void end();

    void began(packed_reader& in);
    void channel(packed_reader& in);
    void closed(packed_reader& in);
    void site(packed_reader& in);
    void schema(packed_reader& in);
    void subscribed(packed_reader& in);
    void ended(packed_reader& in);
    void paused(packed_reader& in);
    struct event_head {
        std::uint64_t id;
        std::uint64_t cause;
        std::uint32_t in_handler;
        std::uint32_t on;
        std::uint32_t where;
    };
    static event_head take_head(packed_reader& in) noexcept;
    void begin_event(std::string_view kind, const event_head& first);
    void address(std::string_view to);
    void turns(packed_reader& in);
    void event(packed_reader& in);
    void post(packed_reader& in);
    void frame(packed_reader& in);
    void waiting(packed_reader& in);
    /// A line whose data is one number.
    void of_number(std::string_view type, std::string_view key, std::uint64_t plain);

    void payload(packed_reader& in, std::uint32_t schema);
    void value(packed_reader& in, const schema_node* known);
    void members(packed_reader& in, const std::vector<schema_node>& known);
    [[nodiscard]] std::string_view channel_named(std::uint32_t number_of) const noexcept;
    void text(std::string_view plain);
    void name(std::string_view plain); ///< the same for what is short, cut where it is not
    void leave_out_what_is_too_long(std::size_t from);
    void put(std::string_view raw) { to_->append(raw.data(), raw.data() + raw.size()); }
    void number(std::uint64_t plain);

    fmt::memory_buffer* to_ = nullptr;
    std::uint64_t line_ = 0;
    std::uint64_t frame_ = 0;
    std::string source_ = "\"/\"";
    std::vector<std::string> channels_; ///< quoted
    std::vector<std::string> sites_;    ///< `"at":"…"` and, if known, `,"by":"…"`
    std::vector<std::vector<schema_node>> schemas_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
