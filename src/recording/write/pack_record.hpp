// Records on their way to the writer's thread, in the machine's own order of bytes.
// SPDX-License-Identifier: MIT
#pragma once

#include "recording/records.hpp"

#include "data/packed.hpp"

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <optional>
#include <string_view>
#include <type_traits>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A kind that fits into plain bytes.
template <class T>
concept plain_member = std::is_arithmetic_v<T>;

struct bytes_counted {
    std::size_t size = 0;
    void put(const void*, std::size_t bytes) noexcept { size += bytes; }
};
struct bytes_written {
    std::byte* at;
    void put(const void* from, std::size_t bytes) noexcept {
        if (bytes != 0) {
            std::memcpy(at, from, bytes);
            at += bytes;
        }
    }
};

/// Visits a record and puts what it is made of into `To`.
template <class To>
class packing {
public:
    explicit packing(To& to) noexcept : to_(&to) {}

    template <class Key, class Member>
    void operator()(const Key&, const Member& member) const noexcept {
        put(member);
    }
    template <class Part>
    void operator()(const Part& part) const noexcept {
        put(part);
    }

private:
    template <plain_member T>
    void put(const T& plain) const noexcept {
        to_->put(&plain, sizeof plain);
    }
    void put(std::string_view text) const noexcept {
        put(static_cast<std::uint32_t>(text.size()));
        to_->put(text.data(), text.size());
    }
    void put(const std::optional<std::uint32_t>& one) const noexcept {
        put(one.has_value());
        put(one.value_or(0));
    }
    void put(const fact_list& all) const noexcept {
        put(static_cast<std::uint32_t>(all.size()));
        for (const auto& [key, fact] : all) {
            put(key);
            put(fact);
        }
    }
    template <has_data T>
    void put(const std::vector<T>& all) const noexcept {
        put(static_cast<std::uint32_t>(all.size()));
        for (const T& one : all) {
            visit_data(one, *this);
        }
    }
    void put(const std::vector<std::string>& all) const noexcept {
        put(static_cast<std::uint32_t>(all.size()));
        for (const std::string& one : all) {
            put(std::string_view(one));
        }
    }
    void put(const std::optional<std::uint64_t>& one) const noexcept {
        put(one.has_value());
        put(one.value_or(0));
    }
    void put(const code_line& where) const {
        put(std::string_view(where.file));
        put(where.line);
    }
    template <class Enum>
        requires std::is_enum_v<Enum>
    void put(Enum value) const noexcept {
        put(static_cast<std::uint8_t>(value));
    }
    void put(const channel_link& on) const noexcept { put(on.number); }
    void put(const new_channel& is) const noexcept {
        put(is.number);
        put(is.name);
    }
    void put(const code_place& where) const noexcept { put(where.number); }
    void put(const turn_list& turns) const noexcept {
        put(turns.size());
        to_->put(turns.bytes(), turns.size() * sizeof(turn_note));
    }
    void put(const packed_payload& payload) const noexcept {
        put(payload.size);
        to_->put(payload.first, payload.size);
    }
    void put(const bytes_left_out&) const noexcept {}

    To* to_;
};

/// Packs all of it, or, where memory is missing, nothing, and throws.
template <class Record>
void pack_record(packed_bytes& to, const Record& what) {
    constexpr std::uint8_t code = all_records::code<Record>;
    const auto visit = [&](auto& into) {
        into.put(&code, sizeof code);
        const packing with(into);
        visit_record(what, with);
    };
    bytes_counted counted;
    visit(counted);
    bytes_written written{to.grow(counted.size)};
    visit(written);
}

/// Visits a record and takes its members out of what was packed; text stays there.
class unpacking {
public:
    explicit unpacking(packed_reader& from) noexcept : from_(&from) {}

    template <class Key, class Member>
    void operator()(const Key&, Member& member) const {
        take(member);
    }
    template <class Part>
    void operator()(Part& part) const {
        take(part);
    }

private:
    template <plain_member T>
    void take(T& plain) const noexcept {
        plain = from_->take<T>();
    }
    void take(std::string_view& text) const noexcept { text = from_->take_text(); }
    void take(std::optional<std::uint32_t>& one) const noexcept {
        const auto there = from_->take<bool>();
        const auto number = from_->take<std::uint32_t>();
        one = there ? std::optional{number} : std::nullopt;
    }
    void take(fact_list& all) const {
        all.resize(from_->take<std::uint32_t>());
        for (auto& [key, fact] : all) {
            take(key);
            take(fact);
        }
    }
    template <has_data T>
    void take(std::vector<T>& all) const {
        all.resize(from_->take<std::uint32_t>());
        for (T& one : all) {
            visit_data(one, *this);
        }
    }
    void take(std::string& text) const { text = from_->take_text(); }
    void take(std::vector<std::string>& all) const {
        all.resize(from_->take<std::uint32_t>());
        for (std::string& one : all) {
            take(one);
        }
    }
    void take(std::optional<std::uint64_t>& one) const noexcept {
        const auto there = from_->take<bool>();
        const auto number = from_->take<std::uint64_t>();
        one = there ? std::optional{number} : std::nullopt;
    }
    void take(code_line& where) const {
        take(where.file);
        take(where.line);
    }
    template <class Enum>
        requires std::is_enum_v<Enum>
    void take(Enum& value) const noexcept {
        value = static_cast<Enum>(from_->take<std::uint8_t>());
    }
    void take(channel_link& on) const noexcept { take(on.number); }
    void take(new_channel& is) const noexcept {
        take(is.number);
        take(is.name);
    }
    void take(code_place& where) const noexcept { take(where.number); }
    void take(turn_list& turns) const noexcept {
        const auto count = from_->take<std::uint32_t>();
        turns = turn_list(from_->take_bytes(count * sizeof(turn_note)), count);
    }
    void take(packed_payload& payload) const noexcept {
        payload.size = from_->take<std::size_t>();
        payload.first = from_->take_bytes(payload.size);
    }
    void take(bytes_left_out&) const noexcept {}

    packed_reader* from_;
};

/// The members of the record that is next, behind the code of its kind.
template <class Record>
Record unpack_record(packed_reader& from) {
    Record made;
    const unpacking with(from);
    visit_record(made, with);
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
