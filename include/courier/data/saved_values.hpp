// Values of a game as one text, and back: save games, checkpoints, a tester's situations.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/data/detail/saved_entry.hpp>
#include <courier/data/json_fault.hpp>
#include <courier/hub.hpp>
#include <courier/period.hpp>

#include <cstddef>
#include <memory>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {
struct saved_core;
}

/// How a value is saved.
struct saving {
    std::string_view name = {};     ///< in the text; empty: the value's own. Copied
    std::string_view formerly = {}; ///< a name that older texts have for it. Copied
};

/// Which values are saved: states, announced lists and maps, and phases.
///
///     courier::saved_values save{"reef"};
///     save.add(tide);
///     save.add(berths, {.formerly = "harbour.places"});
///     save.add(hours);                                   // phases
///     write_file("night.json", save.to_json());
///     ...
///     for (const courier::json_fault& fault : save.restore(read_file("night.json"))) { ... }
///
/// The text is JSON (RFC 8259): `{"saved_values":1,"of":"reef","values":{"tide.level":4,...}}`,
/// with one value in a line, in the order in which they were added, and each as
/// `to_json()` writes it; a map is a list of objects with `key` and `value`.
///
/// `to_cbor()` writes the same in fewer bytes (RFC 8949), and `restore()` takes either.
///
/// Values may end at any time and are left out from then on. Timers, sequences,
/// subscriptions and what waits in outboxes are not saved; `not_saved()` lists those there are.
/// Belongs to the thread of its
/// values. Every member may be called by a handler, which may also destroy it. Can be
/// neither copied nor moved.
class saved_values {
public:
    /// `name` stands in the text as `of`, and is copied.
    explicit saved_values(std::string_view name = {});
    saved_values(const saved_values&) = delete;
    saved_values& operator=(const saved_values&) = delete;
    ~saved_values();

    /// A state, announced list, announced map or phases. False, and
    /// `fault_code::name_clash` is raised, when a value of that name is there already, or when
    /// another save has this one.
    template <class Value>
    bool add(Value& value, saving how = {}, std::source_location where = std::source_location::current()) {
        using entry = decltype(detail::entry_for(value));
        const std::string name(how.name.empty() ? std::string_view(value.name()) : how.name);
        if (!may_add(name, how.formerly, where)) {
            return false;
        }
        auto made = std::make_unique<entry>(value);
        if (!made->watch()) {
            refuse(name, "is saved by another one already", where);
            return false;
        }
        made->name = name;
        made->formerly = how.formerly;
        enter(std::move(made));
        return true;
    }

    /// All states and announced lists of a hub and of the hubs below it (`hub::value()`), now and later, under their
    /// names, but for those of whose values nothing is known. The hub may end first.
    void add(hub& all, std::source_location where = std::source_location::current());

    /// All values that are there.
    [[nodiscard]] std::string to_json() const;
    /// All of them in CBOR (RFC 8949): bytes, for a file that is opened as a binary one.
    [[nodiscard]] std::string to_cbor() const;
    /// What a save of this moment does not have, a line each: the sequences of this thread and what they wait for,
    /// timetables, outboxes and inboxes in which something waits. A game that saves between its levels has none of
    /// them; one that saves in the middle can refuse, or say so.
    [[nodiscard]] static std::vector<std::string> not_saved();

    /// Gives the values what the text, or CBOR, has, as one change: all of them have their new
    /// values before anything is announced, as by `together()`. Phases move whatever moves are
    /// allowed, and announce that. What handlers throw is thrown at the end.
    ///
    /// Returns all faults in the order of the text, with JSON pointers such as
    /// "/values/tide.level"; when there are any, nothing has changed. With the default
    /// `rules`, a value or field that the text does not have keeps what it has, and one that
    /// is not known here is passed over, as in a text of an older or newer version of the
    /// game; name in `rules` what is to be a fault instead.
    [[nodiscard]] std::vector<json_fault> restore(std::string_view text,
                                                  const json_rules& rules = {.missing = missing_fields::kept,
                                                                             .unknown = unknown_fields::passed_over},
                                                  std::source_location where = std::source_location::current());

    /// Runs, but for the time in which values are restored. For sounds and quests that
    /// are to stay silent then: `{.during = save.playing()}`.
    [[nodiscard]] const period& playing() const noexcept;

    /// Of the values that are there.
    [[nodiscard]] std::vector<std::string> names() const;

private:
    [[nodiscard]] bool may_add(const std::string& name, std::string_view formerly, std::source_location where);
    void refuse(const std::string& name, const char* why, std::source_location where) const;
    void enter(std::unique_ptr<detail::saved_entry> entry);

    std::shared_ptr<detail::saved_core> core_;
};

WIRED_COURIER_NAMESPACE_END
