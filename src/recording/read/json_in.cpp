#include <courier/recording/detail/json_in.hpp>

#include <nlohmann/json.hpp>

#include <limits>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

const nlohmann::json& as_json(const void* node) noexcept {
    static const nlohmann::json nothing;
    return node != nullptr ? *static_cast<const nlohmann::json*>(node) : nothing;
}

} // namespace

bool json_in::is_null() const noexcept {
    return as_json(node_).is_null();
}

bool json_in::get(bool& into) const noexcept {
    const nlohmann::json& json = as_json(node_);
    if (!json.is_boolean()) {
        return false;
    }
    into = json.get<bool>();
    return true;
}

bool json_in::get(std::int64_t& into) const noexcept {
    const nlohmann::json& json = as_json(node_);
    if (!json.is_number_integer() ||
        (json.is_number_unsigned() &&
         json.get<std::uint64_t>() > static_cast<std::uint64_t>(std::numeric_limits<std::int64_t>::max()))) {
        return false;
    }
    into = json.get<std::int64_t>();
    return true;
}

bool json_in::get(std::uint64_t& into) const noexcept {
    const nlohmann::json& json = as_json(node_);
    if (!json.is_number_unsigned()) {
        return false;
    }
    into = json.get<std::uint64_t>();
    return true;
}

bool json_in::get(double& into) const noexcept {
    const nlohmann::json& json = as_json(node_);
    if (json.is_null() && node_ != nullptr) {
        into = std::numeric_limits<double>::quiet_NaN(); // which is how it was written
        return true;
    }
    if (!json.is_number()) {
        return false;
    }
    into = json.get<double>();
    return true;
}

bool json_in::get(std::string_view& into) const noexcept {
    const nlohmann::json& json = as_json(node_);
    if (!json.is_string()) {
        return false;
    }
    into = json.get_ref<const std::string&>();
    return true;
}

std::size_t json_in::size() const noexcept {
    return as_json(node_).is_array() ? as_json(node_).size() : 0;
}

json_in json_in::at(std::size_t i) const noexcept {
    return json_in(i < size() ? &as_json(node_)[i] : nullptr);
}

json_in json_in::find(std::string_view name) const noexcept {
    const nlohmann::json& json = as_json(node_);
    if (!json.is_object()) {
        return json_in(nullptr);
    }
    const auto found = json.find(name);
    return json_in(found != json.end() ? &*found : nullptr);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
