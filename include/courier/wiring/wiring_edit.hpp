// A wiring file that is changed by a program, for editors in which people pick from
// lists. It offers the names that fit, and leaves handwritten text as it is.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/check.hpp>

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// One [[wire]] of a file, as it stands there.
struct edited_wire {
    std::string name;
    std::string when; ///< its cause; of several: "wyrms.sighted, wyrms.driven_off"
    std::string at;
    std::string note;
    bool enabled = true;
    std::uint32_t line = 0; ///< of its header, from 1
    std::string text;       ///< all of it, with its comments
};

/// What a condition can be about: a field of what happens, or a state.
struct fitting_field {
    std::string name; ///< "at.x" for a field of a field
    value_shape shape;
    std::vector<std::string> tests; ///< "value", "list", "not", "less_than", ..., as the file says them
};

/// What may be given to a parameter, beside a constant.
struct fitting_parameter {
    std::string name;
    value_shape shape;
    bool may_be_left_out = false;
    std::vector<std::string> fields; ///< of what happens, as "{wyrm}" takes them
    std::vector<std::string> states;
};

/// An action that a wire with a certain cause may call.
struct fitting_action {
    std::string name;
    std::string target_kind;          ///< empty: it needs no `at`
    std::vector<std::string> targets; ///< of that kind, that are there; "{at}" and fields first, where they fit
    std::vector<fitting_parameter> parameters;
};

/// A file in memory. Each change leaves everything else, comments and order too, as
/// it is; one after which the file would be no TOML is not made, and `wiring_error`
/// thrown. A change may well be wrong as wiring: `check()` tells.
///
///     courier::wiring_edit file = courier::wiring_edit::of("reef.toml", wires.catalogue());
///     for (const auto& action : file.actions_for("wyrms.sighted")) ...        // to pick from
///     file.set(0, "do", R"({ action = "horn.sound", parameters = { how = "brief" } })");
///     if (file.check().clean()) { file.save(); }
///
/// Belongs to one thread. Copyable: a copy is what can be gone back to.
class wiring_edit {
public:
    /// A text as that file, which need not be there.
    wiring_edit(std::filesystem::path file, std::string text, catalogue has);
    /// Reads a file. Throws `wiring_error` when it cannot be read or is not TOML.
    [[nodiscard]] static wiring_edit of(const std::filesystem::path& file, catalogue has);

    /// From now on `check()` opens no file that is outside of these folders once links are
    /// resolved; for an edit that comes from elsewhere.
    void keep_inside(std::vector<std::filesystem::path> folders) { inside_ = std::move(folders); }

    /// The file as it is now.
    [[nodiscard]] const std::string& text() const noexcept { return text_; }
    /// Its wires, in their order.
    [[nodiscard]] std::vector<edited_wire> wires() const;

    /// What fits: channels and states to wait for; conditions for `if`, and for
    /// `while`; actions, with what may be given to them. Of a name that nobody offers
    /// nothing fits.
    [[nodiscard]] std::vector<std::string> causes() const;
    /// The fields of a cause that a condition can look at.
    [[nodiscard]] std::vector<fitting_field> conditions_for(std::string_view when) const;
    /// The states that a condition can look at.
    [[nodiscard]] std::vector<fitting_field> state_conditions() const;
    /// The actions that fit a cause.
    [[nodiscard]] std::vector<fitting_action> actions_for(std::string_view when) const;

    /// Gives a key of a wire a value, written as in the file: `"storm"`, `3`, `{ ... }`.
    /// A key that is not there yet goes behind the others. `wire` counts from 0, as
    /// `wires()`; one that is not there throws `std::out_of_range`.
    void set(std::size_t wire, std::string_view key, std::string_view value);
    /// Takes a key out; nothing happens when it is not there.
    void erase(std::size_t wire, std::string_view key);
    /// A wire behind all others: its keys, without the header. Tells which it is.
    std::size_t add(std::string_view keys);
    /// Takes a wire out, with the comments right above it.
    void remove(std::size_t wire);

    /// Replaces the whole text.
    void replace(std::string text);

    /// With the files that it includes, as they are.
    [[nodiscard]] wiring_check check() const;

    /// Writes the file, as a whole or not at all, with the permissions that it has; through a
    /// link, the file that this leads to. Throws `wiring_error` when it cannot
    /// be written, or when somebody else has changed it since it was read.
    void save();

private:
    void take(std::string text);

    std::filesystem::path file_;
    std::string text_;
    std::string read_; ///< what the file held; empty: it has not been read
    bool was_read_ = false;
    std::vector<std::filesystem::path> inside_; ///< empty: files may be anywhere
    catalogue has_;
};

WIRED_COURIER_NAMESPACE_END
