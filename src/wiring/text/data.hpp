// What stands in wiring files, with the place of everything.
#pragma once

#include <courier/config.hpp>
#include <courier/wiring/wiring_fault.hpp>

#include <cstdint>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A file, by its number, and where in it.
struct place_in {
    std::uint32_t file = 0;
    std::uint32_t line = 0;
    std::uint32_t column = 0;
};

enum class data_kind : std::uint8_t { truth, integer, real, text, list, table, other };

struct keyed_data;

/// A value of TOML.
struct data {
    data_kind kind = data_kind::other;
    place_in at;
    bool truth = false;
    std::int64_t integer = 0;
    double real = 0;
    std::string text;
    std::vector<data> items;       ///< of a list
    std::vector<keyed_data> entries; ///< of a table, in the order of the file

    [[nodiscard]] const data* find(std::string_view key) const noexcept;
    [[nodiscard]] bool is_number() const noexcept { return kind == data_kind::integer || kind == data_kind::real; }
    [[nodiscard]] double number() const noexcept {
        return kind == data_kind::integer ? static_cast<double>(integer) : real;
    }
};

struct keyed_data {
    std::string key;
    place_in key_at;
    data value;
};

/// "a truth", "a whole number", ..., for messages.
[[nodiscard]] std::string_view told(data_kind kind) noexcept;

/// One file as it was read.
struct wiring_text {
    std::string name; ///< as it is told
    std::string text;

    [[nodiscard]] std::string line(std::uint32_t number) const;
};

/// Collects what is wrong.
class fault_list {
public:
    explicit fault_list(const std::vector<wiring_text>& files) : files_(files) {}

    void add(wiring_code code, place_in at, std::string what, std::string advice = {});
    /// "line 3", with its file if it is another one than that of `from`.
    [[nodiscard]] std::string told(place_in at, place_in from) const;
    void add(wiring_fault made) { all_.push_back(std::move(made)); }
    [[nodiscard]] bool empty() const noexcept { return all_.empty(); }
    [[nodiscard]] std::size_t size() const noexcept { return all_.size(); }
    /// From the top of each file.
    [[nodiscard]] std::vector<wiring_fault> take();

private:
    const std::vector<wiring_text>& files_;
    std::vector<wiring_fault> all_;
};

/// Reads one file's text; false, with a fault, when it is no TOML.
bool read_toml(const wiring_text& from, std::uint32_t file, data& into, fault_list& faults);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
