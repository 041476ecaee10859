// JSON as the commands print it. What writes it is known to one file only,
// since it is much to compile.
#pragma once

#include <concepts>
#include <cstdint>
#include <initializer_list>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

namespace tool {

/// One value. Members of an object keep the order in which they were set.
class json {
public:
    using member = std::pair<std::string_view, json>;

    json() : json(nullptr) {}
    json(std::string_view text);
    json(const std::string& text) : json(std::string_view{text}) {}
    json(const char* text) : json(std::string_view{text}) {}
    json(std::same_as<bool> auto truth) : json(truth_tag{}, truth) {}
    template <class Number>
        requires(std::integral<Number> && !std::same_as<Number, bool>)
    json(Number number) : json(std::is_signed_v<Number> && number < 0, static_cast<std::uint64_t>(number)) {}
    json(std::nullptr_t);
    /// An object.
    json(std::initializer_list<member> members);
    /// An array.
    template <class Item>
    json(const std::vector<Item>& items) : json(array()) {
        for (const Item& item : items) {
            add(item);
        }
    }
    json(const json& other);
    json(json&& other) noexcept;
    json& operator=(json other) noexcept;
    ~json();

    [[nodiscard]] static json array();
    /// What a text says that is JSON itself; none if it is not.
    [[nodiscard]] static std::optional<json> parsed(std::string_view text);

    json& set(std::string_view name, json value); ///< of an object
    json& add(json value);                        ///< to an array

    [[nodiscard]] bool is_object() const noexcept;
    [[nodiscard]] bool has_number(std::string_view name) const;      ///< from 0 on, and whole
    [[nodiscard]] std::uint64_t number(std::string_view name) const; ///< 0 if there is none of that name
    [[nodiscard]] std::string text(std::string_view name) const;     ///< empty if there is none of that name

    [[nodiscard]] std::string on_one_line() const;
    [[nodiscard]] std::string on_lines() const; ///< indented

private:
    struct truth_tag {};
    struct tree;
    json(truth_tag, bool truth);
    json(bool negative, std::uint64_t bits);

    std::unique_ptr<tree> tree_;
};

} // namespace tool
