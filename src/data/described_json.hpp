// Structs of the library's own as JSON, by their descriptions.
#pragma once

#include "data/described.hpp"
#include "data/member_text.hpp"

#include <nlohmann/json.hpp>

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class T>
[[nodiscard]] nlohmann::json described_json(const T& of);

/// Visits the members of a struct and collects those that are there. `text_of_member(x)` makes
/// the text of a type that is neither number, text, truth, list nor struct.
class json_members {
public:
    template <class Member>
    void operator()(const field& of, const Member& member) {
        nlohmann::json value = value_of(member);
        if (of.is_always_there || is_set(value)) {
            made[std::string(of.key)] = std::move(value);
        }
    }

    nlohmann::json made = nlohmann::json::object();

private:
    static bool is_set(const nlohmann::json& value) {
        return value.is_string()    ? !value.get_ref<const std::string&>().empty()
               : value.is_boolean() ? value.get<bool>()
               : value.is_number()  ? value != 0
               : value.is_null()    ? false
                                    : !value.empty();
    }
    template <class Member>
    static nlohmann::json value_of(const Member& member) {
        if constexpr (std::is_arithmetic_v<Member> || std::is_convertible_v<const Member&, std::string_view>) {
            return member;
        } else if constexpr (has_data<Member>) {
            return described_json(member);
        } else {
            return text_of_member(member);
        }
    }
    template <class Item>
    static nlohmann::json value_of(const std::vector<Item>& items) {
        nlohmann::json all = nlohmann::json::array();
        for (const Item& one : items) {
            all.push_back(value_of(one));
        }
        return all;
    }
    template <class Member>
    static nlohmann::json value_of(const std::optional<Member>& member) {
        return member ? value_of(*member) : nlohmann::json();
    }
};

template <class T>
nlohmann::json described_json(const T& of) {
    json_members with;
    visit_data(of, with);
    return std::move(with.made);
}

/// Each of a list.
template <class T>
[[nodiscard]] nlohmann::json described_json(const std::vector<T>& all) {
    nlohmann::json made = nlohmann::json::array();
    for (const T& one : all) {
        made.push_back(described_json(one));
    }
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
