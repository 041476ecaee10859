// What stands in wiring files, with the place of everything.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/wiring/wiring_fault.hpp>

#include <cstddef>
#include <cstdint>
#include <deque>
#include <memory>
#include <memory_resource>
#include <span>
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

/// A value of TOML. What it points to lives in a data_store: values are many, and
/// copying one copies nothing else.
struct data {
    data_kind kind = data_kind::other;
    place_in at;
    bool truth = false;
    std::int64_t integer = 0;
    double real = 0;
    std::string_view text;
    std::span<data> items;         ///< of a list
    std::span<keyed_data> entries; ///< of a table, in the order of the file

    [[nodiscard]] const data* find(std::string_view key) const noexcept;
    [[nodiscard]] bool is_number() const noexcept { return kind == data_kind::integer || kind == data_kind::real; }
    [[nodiscard]] double number() const noexcept {
        return kind == data_kind::integer ? static_cast<double>(integer) : real;
    }
};

struct keyed_data {
    std::string_view key;
    place_in key_at;
    data value;
};

/// Keeps what data points to. Nothing goes before it does.
class data_store {
public:
    data_store() : memory_(std::make_unique<std::pmr::monotonic_buffer_resource>()) {}

    [[nodiscard]] std::span<data> items(std::size_t count) { return room<data>(count); }
    [[nodiscard]] std::span<keyed_data> entries(std::size_t count) { return room<keyed_data>(count); }
    [[nodiscard]] std::string_view keep(std::string text) { return texts_.emplace_back(std::move(text)); }
    /// Somebody else's, in which texts are.
    void keep(std::shared_ptr<const void> parsed) { parsed_.push_back(std::move(parsed)); }
    /// With everything in it.
    [[nodiscard]] data copy(const data& from);

private:
    template <class T>
    std::span<T> room(std::size_t count) {
        T* const made = static_cast<T*>(memory_->allocate(count * sizeof(T), alignof(T)));
        std::uninitialized_default_construct_n(made, count);
        return {made, count};
    }

    std::unique_ptr<std::pmr::monotonic_buffer_resource> memory_;
    std::deque<std::string> texts_;
    std::vector<std::shared_ptr<const void>> parsed_;
};

/// "a truth", "a whole number", ..., for messages.
[[nodiscard]] std::string_view told(data_kind kind) noexcept;

/// One file as it was read.
struct wiring_text {
    wiring_text(std::string its_name, std::string its_text) : name(std::move(its_name)), text(std::move(its_text)) {}

    std::string name; ///< as it is told
    std::string text;

    /// From 1; as much of it as is worth showing.
    [[nodiscard]] std::string line(std::uint32_t number) const;

private:
    mutable std::vector<std::size_t> lines_; ///< where they begin, once one was asked for
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
bool read_toml(const wiring_text& from, std::uint32_t file, data_store& store, data& into, fault_list& faults);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
