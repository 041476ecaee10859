// SPDX-License-Identifier: MIT
#include "recording/write/line_writer.hpp"

#include "data/json_text.hpp"
#include "recording/write/pack_record.hpp"

#include <courier/detail/base/enum_names.hpp>

#include <algorithm>
#include <cstring>
#include <optional>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// Names are short; one that is not is cut, between two characters.
std::string_view cut(std::string_view name) noexcept {
    std::size_t size = std::min(name.size(), longest_name);
    while (size < name.size() && size != 0 && (static_cast<unsigned char>(name[size]) & 0xC0U) == 0x80U) {
        --size;
    }
    return name.substr(0, size);
}

template <class T>
T& at_number(std::vector<T>& all, std::uint32_t number) {
    if (all.size() <= number) {
        all.resize(number + 1);
    }
    return all[number];
}

} // namespace

void line_writer::write_name(std::string_view plain) {
    write_text(*to_, cut(plain));
}

// Without memory, what it is called may not have been told.
std::string_view line_writer::channel_named(std::uint32_t number) const noexcept {
    const bool known = number < channels_.size() && !channels_[number].empty();
    return known ? std::string_view{channels_[number]} : std::string_view{R"("?")"};
}

/// Writes the attributes that not every line has.
class line_writer::attributes {
public:
    explicit attributes(line_writer& to) noexcept : to_(to) {}

    void operator()(from_source, std::string_view) const {} // which every line has
    void operator()(own_id, std::uint64_t) const {}         // as well
    void operator()(of_event attribute, std::uint64_t number) const {
        if (number != 0) {
            key(attribute.key);
            to_.put("\"");
            to_.write_number(number);
            to_.put("\"");
        }
    }
    void operator()(as_duration attribute, std::int64_t ns) const {
        key(attribute.key);
        to_.put("\"");
        put_time(*to_.to_, ns);
        to_.put("\"");
    }
    void operator()(const channel_link& on) const { channel(on.number, to_.channel_named(on.number)); }
    void operator()(const new_channel& is) const {
        std::string& known = at_number(to_.channels_, is.number);
        known = quoted_json(cut(is.name));
        channel(is.number, known);
    }

private:
    void key(std::string_view name) const {
        to_.put(",\"");
        to_.put(name);
        to_.put("\":");
    }
    void channel(std::uint32_t number, std::string_view quoted) const {
        key(channel_link::number_key);
        to_.write_number(number);
        if (quoted != "\"\"") { // may be left out, and must not be empty
            to_.put(R"(,"subject":)");
            to_.put(quoted);
        }
    }

    line_writer& to_;
};

/// Writes the members of an object.
class line_writer::members {
public:
    explicit members(line_writer& to) noexcept : to_(to) {}

    template <class Member>
    void operator()(const field& of, const Member& member) {
        if (of.is_always_there || is_set(member)) {
            key(of);
            value(member);
        }
    }
    void operator()(const code_place& where) {
        static const site unknown{R"("?")", {}};
        const bool known = where.number < to_.sites_.size() && !to_.sites_[where.number].at.empty();
        const site& is = known ? to_.sites_[where.number] : unknown;
        key(code_place::at_field);
        to_.put(is.at);
        if (!is.by.empty()) {
            key(code_place::by_field);
            to_.put(is.by);
        }
    }
    void operator()(const turn_list& turns) {
        long_part_ = to_.to_->size();
        each(
            turn_list::heard, turns, [](const turn_note& one) { return one.why == turn::served; },
            [this](const turn_note& one) { to_.write_number(one.subscription); });
        each(
            turn_list::missed, turns, [](const turn_note& one) { return one.why != turn::served; },
            [this](const turn_note& one) {
                to_.put("[");
                to_.write_number(one.subscription);
                to_.put(",\"");
                to_.put(text_of(one.why));
                to_.put("\"]");
            });
        each(
            turn_list::took, turns, [](const turn_note& one) { return one.took != 0; },
            [this](const turn_note& one) {
                to_.put("[");
                to_.write_number(one.subscription);
                to_.put(",");
                to_.write_number(one.took);
                to_.put("]");
            });
    }
    void operator()(const packed_payload& payload) {
        long_part_ = long_part_ != 0 ? long_part_ : to_.to_->size();
        packed_reader in(payload.first, payload.first + payload.size);
        const std::uint32_t schema = payload.size != 0 ? in.take<std::uint32_t>() : no_schema;
        if (schema != no_schema) {
            static const std::vector<schema_node> nothing;
            key(packed_payload::payload);
            write_fields(*to_.to_, in, schema != empty_schema ? to_.schemas_[schema] : nothing);
        }
    }
    void operator()(const bytes_left_out&) {
        const std::size_t bytes = to_.to_->size() - long_part_;
        if (bytes > longest_part) {
            to_.to_->resize(long_part_);
            key(bytes_left_out::left_out);
            to_.write_number(bytes);
        }
    }

    void end() { to_.put(is_first_ ? "{}" : "}"); }

private:
    static bool is_set(bool member) noexcept { return member; }
    static bool is_set(std::uint32_t member) noexcept { return member != 0; }
    static bool is_set(std::uint64_t member) noexcept { return member != 0; }
    static bool is_set(std::string_view member) noexcept { return !member.empty(); }
    template <class T>
    static bool is_set(const std::vector<T>& member) noexcept {
        return !member.empty();
    }
    template <class T>
    static bool is_set(const std::optional<T>& member) noexcept {
        return member.has_value();
    }
    static bool is_set(const code_line& member) { return !member.file.empty(); }
    template <class Enum>
        requires std::is_enum_v<Enum>
    static bool is_set(Enum member) noexcept {
        return member != Enum{};
    }

    void key(const field& of) {
        to_.put(std::exchange(is_first_, false) ? "{\"" : ",\"");
        to_.put(of.key);
        to_.put("\":");
    }
    void value(bool member) { to_.put(member ? "true" : "false"); }
    void value(std::uint32_t member) { to_.write_number(member); }
    void value(std::uint64_t member) { to_.write_number(member); }
    void value(std::string_view member) { to_.write_name(member); }
    template <class T>
    void value(const std::optional<T>& member) {
        to_.write_number(*member);
    }
    void value(const code_line& where) { to_.write_name(where.file.empty() ? std::string() : where.text()); }
    template <class Enum>
        requires std::is_enum_v<Enum>
    void value(Enum member) {
        to_.write_name(enum_names<Enum>[static_cast<std::size_t>(member)]);
    }
    void value(const std::vector<std::string>& all) {
        list('[', ']', all, [this](const std::string& one) { to_.write_name(one); });
    }
    void value(const fact_list& facts) {
        list('{', '}', facts, [this](const auto& fact) {
            to_.write_name(fact.first);
            to_.put(":");
            to_.write_name(fact.second);
        });
    }
    template <has_data T>
    void value(const std::vector<T>& all) {
        list('[', ']', all, [this](const T& one) {
            members inner(to_);
            visit_data(one, inner);
            inner.end();
        });
    }

    // What is too much for a line is left out.
    template <class T, class Write>
    void list(char first, char last, const std::vector<T>& all, Write write) {
        to_.to_->push_back(first);
        const std::size_t begin = to_.to_->size();
        for (const T& one : all) {
            const std::size_t before = to_.to_->size();
            to_.put(before == begin ? "" : ",");
            write(one);
            if (to_.to_->size() - begin > longest_part) {
                to_.to_->resize(before);
                break;
            }
        }
        to_.to_->push_back(last);
    }

    template <class Want, class Write>
    void each(const field& of, const turn_list& turns, Want want, Write write) {
        bool any = false;
        for (std::uint32_t i = 0; i < turns.size(); ++i) {
            const turn_note one = turns[i];
            if (want(one)) {
                if (std::exchange(any, true)) {
                    to_.put(",");
                } else {
                    key(of);
                    to_.put("[");
                }
                write(one);
            }
        }
        to_.put(any ? "]" : "");
    }

    line_writer& to_;
    bool is_first_ = true;
    std::size_t long_part_ = 0; ///< where what may be left out begins
};

template <class Record>
void line_writer::write_line(const Record& what) {
    // Events have their own numbers as ids, other lines that of the line.
    constexpr bool has_own_id = std::is_base_of_v<made_record, Record>;
    ++line_;
    put(has_own_id ? R"({"specversion":"1.0","id":")" : R"({"specversion":"1.0","id":"line-)");
    if constexpr (has_own_id) {
        write_number(what.id);
    } else {
        write_number(line_);
    }
    put(R"(","source":)");
    put(source_);
    put(R"(,"type":"wired-courier.)");
    put(Record::type);
    put(R"(","frame":)");
    write_number(std::min<std::uint64_t>(frame_, INT32_MAX)); // as large as integers of CloudEvents are
    if constexpr (has_attributes<Record>) {
        const attributes attribute(*this);
        Record::attributes(what, attribute);
    }
    if constexpr (has_data<Record>) {
        put(R"(,"data":)");
        members member(*this);
        visit_data(what, member);
        member.end();
    }
    put("}\n");
}

template <class Record>
void line_writer::take(const Record& what) {
    if constexpr (std::is_same_v<Record, recording_record>) {
        source_ = as_source(cut(what.name));
    }
    write_line(what);
    if constexpr (std::is_same_v<Record, frame_record>) {
        ++frame_;
    }
}

void line_writer::take(const site_record& what) {
    at_number(sites_, what.number) = {quoted_json(cut(what.at)), what.by.empty() ? "" : quoted_json(cut(what.by))};
}

void line_writer::take(const schema_record& what) {
    at_number(schemas_, what.number) = nodes_of(what.fields);
}

void line_writer::write(packed_reader from, fmt::memory_buffer& to) {
    to_ = &to;
    while (!from.empty()) {
        const auto code = from.take<std::uint8_t>();
        all_records::any([&]<class Record>(std::type_identity<Record>) {
            const bool is_this = code == all_records::code<Record>;
            if (is_this) {
                take(unpack_record<Record>(from));
            }
            return is_this;
        });
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
