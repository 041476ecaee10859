// A parsed line. Files are read with simdjson; what runs in a browser, where that library is not, with nlohmann's.
// SPDX-License-Identifier: MIT
#pragma once

#include "recording/limits.hpp"

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <limits>
#include <string>
#include <string_view>

#ifdef __wasm__
#include <nlohmann/json.hpp>
#else
#include <simdjson.h>
#endif

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

#ifdef __wasm__

/// What is thrown where a value is of another type than it has to be.
using json_misfit = nlohmann::json::type_error;

/// Values are looked at, and stay in the document.
class json_node {
public:
    json_node() = default;
    explicit json_node(const nlohmann::json& of) noexcept : of_(&of) {}

    [[nodiscard]] std::string_view text() const { return of_->get_ref<const std::string&>(); }
    [[nodiscard]] std::uint64_t number() const { return of_->get<std::uint64_t>(); }
    [[nodiscard]] bool truth() const { return of_->get<bool>(); }
    [[nodiscard]] std::string minified() const { return of_->dump(); }

    template <class With>
    void each_item(With with) const {
        for (const nlohmann::json& one : of_->get_ref<const nlohmann::json::array_t&>()) {
            with(json_node(one));
        }
    }

private:
    friend class json_cursor;
    const nlohmann::json* of_ = nullptr;
};

/// The members of an object, one after the other.
class json_cursor {
public:
    explicit json_cursor(json_node of)
        : at_(of.of_->get_ref<const nlohmann::json::object_t&>().begin()),
          end_(of.of_->get_ref<const nlohmann::json::object_t&>().end()) {}

    [[nodiscard]] bool is_over() const { return at_ == end_; }
    [[nodiscard]] std::string_view key() const { return at_->first; }
    [[nodiscard]] json_node value() const { return json_node(at_->second); }
    void next() { ++at_; }

private:
    nlohmann::json::object_t::const_iterator at_;
    nlohmann::json::object_t::const_iterator end_;
};

[[noreturn]] inline void throw_misfit() {
    throw json_misfit::create(302, "", static_cast<const nlohmann::json*>(nullptr));
}

class line_parser {
public:
    /// Calls `with` with the members of a line.
    template <class With>
    void one(std::string_view line, std::size_t, With with) {
        parsed_ = nlohmann::json::parse(line);
        with(json_cursor(json_node(parsed_)));
    }
    /// Lines one by one are as quick here.
    template <class With>
    std::size_t together(std::string_view, With) {
        return 0;
    }

private:
    nlohmann::json parsed_;
};

[[nodiscard]] inline bool is_not_utf8(const json_misfit&) noexcept {
    return false; // which what comes to a page is
}

#else

/// What is thrown where a value is of another type than it has to be.
using json_misfit = simdjson::simdjson_error;

/// Values are looked at, and stay in the document.
class json_node {
public:
    json_node() = default;
    explicit json_node(const simdjson::dom::element& of) noexcept : of_(of) {}

    [[nodiscard]] std::string_view text() const {
        return of_.get_string(); // NOLINT(modernize-return-braced-init-list): that would be another type
    }
    [[nodiscard]] std::uint64_t number() const { return of_.get_uint64(); }
    [[nodiscard]] bool truth() const { return of_.get_bool(); }
    [[nodiscard]] std::string minified() const { return simdjson::minify(of_); }

    template <class With>
    void each_item(With with) const {
        const simdjson::dom::array all = of_.get_array();
        for (const simdjson::dom::element one : all) {
            with(json_node(one));
        }
    }

private:
    friend class json_cursor;
    simdjson::dom::element of_;
};

/// The members of an object, one after the other.
class json_cursor {
public:
    explicit json_cursor(const simdjson::dom::object& of) : at_(of.begin()), end_(of.end()) {}
    explicit json_cursor(const json_node& of) : json_cursor(simdjson::dom::object(of.of_.get_object())) {}

    [[nodiscard]] bool is_over() const { return at_ == end_; }
    [[nodiscard]] std::string_view key() const { return at_.key(); }
    [[nodiscard]] json_node value() const { return json_node(at_.value()); }
    void next() { ++at_; }

private:
    simdjson::dom::object::iterator at_;
    simdjson::dom::object::iterator end_;
};

[[noreturn]] inline void throw_misfit() {
    throw json_misfit(simdjson::INCORRECT_TYPE);
}

class line_parser {
public:
    /// Calls `with` with the members of a line, behind which `room` bytes may be read.
    template <class With>
    void one(std::string_view line, std::size_t room, With with) {
        if (room < simdjson::SIMDJSON_PADDING) {
            copy_.assign(line);
            copy_.reserve(line.size() + simdjson::SIMDJSON_PADDING);
            line = copy_;
        }
        with(json_cursor(json_node(parser_.parse(line.data(), line.size(), false).value())));
    }

    /// The same for each of many whole lines. Returns where the first line begins that could not be read.
    template <class With>
    std::size_t together(std::string_view lines, With with) {
        std::size_t at = 0;
        simdjson::dom::document_stream stream;
        if (together_.parse_many(lines.data(), lines.size(), usual_line + 1).get(stream) != simdjson::SUCCESS) {
            return 0;
        }
        for (auto one = stream.begin(); one != stream.end(); ++one) {
            at = one.current_index();
            simdjson::dom::object whole;
            const auto document = *one;
            if (document.error() != simdjson::SUCCESS || document.get_object().get(whole) != simdjson::SUCCESS ||
                (at != 0 && lines[at - 1] != '\n')) {
                return at;
            }
            try {
                with(json_cursor(whole));
            } catch (const json_misfit&) {
                return at;
            }
        }
        return lines.size() - stream.truncated_bytes();
    }

private:
    simdjson::dom::parser parser_;
    simdjson::dom::parser together_; ///< finds the structure of many lines on a second thread
    std::string copy_;
};

/// Whether it is the text itself that is wrong.
[[nodiscard]] inline bool is_not_utf8(const json_misfit& why) noexcept {
    return why.error() == simdjson::UTF8_ERROR;
}

#endif

[[nodiscard]] inline std::uint32_t number32(const json_node& from) {
    const std::uint64_t wide = from.number();
    if (wide > std::numeric_limits<std::uint32_t>::max()) {
        throw_misfit();
    }
    return static_cast<std::uint32_t>(wide);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
