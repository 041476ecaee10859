#include "json.hpp"

#include <nlohmann/json.hpp>

namespace tool {

struct json::tree {
    nlohmann::ordered_json value;
};

namespace {

std::string dumped(const nlohmann::ordered_json& value, int indent) {
    return value.dump(indent, ' ', false, nlohmann::ordered_json::error_handler_t::replace);
}

} // namespace

json::json(std::nullptr_t) : tree_(std::make_unique<tree>()) {}
json::json(std::string_view text) : tree_(std::make_unique<tree>(tree{text})) {}
json::json(truth_tag, bool truth) : tree_(std::make_unique<tree>(tree{truth})) {}
json::json(bool negative, std::uint64_t bits) : json(nullptr) {
    if (negative) {
        tree_->value = static_cast<std::int64_t>(bits);
    } else {
        tree_->value = bits;
    }
}
json::json(std::initializer_list<member> members) : json(nullptr) {
    tree_->value = nlohmann::ordered_json::object();
    for (const auto& [name, value] : members) {
        tree_->value[std::string{name}] = value.tree_->value;
    }
}
json::json(const json& other) : tree_(std::make_unique<tree>(*other.tree_)) {}
json::json(json&& other) noexcept = default;
json& json::operator=(json other) noexcept {
    tree_.swap(other.tree_);
    return *this;
}
json::~json() = default;

json json::array() {
    json made;
    made.tree_->value = nlohmann::ordered_json::array();
    return made;
}

std::optional<json> json::parsed(std::string_view text) {
    json made;
    made.tree_->value = nlohmann::ordered_json::parse(text, nullptr, false);
    return made.tree_->value.is_discarded() ? std::nullopt : std::optional(std::move(made));
}

json& json::set(std::string_view name, json value) { // NOLINT(performance-unnecessary-value-param): it is moved from
    tree_->value[std::string{name}] = std::move(value.tree_->value);
    return *this;
}

json& json::add(json value) { // NOLINT(performance-unnecessary-value-param)
    tree_->value.push_back(std::move(value.tree_->value));
    return *this;
}

bool json::is_object() const noexcept {
    return tree_->value.is_object();
}

bool json::has_number(std::string_view name) const {
    const auto found = tree_->value.find(std::string{name});
    return found != tree_->value.end() && found->is_number_unsigned();
}
std::uint64_t json::number(std::string_view name) const {
    const auto found = tree_->value.find(std::string{name});
    return found != tree_->value.end() && found->is_number_unsigned() ? found->get<std::uint64_t>() : 0;
}

std::string json::text(std::string_view name) const {
    const auto found = tree_->value.find(std::string{name});
    return found != tree_->value.end() && found->is_string() ? found->get<std::string>() : std::string{};
}

std::string json::on_one_line() const {
    return dumped(tree_->value, -1);
}

std::string json::on_lines() const {
    return dumped(tree_->value, 2);
}

} // namespace tool
