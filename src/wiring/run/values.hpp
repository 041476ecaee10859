// Conditions and parameters, ready to be looked at and filled in.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/run/reach.hpp"

#include <courier/wiring/detail/cause.hpp>

#include <cstddef>
#include <cstdint>
#include <cstring>
#include <memory>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Finds live things by their names.
class name_finder {
public:
    virtual ~name_finder() = default;
    [[nodiscard]] virtual std::shared_ptr<value_cause> state(const std::string& name) const = 0;
};

/// Whether a whole number of the payload is in a range: most conditions are.
class number_range {
public:
    number_range() noexcept = default;
    number_range(std::uint32_t offset, const value_type& type, std::uint64_t least, std::uint64_t most,
                 bool is_outside) noexcept
        : least_(least), width_(most - least), offset_(offset), size_(type.size),
          is_signed_(type.kind == value_kind::integer || (type.kind == value_kind::enumeration && type.is_signed)),
          is_outside_(is_outside) {}

    [[nodiscard]] bool holds(const void* payload) const noexcept {
        const std::byte* const at = static_cast<const std::byte*>(payload) + offset_;
        return (number(at) - least_ <= width_) != is_outside_;
    }

private:
    template <class T>
    static std::uint64_t as(const std::byte* at) noexcept {
        T value;
        std::memcpy(&value, at, sizeof value);
        return static_cast<std::uint64_t>(value);
    }
    [[nodiscard]] std::uint64_t number(const std::byte* at) const noexcept {
        switch (size_) {
        case 1:
            return is_signed_ ? as<std::int8_t>(at) : as<std::uint8_t>(at);
        case 2:
            return is_signed_ ? as<std::int16_t>(at) : as<std::uint16_t>(at);
        case 4:
            return is_signed_ ? as<std::int32_t>(at) : as<std::uint32_t>(at);
        default:
            return as<std::uint64_t>(at);
        }
    }

    std::uint64_t least_ = 0; ///< of numbers with a sign: their bits
    std::uint64_t width_ = 0;
    std::uint32_t offset_ = 0;
    std::uint32_t size_ = 8;
    bool is_signed_ = false;
    bool is_outside_ = false;
};

class live_test {
public:
    live_test(const condition_plan& plan, const cause_base& cause, const name_finder& find);

    [[nodiscard]] bool holds(const void* payload) const noexcept {
        return is_range_ ? range_.holds(payload) : compare_all(payload);
    }

private:
    struct wanted {
        plain_value value;
        std::string text;
    };
    [[nodiscard]] bool compare(const plain_value& is, const wanted& with, test_op op) const noexcept;
    [[nodiscard]] bool compare_all(const void* payload) const noexcept;
    void make_range();

    reach field_;
    std::shared_ptr<value_cause> state_;
    test_op op_;
    value_kind kind_;
    std::vector<wanted> values_;
    number_range range_;
    bool is_range_ = false;
};

/// What values are taken from.
struct value_sources {
    const void* payload = nullptr; ///< null: it is gone
    const void* answer = nullptr;
    const std::string* why = nullptr; ///< the action before has failed
    const void* address = nullptr;    ///< of the object that the event is for; null: none
};

/// One parameter, or piece of a text.
class live_value {
public:
    live_value(const value_plan& plan, const value_type& into, const cause_base& cause, const value_type* answer,
               const name_finder& find);

    /// Whether it depends on what happens, and so has to be written each time.
    [[nodiscard]] bool varies() const noexcept { return from_ != value_origin::constant; }
    /// Or needs to know why the action before has failed.
    [[nodiscard]] bool needs_answer() const noexcept { return needs_answer_; }
    /// Bytes of the payload as they are, from `offset()` on.
    [[nodiscard]] bool is_field_copy() const noexcept {
        return from_ == value_origin::field && copies_ && field_.is_fixed();
    }
    [[nodiscard]] std::uint32_t offset() const noexcept { return field_.offset(); }
    /// Whether what it is taken from is there: an optional field may hold nothing.
    [[nodiscard]] bool is_there(const value_sources& sources) const noexcept {
        return from_ == value_origin::constant || from_ == value_origin::text || source(sources) != nullptr;
    }
    /// False, with the reason, when it does not fit or is not there.
    bool write(const value_sources& sources, void* into, std::string& why) const;

private:
    [[nodiscard]] const void* source(const value_sources& sources) const noexcept;
    void append(const value_sources& sources, std::string& to) const;
    [[nodiscard]] double number(const void* at) const noexcept;
    bool convert(const void* from, void* into, std::string& why) const;

    value_origin from_;
    const value_type* into_;
    reach field_;
    std::shared_ptr<value_cause> state_;
    plain_value constant_;
    std::string text_;
    std::vector<live_value> pieces_;
    double factor_;
    int decimals_;
    bool copies_ = false; ///< byte by byte
    bool needs_answer_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
