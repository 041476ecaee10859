// Which event causes which action, in files that designers write.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/data/detail/shape.hpp>
#include <courier/game_time.hpp>
#include <courier/group.hpp>
#include <courier/hub.hpp>
#include <courier/phases.hpp>
#include <courier/publisher.hpp>
#include <courier/query.hpp>
#include <courier/stage.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>
#include <courier/wiring/action_failed.hpp>
#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/detail/action.hpp>
#include <courier/wiring/detail/cause.hpp>
#include <courier/wiring/detail/group_source.hpp>
#include <courier/wiring/named_target.hpp>
#include <courier/wiring/outcome.hpp>
#include <courier/wiring/wiring_fault.hpp>

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

class wiring;
struct audit_report;
audit_report audit(const wiring& of);

namespace detail {
class wiring_core;
struct draft_parts;
struct no_parameters {};
} // namespace detail

/// One wire that is in force, for people and reports.
struct wire_report {
    std::string name;   ///< its own, or "wire harbour.toml:12"
    std::string cause;  ///< one; a wire with several is listed once for each
    std::string target; ///< of the cause; else empty
    std::string file;
    std::uint32_t line = 0;
    bool live = false;             ///< it is enabled, its set is on, and its cause is there
    bool waits_for_cause = false;  ///< which has ended; another of its name may come
    bool waits_for_target = false; ///< which has not come, or has gone
    std::uint64_t caused = 0;      ///< how often its conditions held
    std::uint64_t otherwise = 0;   ///< how often they did not, and its `else` was done
    std::uint64_t failures = 0;    ///< of its actions
    std::string last_failure;
    std::size_t delayed = 0; ///< under way
};

/// What became of a wire that was tried.
struct wire_trial {
    bool held = false;          ///< its conditions held, and it did what it does
    std::uint64_t failures = 0; ///< of its actions
    std::string last_failure;
};

/// What became of a change of the wiring.
struct wiring_change {
    std::size_t kept = 0; ///< wires that are as they were
    std::size_t added = 0;
    std::size_t removed = 0;
    std::size_t dropped = 0; ///< delays under way of wires that are gone
};

/// Files that are read, checked and compared with the wires in force, apart from the
/// game: the longest part of loading them. Movable.
///
///     courier::wiring_draft next = wires.draft();                     // in the game's thread
///     auto ready = std::async(std::launch::async, [&] { next.prepare(); });
///     ...                                                             // frames go on
///     ready.get();
///     wires.take(next);                                               // in the game's thread, between two frames
class wiring_draft {
public:
    /// Takes over what the other one has, which then has nothing.
    wiring_draft(wiring_draft&&) noexcept;
    /// Takes over what the other one has, which then has nothing.
    wiring_draft& operator=(wiring_draft&&) noexcept;
    ~wiring_draft();

    /// Does that part. From any thread, while no other one uses the draft.
    void prepare();
    /// The faults, once it is prepared; `wiring::take()` throws them.
    [[nodiscard]] const std::vector<wiring_fault>& faults() const noexcept;

private:
    friend class wiring;
    explicit wiring_draft(std::unique_ptr<detail::draft_parts> parts);
    std::unique_ptr<detail::draft_parts> parts_;
};

/// Connects causes to actions as files say, which are checked as a whole before
/// anything changes, and can be loaded again while the game runs.
///
///     courier::wiring wires{"harbour"};
///     wires.offer(reef);                                   // causes: the channels of a hub
///     wires.offer(tide);                                   // a state: its changes, and its value
///     wires.action<Ring>(in_, "bell.ring", [this](const Ring& r) { ring(r.strokes); });
///     wires.use(clock);                                    // for delays
///     courier::named_target bell = wires.target("north bell", bell_id::north);
///     wires.load("harbour.toml");                          // throws wiring_error, with all that is wrong
///
/// docs/wiring.md has the grammar of a file. A cause may end before the wiring: its
/// wires wait until one of that name and type is offered, as when a level begins
/// again, and go on with it. An action ends with the subscriber that owns it. In force, wires are subscriptions of
/// subscribers of their own, with the file and line of the wire, so that ledgers, recordings and the tool tell of them
/// as of code. Wires that are new come behind those that were kept, in the order of the files. A delivery through a
/// wire allocates nothing unless it is delayed, sets a text, or comes in the middle of itself.
///
/// Belongs to one thread. A handler or action may load, switch, or destroy it. Can be
/// neither copied nor moved.
class wiring {
public:
    /// `name` is for messages and reports and is copied.
    explicit wiring(std::string_view name = {});
    wiring(const wiring&) = delete;
    wiring& operator=(const wiring&) = delete;
    ~wiring();

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] const std::string& name() const noexcept;

    /// A channel as a cause, by its name. The latest of several of one name counts: wires
    /// of one before it wait for this one from now on, if it carries the same type; if
    /// not, they go on until files are loaded again.
    template <class Payload>
    void offer(const channel<Payload>& cause) {
        add(std::make_unique<detail::port_cause>(detail::port_of(cause)));
    }
    /// An addressed channel, likewise.
    template <class Payload, class Address>
    void offer(const addressed_channel<Payload, Address>& cause) {
        add(std::make_unique<detail::port_cause>(detail::port_of(cause)));
    }
    /// A state: its changes, with the fields `before` and `after`, and its value, for
    /// conditions and parameters.
    template <class T, class Same>
    void offer(const state<T, Same>& cause, std::source_location where = std::source_location::current()) {
        static_assert(detail::fields_of<change<T>>() != nullptr,
                      "courier: wiring knows nothing of values of this type; see courier/fields.hpp");
        add(detail::port_of(cause), where);
    }
    /// A query, for the catalogue: wires do not ask.
    template <class Question>
    void offer(const query<Question>& asked) {
        using answer = typename Question::answer;
        query_entry made{std::string(asked.name()),
                         detail::shape_of(detail::fields_of<Question>(), detail::type_name<Question>()),
                         {}};
        made.answer = detail::shape_of(detail::known<answer>::type);
        add_query(std::move(made));
    }
    /// All channels, states and formulas of a hub and of the hubs below it, now and later, and its
    /// queries, without their answers. The hub may end first.
    void offer(hub& all, std::source_location where = std::source_location::current());
    /// Phases, for `during`.
    template <class Phase>
    void offer(const phases<Phase>& which) {
        add_phases(which.name(), detail::access::phases(which));
    }
    /// A group, for `at = { group = "convoy" }`; its members are those of each moment. It may
    /// end first.
    template <class Address>
    void offer(const group<Address>& members) {
        add_group(std::make_shared<detail::group_source_of<Address>>(members));
    }
    /// A stage, for `stage`; its name has to stay.
    void offer(courier::stage place);

    /// Delays are those of this timetable, which must outlive this.
    void use(timetable& clock);

    /// What wires may do: `function` is called with the parameters, which are a plain
    /// struct, and returns nothing, an answer, or an `outcome`. It ends with `owner`,
    /// and is deaf while that is paused. Several may offer one.
    template <class Parameters, class Function>
    void action(subscriber& owner, std::string_view name, Function function,
                std::source_location where = std::source_location::current()) {
        using result = std::invoke_result_t<Function&, const Parameters&>;
        using made = detail::plain_action<Parameters, typename detail::answer_of<result>::type>;
        made& to = find_action<made>(name, where);
        owner.subscribe(
            to.called, [to_it = &to, f = std::move(function)](const Parameters& p) mutable { to_it->serve(f, p); }, {},
            where);
    }

    /// An action without parameters: `wires.action(in_, "boom.lower", [this] { lower(); })`.
    template <class Function>
        requires std::is_invocable_v<Function&>
    void action(subscriber& owner, std::string_view name, Function function,
                std::source_location where = std::source_location::current()) {
        action<detail::no_parameters>(
            owner, name, [f = std::move(function)](const detail::no_parameters&) mutable { return f(); }, where);
    }

    /// An action of one object among many; a wire names it with `at`. Each object may
    /// offer its own.
    template <class Parameters, class Address, class Function>
    void action(subscriber& owner, std::string_view name, const Address& at, Function function,
                std::source_location where = std::source_location::current()) {
        using result = std::invoke_result_t<Function&, const Parameters&>;
        using made = detail::addressed_action<Parameters, Address, typename detail::answer_of<result>::type>;
        made& to = find_action<made>(name, where);
        owner.subscribe(
            to.called.at(at),
            [to_it = &to, f = std::move(function)](const Parameters& p) mutable { to_it->serve(f, p); }, {}, where);
    }

    /// And without parameters.
    template <class Address, class Function>
        requires std::is_invocable_v<Function&>
    void action(subscriber& owner, std::string_view name, const Address& at, Function function,
                std::source_location where = std::source_location::current()) {
        action<detail::no_parameters>(
            owner, name, at, [f = std::move(function)](const detail::no_parameters&) mutable { return f(); }, where);
    }

    /// Publishing on a channel as an action, under the channel's name: its parameters
    /// are the payload's fields. What leads back to itself is found out.
    template <class Payload>
    void offer_publishing(subscriber& owner, channel<Payload>& on,
                          std::source_location where = std::source_location::current()) {
        action<Payload>(
            owner, on.name(), [out = publisher<Payload>(on)](const Payload& p) { out.publish(p); }, where);
        announce(on.name(), on.name());
    }
    /// Setting a state as an action, `set NAME`, with the parameter `value`. The state
    /// must outlive `owner`.
    template <class T, class Same>
    void offer_setting(subscriber& owner, state<T, Same>& of,
                       std::source_location where = std::source_location::current()) {
        const std::string name = "set " + of.name();
        action<new_value<T>>(
            owner, name, [&of](const new_value<T>& v) { of.set(v.value); }, where);
        announce(name, of.name());
    }
    /// Moving phases as an action, `move NAME`, with the parameter `to`. A move that is not allowed is a failed action,
    /// with the reason as `{why}`. The phases must outlive `owner`.
    template <class Phase>
    void offer_moving(subscriber& owner, phases<Phase>& of,
                      std::source_location where = std::source_location::current()) {
        const std::string name = "move " + std::string(of.name());
        action<next_phase<Phase>>(
            owner, name,
            [&of](const next_phase<Phase>& next) -> outcome<> {
                const auto name_of = [](Phase one) {
                    return std::string(detail::enum_names<Phase>[static_cast<std::size_t>(one)]);
                };
                if (!of.may_move_to(next.to)) {
                    return courier::failed{"'" + std::string(of.name()) + "' may not move from " + name_of(of.now()) +
                                           " to " + name_of(next.to)};
                }
                of.move_to(next.to);
                return {};
            },
            where);
        announce(name, of.moved().name());
    }
    /// On which channel an action publishes, so that wires that lead back to
    /// themselves are found. The action may be offered later.
    void announce(std::string_view action, std::string_view channel);

    /// The name of an object in files; its kind is what its address is called. One of
    /// that name that lives already is replaced.
    template <class Address>
    [[nodiscard]] named_target target(std::string_view text, Address address) {
        static_assert(!std::is_convertible_v<const Address&, std::string_view> || !std::is_pointer_v<Address>,
                      "courier: the address of an object is a value, such as an enum or a struct");
        return add_target(text, detail::type_name<Address>(), detail::key_of_type<Address>(),
                          std::make_shared<const Address>(std::move(address)));
    }

    /// Puts files in force, with those that they include, instead of the current ones.
    /// Throws `wiring_error` with everything that is wrong; then nothing has changed.
    wiring_change load(const std::vector<std::filesystem::path>& files);
    /// Loads a file and those that it includes, in the place of all that was loaded. Throws `wiring_error`
    /// with all faults; then nothing has changed.
    wiring_change load(const std::filesystem::path& file) { return load(std::vector<std::filesystem::path>{file}); }
    /// A text as a file of that name, which includes nothing.
    wiring_change load_text(std::string_view file, std::string_view text);
    /// The files that are in force, once more.
    wiring_change reload();

    /// Loads in two steps: a draft of these files, or of those in force, may be
    /// prepared in another thread. The rest, for `take()`, grows with the number of
    /// changes only; if something has been offered or loaded since the draft was begun, it is
    /// prepared again there. It throws as `load()` does.
    [[nodiscard]] wiring_draft draft(std::vector<std::filesystem::path> of) const;
    /// Of the files that are in force.
    [[nodiscard]] wiring_draft draft() const;
    /// Puts a prepared draft in force, between two deliveries. Throws `wiring_error` when it no longer
    /// fits; then nothing has changed.
    wiring_change take(wiring_draft& prepared);

    /// Whether one of them has another time of change than when it was loaded.
    [[nodiscard]] bool has_changed() const;
    /// Nothing is in force.
    void clear();

    /// Switches the wires of a set; false when no file has it. Files that are loaded
    /// again leave it as it was switched.
    bool switch_set(std::string_view set, bool on);

    /// Lets a wire do once what it does, at once, as if a payload with these fields had
    /// come: `sample` is TOML, "wyrm = 3", and what it leaves out is as in a payload made
    /// of nothing. Neither delays, limits, phases nor its set are looked at. By the name
    /// of a wire in force, or "wire harbour.toml:12"; throws `std::out_of_range` for
    /// another, and `wiring_error` when the sample does not fit, or when of what the wire
    /// waits for no payload can be made, as of changes of states.
    wire_trial try_once(std::string_view name, std::string_view sample = {});
    /// Tries the only wire of a text, which is not put in force.
    wire_trial try_text(std::string_view text, std::string_view sample = {});

    /// What can be wired, for checks and people.
    [[nodiscard]] courier::catalogue catalogue() const;
    /// A report of each wire.
    [[nodiscard]] std::vector<wire_report> wires() const;
    /// Publishes each action that failed, on a channel called after this wiring ("reef.failed"),
    /// so that recordings, audits and `courier explain` know of it. A handler may end all this.
    [[nodiscard]] const channel<action_failed>& failed() const noexcept;
    /// Targets that wires name and that are not there.
    [[nodiscard]] std::vector<std::string> missing_targets() const;

    /// What `set NAME` takes.
    template <class T>
    struct new_value {
        T value;
    };
    /// And `move NAME`.
    template <class Phase>
    struct next_phase {
        Phase to;
    };

private:
    friend audit_report audit(const wiring& of);
    friend struct detail::access;
    void add(std::unique_ptr<detail::cause_base> cause);
    void add(const detail::port& value, std::source_location where);
    void add_query(query_entry asked);
    void add_group(std::shared_ptr<const detail::group_source> members);
    void add_phases(std::string_view name, detail::phases_core& core);
    [[nodiscard]] named_target add_target(std::string_view text, std::string_view kind, std::uint64_t key,
                                          std::shared_ptr<const void> address);
    [[nodiscard]] detail::action_base* known_action(std::string_view name, std::uint64_t key,
                                                    std::source_location where) const;
    void add_action(std::unique_ptr<detail::action_base> action);

    template <class Action>
    Action& find_action(std::string_view name, std::source_location where) {
        const std::uint64_t key = detail::key_of_type<Action>();
        if (detail::action_base* const there = known_action(name, key, where)) {
            return *static_cast<Action*>(there);
        }
        auto made = std::make_unique<Action>(name);
        made->key = key;
        Action& action = *made;
        add_action(std::move(made));
        return action;
    }

    std::shared_ptr<detail::wiring_core> core_;
};

WIRED_COURIER_NAMESPACE_END
