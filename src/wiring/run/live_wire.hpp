// One wire in force.
// SPDX-License-Identifier: MIT
#pragma once

#include "wiring/run/live_step.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/game_time.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class live_wire;

/// How often a wire may act: one for all that a wire with several causes has become.
struct wire_allowance {
    std::uint32_t times = 0; ///< left; 0 with `is_limited`: none
    bool is_limited = false;
    std::optional<game_time> last; ///< when it did
    std::vector<live_wire*> users;

    explicit wire_allowance(const wire_plan& plan) noexcept : times(plan.times), is_limited(plan.times != 0) {}
    [[nodiscard]] bool is_used_up() const noexcept { return is_limited && times == 0; }
};

class live_wire : public counted<live_wire> {
public:
    live_wire(const wire_plan& plan, std::string label, std::shared_ptr<cause_base> cause,
              std::shared_ptr<wire_allowance> allows, std::source_location where);
    live_wire(const live_wire&) = delete;
    live_wire& operator=(const live_wire&) = delete;
    ~live_wire();

    bool fire(const void* payload, const void* address);
    void fire_quickly(const void* payload);

    /// Does what it does with a payload, if its conditions hold; tells whether.
    bool try_with(const void* payload);

    /// Finds the targets of it and of what it does.
    void bind(target_finder& find);
    /// Subscribes to its cause, at its target if that is there.
    void attach();
    /// It does nothing any more; it goes when nothing of it runs. Tells how many
    /// delays are dropped.
    std::size_t end() noexcept;
    void switch_to(bool on);

    [[nodiscard]] bool waits_for_cause() const noexcept { return !cause->is_there(); }
    [[nodiscard]] bool waits_for_target() const noexcept { return target != nullptr && target->address == nullptr; }

    std::string label;
    std::shared_ptr<cause_base> cause;
    std::shared_ptr<target_place> target; ///< of the cause; null: none
    std::shared_ptr<group_place> group;   ///< whose members events have to be for; null: none
    std::vector<live_test> tests;
    std::vector<live_step> steps;
    std::vector<live_step> otherwise; ///< when its conditions do not hold
    std::shared_ptr<wire_allowance> allowed;
    courier::stage place = ordinary;
    courier::during during = {};
    game_time after{};
    game_time every{};
    bool enabled = true;
    bool is_quick = false;      ///< and with one step that is quick
    bool needs_address = false; ///< of the object that an event is for
    bool stops = false;         ///< nobody behind it hears what it acts on
    bool is_plain = true;       ///< neither delayed nor limited
    bool on = true;             ///< its set
    timetable* hours = nullptr;
    std::uint64_t caused = 0;
    std::uint64_t otherwise_done = 0; ///< how often `otherwise` was done instead
    failure_log log;
    std::size_t delayed = 0;

private:
    [[nodiscard]] bool holds(const void* payload) const noexcept;
    [[nodiscard]] bool is_for_group(const void* address) const;
    void leave_target() noexcept;
    void use_up() noexcept;
    void stop_hearing() noexcept;
    /// Does all of them, those that wait `wait` later.
    void act(const std::vector<live_step>& all, game_time wait, const value_sources& sources);
    void delay(std::vector<filled_step>&& filled, game_time wait);
    [[nodiscard]] std::shared_ptr<const void> own_address() const;

    std::source_location where_;
    target_plan plan_;
    subscriber* leader_ = nullptr;
    std::optional<subscriber> in_; ///< none before it is attached, and once it has ended
    std::optional<subscription_key> key_;
    bool is_over_ = false;
    bool is_user_ = false; ///< of what it is allowed
};

/// A reference to a wire, which may go on running after it.
using wire_held = held<live_wire>;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
