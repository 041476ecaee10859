// What a program has that can be wired, as data: for checks without the program, for
// other tools, and for people.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/data/value_shape.hpp>

#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// A channel, or a state, whose changes have the fields `before` and `after`.
struct channel_entry {
    friend bool operator==(const channel_entry&, const channel_entry&) = default;

    std::string name;
    value_shape payload;
    std::string target_kind; ///< of an addressed channel; else empty
    bool is_state = false;
    bool is_declared = false; ///< by a wiring file in force, and not by the program
};

/// An action that wires may call.
struct action_entry {
    friend bool operator==(const action_entry&, const action_entry&) = default;

    std::string name;
    value_shape parameters;
    std::string target_kind;            ///< of one that is for one object among many; else empty
    value_shape answer;                 ///< `other`: none
    std::vector<std::string> announces; ///< channels on which it publishes, as far as that is known
    bool is_declared = false;           ///< one of a state that a wiring file declares
};

/// A set of phases.
struct phases_entry {
    friend bool operator==(const phases_entry&, const phases_entry&) = default;

    std::string name;
    std::vector<std::string> phases;
};

/// An object that actions may be called on.
struct target_entry {
    friend bool operator==(const target_entry&, const target_entry&) = default;

    std::string name;
    std::string kind;
};

/// A group of such objects.
struct group_entry {
    friend bool operator==(const group_entry&, const group_entry&) = default;

    std::string name;
    std::string kind; ///< of its members
};

/// A query that is offered.
struct query_entry {
    friend bool operator==(const query_entry&, const query_entry&) = default;

    std::string name;
    value_shape question;
    value_shape answer; ///< `other`: not known
};

/// Everything, each in the order in which it was offered.
struct catalogue {
    friend bool operator==(const catalogue&, const catalogue&) = default;

    std::string program;
    std::vector<channel_entry> channels;
    std::vector<action_entry> actions;
    std::vector<phases_entry> phases;
    std::vector<std::string> stages;
    std::vector<target_entry> targets;
    std::vector<group_entry> groups;
    std::vector<query_entry> queries;

    /// The entry of that name, or null.
    [[nodiscard]] const channel_entry* channel(std::string_view name) const noexcept;
    /// The entry of that name, or null.
    [[nodiscard]] const action_entry* action(std::string_view name) const noexcept;
};

WIRED_COURIER_NAMESPACE_END
