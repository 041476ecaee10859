// Actions of a wire, ready to be done.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/run/values.hpp"

#include <courier/channel.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/game_time.hpp>
#include <courier/publisher.hpp>
#include <courier/wiring/action_failed.hpp>
#include <courier/wiring/detail/action.hpp>
#include <courier/wiring/detail/group_source.hpp>

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <memory>
#include <optional>
#include <source_location>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class live_wire;

/// An object of a level, by its name; it may not be there.
struct target_place {
    std::string name;
    std::string kind;
    std::uint64_t key = 0;
    std::shared_ptr<const void> address; ///< null: it is not there
    bool has_come = false;               ///< ever
    class wiring_core* told = nullptr;   ///< of comings and goings; null once that is gone
    std::vector<live_wire*> users;       ///< whose cause is at it
};

/// A group, by its name; another one may take its place.
struct group_place {
    std::string name;
    std::shared_ptr<const group_source> members; ///< null: it has not come
};

/// Finds objects by their names, whether or not they have come.
class target_finder {
public:
    virtual std::shared_ptr<target_place> target(const std::string& wanted) = 0;
    virtual std::shared_ptr<group_place> group(const std::string& wanted) = 0;
    [[nodiscard]] virtual const std::shared_ptr<channel<action_failed>>& failures() const noexcept = 0;
    /// That of the wiring, which all wires sleep with.
    [[nodiscard]] virtual subscriber& leader() noexcept = 0;

protected:
    ~target_finder() = default;
};

/// Notes what fails, of one wire.
struct failure_log {
    std::uint64_t failures = 0;
    std::string last;
    std::shared_ptr<channel<action_failed>> told; ///< of the wiring; null until the wire is in force
    const std::string* wire = nullptr;            ///< its name

    /// And publishes it, which may be the end of the wire and of its wiring.
    void note(const std::string& action, const std::string& why, std::source_location where) {
        keep(action, why);
        if (const auto to = told; to != nullptr) {
            const std::string name = *wire;
            publisher<action_failed>(*to, name).publish({name, action, why}, where);
        }
    }
    void keep(const std::string& action, const std::string& why) {
        ++failures;
        last = "'" + action + "': " + why;
    }
};

/// Parameters of an action, in memory of their own.
class made_parameters {
public:
    explicit made_parameters(std::shared_ptr<action_base> of) : of_(std::move(of)), object_(of_->make()) {}
    made_parameters(made_parameters&& other) noexcept
        : of_(std::move(other.of_)), object_(std::exchange(other.object_, nullptr)) {}
    made_parameters& operator=(made_parameters&&) = delete;
    ~made_parameters() {
        if (object_ != nullptr) {
            of_->destroy(object_);
        }
    }
    [[nodiscard]] void* object() const noexcept { return object_; }

private:
    std::shared_ptr<action_base> of_;
    void* object_;
};

class live_step;
/// The same steps with what is known already filled in, for later.
struct filled_step {
    const live_step* step;
    made_parameters parameters;
    std::shared_ptr<const void> address; ///< of the event, if it is needed
    bool fits = true;
    std::string why;
    std::vector<filled_step> success;
    std::vector<filled_step> failure;
};

class live_step {
public:
    live_step(const step_plan& plan, std::shared_ptr<action_base> action, const cause_base& cause,
              const value_type* answer_before, const name_finder& find, std::source_location where);

    std::vector<live_step> success;
    std::vector<live_step> failure;
    game_time after{}; ///< how long it waits, apart from what its wire says

    /// Finds its target, and those of what follows from it.
    void bind(target_finder& find);
    /// Does it, and what follows from it.
    void run(const value_sources& sources, failure_log& log, const bool& is_over) const;
    [[nodiscard]] filled_step fill(const value_sources& sources) const;
    void run_filled(const filled_step& filled, const value_sources& sources, failure_log& log,
                    const bool& is_over) const;
    /// Nothing but constants and bytes of the payload for one action, from which
    /// nothing follows: most steps are so.
    [[nodiscard]] bool is_quick() const noexcept {
        return action_->address_type.empty() && success.empty() && failure.empty() && !varies_ && after == game_time{};
    }
    /// Does such a one; `run()` if it is busy.
    void run_quickly(const void* payload, failure_log& log, const bool& is_over) const {
        if (is_busy_) [[unlikely]] {
            run({payload, nullptr}, log, is_over);
            return;
        }
        const while_true now(is_busy_);
        void* const object = own_.object();
        copy_fields(payload, object);
        std::string why;
        if (!action_->call_only(object, where_, why)) [[unlikely]] {
            log.note(action_->name, why, where_);
        }
    }
    /// Whether it, or what follows, is for the object that the event is for.
    [[nodiscard]] bool needs_event_address() const noexcept {
        const auto needs = [](const live_step& one) { return one.needs_event_address(); };
        return plan_.is_event || std::any_of(success.begin(), success.end(), needs) ||
               std::any_of(failure.begin(), failure.end(), needs);
    }
    /// Calls `visit` with its target, if it has one, and with those of what follows.
    template <class Visit>
    void each_target(const Visit& visit) const {
        if (target_ != nullptr) {
            visit(*target_);
        }
        for (const std::vector<live_step>* const next : {&success, &failure}) {
            for (const live_step& one : *next) {
                one.each_target(visit);
            }
        }
    }

private:
    struct parameter {
        reach to;
        live_value value;
    };
    /// Of the object of the event, if it is for that; null when there is none.
    [[nodiscard]] const void* event_address(const value_sources& sources) const noexcept;
    void write_constants(void* object) const;
    bool write(const value_sources& sources, void* object, bool answers, std::string& why) const;
    void copy_fields(const void* payload, void* object) const noexcept {
        for (const field_copy& one : copies_) {
            copy(one, payload, object);
        }
    }
    template <class Then>
    struct calling;
    /// Calls it for each object that it is for.
    template <class Then>
    void call(const void* parameters, const void* event_address, failure_log& log, const bool& is_over,
              const Then& then) const;
    template <class Then>
    void call_group(const void* event_address, calling<Then>& with) const;
    /// Why it cannot be done, or nothing; then `to` is the address of its one object, if it has one.
    [[nodiscard]] std::string find_object(const void* event_address, std::shared_ptr<const void>& kept,
                                          const void*& to) const;

    std::shared_ptr<action_base> action_;
    target_plan plan_;
    std::shared_ptr<target_place> target_; ///< one object, or the one of a group that is left out
    std::shared_ptr<group_place> group_;
    std::optional<reach> at_field_; ///< the object that this field names
    bool fits_event_;               ///< that object is of the action's type, and not only of its name
    /// Bytes of the payload that go into the parameters as they are.
    struct field_copy {
        std::uint32_t from;
        std::uint32_t to;
        std::uint32_t size;
    };
    void add_copy(field_copy made);
    static void copy(const field_copy& one, const void* payload, void* object) noexcept {
        const std::byte* const from = static_cast<const std::byte*>(payload) + one.from;
        std::byte* const to = static_cast<std::byte*>(object) + one.to;
        if (one.size == 8) {
            std::memcpy(to, from, 8);
        } else if (one.size == 4) {
            std::memcpy(to, from, 4);
        } else {
            std::memcpy(to, from, one.size);
        }
    }

    std::vector<parameter> parameters_; ///< all others, and constants
    std::vector<field_copy> copies_;
    bool varies_ = false; ///< any of `parameters_`
    made_parameters own_; ///< for a call that is not in the middle of another
    mutable bool is_busy_ = false;
    std::source_location where_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
