// From packed records to lines of JSON.
// SPDX-License-Identifier: MIT
#pragma once

#include "recording/records.hpp"

#include "data/json_writer.hpp"
#include "data/packed.hpp"

#include <fmt/format.h>

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class line_writer {
public:
    /// Writes the lines of every record in `from` behind those in `to`.
    void write(packed_reader from, fmt::memory_buffer& to);

private:
    class attributes;
    class members;
    friend attributes;
    friend members;

    template <class Record>
    void take(const Record& what);
    void take(const site_record& what);
    void take(const schema_record& what);
    template <class Record>
    void write_line(const Record& what);

    void write_name(std::string_view plain); ///< what is short, cut where it is not
    void write_number(std::uint64_t plain) { detail::write_number(*to_, plain); }
    void put(std::string_view raw) { write_raw(*to_, raw); }
    [[nodiscard]] std::string_view channel_named(std::uint32_t number) const noexcept;

    fmt::memory_buffer* to_ = nullptr;
    std::uint64_t line_ = 0;
    std::uint64_t frame_ = 0;
    std::string source_ = "\"/\"";
    struct site {
        std::string at; ///< quoted, as the next
        std::string by; ///< empty: not known
    };
    std::vector<std::string> channels_; ///< quoted
    std::vector<site> sites_;
    std::vector<std::vector<schema_node>> schemas_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
