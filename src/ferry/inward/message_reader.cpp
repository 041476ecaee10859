#include "ferry/inward/message_reader.hpp"

#include "wiring/catalogue/json_fill.hpp"

#include <courier/detail/base/nesting.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr int deepest_cbor = 32;
constexpr std::string_view no_answer_type = "wired-courier.no-answer";

/// What came, as its sender must have declared it: "barge: a text, crates: a number".
std::string version_sent(const nlohmann::json& payload) {
    if (!payload.is_object()) {
        return "no object";
    }
    std::string made;
    for (const auto& [key, value] : payload.items()) {
        if (made.size() > 200) {
            return made + ", ...";
        }
        made += fmt::format("{}{}: {}", made.empty() ? "" : ", ", key.substr(0, 64),
                            value.is_string()    ? "a text"
                            : value.is_boolean() ? "a truth value"
                            : value.is_number()  ? "a number"
                            : value.is_array()   ? "a list"
                            : value.is_object()  ? "an object"
                                                 : "null");
    }
    return made.empty() ? "no fields" : made;
}

std::string first_of(const std::vector<misfit>& wrong) {
    const misfit& first = wrong.front();
    return fmt::format("'{}' {}{}", first.pointer, first.what,
                       wrong.size() > 1 ? fmt::format(" (and {} more)", wrong.size() - 1) : "");
}

/// A filter may well be for more than payloads.
bool is_for(const inward_route& route, std::string_view type) {
    const bool is_internal = type == "wired-courier.process" || type == "wired-courier.question" ||
                             type == "wired-courier.answer" || type == no_answer_type;
    return !is_internal || route.takes == type || (route.takes == "wired-courier.answer" && type == no_answer_type);
}

/// Takes one item's head off CBOR: how many items are inside, or bytes to pass over.
class cbor_scan {
public:
    explicit cbor_scan(std::string_view bytes) : rest_(bytes) {}

    struct item {
        std::uint64_t inside = 0;
        bool is_endless = false;
        bool is_break = false;
    };
    [[nodiscard]] bool is_over() const noexcept { return rest_.empty(); }

    bool next(item& into) {
        if (rest_.empty()) {
            return false;
        }
        const auto first = static_cast<unsigned char>(rest_.front());
        rest_.remove_prefix(1);
        into = {};
        const unsigned kind = first >> 5U;
        const unsigned more = first & 31U;
        std::uint64_t value = more;
        if (more == 31) {
            into.is_break = kind == 7;
            into.is_endless = kind >= 2 && kind <= 5;
            return into.is_break || into.is_endless;
        }
        if (more > 27) {
            return false;
        }
        if (more >= 24 && !take_number(std::size_t{1} << (more - 24), value)) {
            return false;
        }
        switch (kind) {
        case 2:
        case 3:
            return pass(value);
        case 4:
            into.inside = value;
            return value <= rest_.size();
        case 5:
            into.inside = 2 * value;
            return value <= rest_.size();
        case 6:
            into.inside = 1;
            return true;
        default:
            return true;
        }
    }

private:
    bool take_number(std::size_t size, std::uint64_t& value) {
        if (rest_.size() < size) {
            return false;
        }
        value = 0;
        for (std::size_t i = 0; i < size; ++i) {
            value = value << 8U | static_cast<unsigned char>(rest_[i]);
        }
        rest_.remove_prefix(size);
        return true;
    }
    bool pass(std::uint64_t size) {
        if (rest_.size() < size) {
            return false;
        }
        rest_.remove_prefix(static_cast<std::size_t>(size));
        return true;
    }

    std::string_view rest_;
};

} // namespace

bool is_shallow_cbor(std::string_view bytes, int most) {
    struct level {
        std::uint64_t left;
        bool is_endless;
    };
    std::vector<level> open{{1, false}};
    cbor_scan scan(bytes);
    cbor_scan::item one;
    while (!open.empty()) {
        if (!open.back().is_endless && open.back().left == 0) {
            open.pop_back();
            continue;
        }
        if (!scan.next(one) || (one.is_break && !open.back().is_endless)) {
            return false;
        }
        if (one.is_break) {
            open.pop_back();
            continue;
        }
        open.back().left -= open.back().is_endless ? 0U : 1U;
        if (one.is_endless || one.inside != 0) {
            if (open.size() > static_cast<std::size_t>(most)) {
                return false;
            }
            open.push_back({one.inside, one.is_endless});
        }
    }
    return scan.is_over();
}

void message_reader::add(std::shared_ptr<inward_route> route) {
    for (const auto& one : entrances_) {
        if (one->route->is_as(*route)) {
            one->route = std::move(route);
            return;
        }
    }
    const bool shares = !route->group.empty();
    entrances_.push_back(
        std::make_unique<entrance>(entrance{std::move(route), seen_numbers(options_.most_senders, shares)}));
    entrance* const made = entrances_.back().get();
    if (made->route->is_exact) {
        exact_.emplace(made->route->filter, made);
    } else {
        wide_.push_back(made);
    }
}

void message_reader::read(const crossing_head& head, std::string_view payload,
                          const std::function<void(arrival&&, bool promised)>& to) {
    const auto [first, past] = exact_.equal_range(head.topic);
    bool is_expected = first != past;
    for (auto one = first; one != past; ++one) {
        enter(*one->second, head, payload, to);
    }
    for (entrance* const one : wide_) {
        if (matches(one->route->filter, head.topic)) {
            is_expected = true;
            enter(*one, head, payload, to);
        }
    }
    unexpected_.fetch_add(is_expected ? 0 : 1, std::memory_order_relaxed);
}

bool message_reader::has_form(const crossing_head& head, std::string_view payload) const {
    const auto refuse = [&](crossing_fault why, std::string_view what) {
        lost_.add(why, head.topic, 1, what);
        return false;
    };
    if (payload.size() > options_.largest_payload) {
        return refuse(crossing_fault::too_large, fmt::format("{} bytes", payload.size()));
    }
    const auto has = [](const std::string& text) { return !text.empty() && text.size() <= 256; };
    if (!head.is_event || !has(head.id) || !has(head.type) || !has(head.source)) {
        return refuse(crossing_fault::bad_message, "is no CloudEvent: it has not id, source, type (1 to 256 bytes "
                                                   "each) and specversion 1.0 as user properties");
    }
    const bool is_empty_answer = head.type == no_answer_type;
    if (!is_empty_answer && head.content_type != json_content && head.content_type != cbor_content) {
        return refuse(crossing_fault::bad_message, "is said to be neither application/json nor application/cbor");
    }
    return true;
}

// Once what is wrong with it is told, it counts as having come.
bool message_reader::is_due(entrance& by, const crossing_head& head, const std::optional<crossing_id>& id) {
    const inward_route& route = *by.route;
    seen_numbers::finding found;
    if (id) {
        found = by.seen.note(head.source, *id);
    } else if (route.promised == promise::exactly_once) {
        found.is_new = by.seen.note(head.source, head.id);
    }
    if (found.missing != 0 && route.is_exact) {
        lost_.add(crossing_fault::missing, head.topic, found.missing, fmt::format("from {}", head.source));
    }
    if (!found.is_new && route.promised == promise::exactly_once) {
        again_.fetch_add(1, std::memory_order_relaxed);
        return false;
    }
    return true;
}

bool message_reader::fill(const inward_route& route, const crossing_head& head, std::string_view payload,
                          void* object) const {
    nlohmann::json read;
    if (head.content_type == cbor_content) {
        if (is_shallow_cbor(payload, deepest_cbor)) {
            read = nlohmann::json::from_cbor(payload.begin(), payload.end(), true, false,
                                             nlohmann::json::cbor_tag_handler_t::ignore);
        } else {
            read = nlohmann::json(nlohmann::json::value_t::discarded);
        }
    } else {
        read = is_too_deep(payload, text_format::as_json)
                   ? nlohmann::json(nlohmann::json::value_t::discarded)
                   : nlohmann::json::parse(payload.begin(), payload.end(), nullptr, false);
    }
    if (read.is_discarded()) {
        lost_.add(crossing_fault::bad_message, head.topic, 1, fmt::format("is no {}", head.content_type));
        return false;
    }
    const std::vector<misfit> wrong = fill_fields(read, route.door->fields, object, other_fields::as_is);
    if (wrong.empty()) {
        return true;
    }
    lost_.add(crossing_fault::does_not_fit, head.topic, 1,
              fmt::format("{}; theirs, from {}: {}; ours: {}", first_of(wrong), head.source, version_sent(read),
                          route.version));
    return false;
}

void message_reader::enter(entrance& by, const crossing_head& head, std::string_view payload,
                           const std::function<void(arrival&&, bool promised)>& to) {
    const inward_route& route = *by.route;
    if ((payload.empty() && head.type != no_answer_type) || !is_for(route, head.type)) {
        return; // what the broker kept is kept no longer; or it is what ferries say to each other
    }
    if (!has_form(head, payload)) {
        return;
    }
    arrival made;
    if (route.has_address) {
        const std::optional<std::string> address = address_in(route.pattern.level(head.topic));
        if (!address || !route.door->takes_address(*address)) {
            lost_.add(crossing_fault::bad_address, head.topic, 1,
                      fmt::format("'{}' is none of '{}'", route.pattern.level(head.topic), route.door->name));
            return;
        }
        made.address = *address;
    }
    const std::optional<crossing_id> id = read_crossing_id(head.id);
    if (!is_due(by, head, id)) {
        return;
    }
    if (head.type != no_answer_type) {
        made.payload = made_payload(*route.door);
        if (!fill(route, head, payload, made.payload.get())) {
            return;
        }
    }
    made.route = by.route;
    made.topic = head.topic;
    made.process = head.source;
    if (id) {
        made.run = id->run;
        made.event = id->event;
    }
    made.trace = trace_in(head.traceparent);
    made.response_topic = head.response_topic;
    made.correlation = head.correlation;
    to(std::move(made), route.qos() != 0 && head.qos != 0);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
