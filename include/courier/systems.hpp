// The systems of a game: made in the order in which they need one another, and
// updated in that order.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/base/type_name.hpp>
#include <courier/detail/base/type_number.hpp>
#include <courier/detail/delivery/channel_core.hpp>
#include <courier/detail/later/systems_core.hpp>
#include <courier/game_time.hpp>
#include <courier/team.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class S>
S& make_system(systems_core& in);
template <class S>
consteval void check_system();

template <class S, class T>
concept other_system = std::is_class_v<T> && !std::is_same_v<std::remove_const_t<T>, S>;

template <class T>
concept is_updated = requires(T& one) { one.update(game_time{}); } || requires(T& one) { one.update(); };

// Arguments that become any other system, as a reference and as a temporary.
template <class S>
struct some_system {
    template <class T>
        requires other_system<S, T>
    operator T&() const; // NOLINT(google-explicit-constructor)
};
template <class S>
struct temporary_system {
    template <class T>
        requires other_system<S, T>
    operator T() const; // NOLINT(google-explicit-constructor)
};

/// Whether parameter `At` of a constructor of `Count` takes a temporary, as a value and a
/// const reference do.
template <class S, std::size_t Count, std::size_t At>
consteval bool takes_temporary() {
    return []<std::size_t... I>(std::index_sequence<I...>) {
        return std::is_constructible_v<S, std::conditional_t<I == At, temporary_system<S>, some_system<S>>...>;
    }(std::make_index_sequence<Count>());
}

// What only a const reference is made of.
template <class S>
struct const_system {
    template <class T>
        requires(other_system<S, T> && std::is_const_v<T>)
    operator T&() const; // NOLINT(google-explicit-constructor)
};

/// Whether a constructor's parameter is a copy of another system.
template <class S, std::size_t Count, std::size_t At>
consteval bool takes_copy() {
    return takes_temporary<S, Count, At>() && ![]<std::size_t... I>(std::index_sequence<I...>) {
        return std::is_constructible_v<S, std::conditional_t<I == At, const_system<S>, some_system<S>>...>;
    }(std::make_index_sequence<Count>());
}

/// Stands for argument `At` of a system's constructor, and becomes the parameter's
/// type: a reference to another system, const if it is only read. Never a copy of it.
template <class S, std::size_t Count, std::size_t At>
class needed_system {
public:
    explicit needed_system(systems_core& of) noexcept : of_(&of) {}

    template <class T>
        requires(other_system<S, T> && (is_updated<T> || std::is_const_v<T> || !takes_temporary<S, Count, At>()))
    operator T&() const { // NOLINT(google-explicit-constructor)
        using needed = std::remove_const_t<T>;
        check_system<needed>();
        T& made = make_system<needed>(*of_);
        of_->note_need(key_of_type<needed>(), !std::is_const_v<T>);
        return made;
    }

private:
    systems_core* of_;
};

/// How many arguments its constructor has, the shortest one if it has several;
/// or more than there may be.
inline constexpr std::size_t max_needs = 12;
template <class S, std::size_t... I>
consteval bool takes_as_many(std::index_sequence<I...>) {
    return std::is_constructible_v<S, needed_system<S, sizeof...(I), I>...>;
}
template <class S, std::size_t Count = 0>
consteval std::size_t count_needs() {
    if constexpr (Count > max_needs || takes_as_many<S>(std::make_index_sequence<Count>())) {
        return Count;
    } else {
        return count_needs<S, Count + 1>();
    }
}
template <class S>
inline constexpr bool can_be_made = !std::is_abstract_v<S> && count_needs<S>() <= max_needs;

/// Called where a system is asked for, so that the compiler names that line soon.
template <class S>
consteval void check_system() {
    constexpr bool can_update = is_updated<S> || !requires(S& one, float seconds) { one.update(seconds); };
    static_assert(can_update, "courier: update() of a system takes a courier::game_time or nothing; seconds are "
                              "std::chrono::duration<float>(step).count()");
    constexpr std::size_t needs = can_be_made<S> ? count_needs<S>() : 0;
    constexpr bool takes_no_copy = []<std::size_t... I>(std::index_sequence<I...>) {
        return (!takes_copy<S, needs, I>() && ...);
    }(std::make_index_sequence<needs>());
    static_assert(takes_no_copy,
                  "courier: a system takes another one by reference, T& to change it or const T& to read "
                  "it; this constructor takes a copy");
}

/// `Made` under the name of `S`, which it is or is derived from.
template <class S, class Made>
struct ops_of_system {
    static void destroy(void* object) noexcept { delete static_cast<Made*>(static_cast<S*>(object)); }
    static void update(void* object, game_time step) {
        auto& made = *static_cast<Made*>(static_cast<S*>(object));
        if constexpr (requires { made.update(step); }) {
            made.update(step);
        } else {
            made.update();
        }
    }
    static void pause(void* object) { static_cast<Made*>(static_cast<S*>(object))->pause(); }
    static void resume(void* object) { static_cast<Made*>(static_cast<S*>(object))->resume(); }

    static constexpr std::string_view type = type_name<S>(); // g++ 12 takes it in no function

    static consteval system_ops make() {
        system_ops made{.type = type, .destroy = &destroy};
        if constexpr (is_updated<Made>) {
            made.update = &update;
        }
        if constexpr (requires(Made& one) { one.pause(), one.resume(); }) {
            made.pause = &pause;
            made.resume = &resume;
        }
        return made;
    }
    static constexpr system_ops ops = make();
};

/// Of an object that was lent.
template <class S>
inline constexpr system_ops lent_ops{.type = type_name<S>()};

template <class Made, std::size_t... I>
Made* construct_system(systems_core& in, std::index_sequence<I...>) {
    return new Made{needed_system<Made, sizeof...(I), I>(in)...}; // braces: from left to right
}

/// A constructor may end what its system is made in; nothing here is a member of that.
template <class S, class Made>
S& make_system_as(systems_core& in) {
    static_assert(can_be_made<Made>,
                  "courier: this system cannot be made: it needs a public constructor all of whose parameters, at "
                  "most twelve, are references to classes, T& to change one or const T& to read it");
    const system_key key = key_of_type<S>();
    in.begin(key, type_name<S>());
    unless_done not_made([&in] { in.not_made(); });
    owned<Made> made(construct_system<Made>(in, std::make_index_sequence<count_needs<Made>()>()));
    in.made(key, ops_of_system<S, Made>::ops, static_cast<S*>(made.get()));
    not_made.done();
    return *made.release();
}

/// The one that is there, or a new one.
template <class S>
S& make_system(systems_core& in) {
    static_assert(std::is_class_v<S>, "courier: a system is a class");
    const system_key key = key_of_type<S>();
    if (void* const there = in.find(key); there != nullptr) {
        return *static_cast<S*>(there);
    }
    for (std::size_t i = in.stand_ins.size(); i-- > 0;) {
        if (in.stand_ins[i].instead_of == key) {
            in.stand_ins[i].make(in);
            return *static_cast<S*>(in.find(key));
        }
    }
    if constexpr (can_be_made<S>) {
        return make_system_as<S, S>(in);
    } else {
        in.report_missing(type_name<S>());
    }
}

} // namespace detail

/// One system, for people and reports.
struct system_report {
    /// Another system that it reads or changes.
    struct need {
        std::string name;
        bool changes; ///< or only reads it
    };
    std::string name;
    std::vector<need> needs;
    std::vector<std::string> teams;
    bool lent;
    bool updated; ///< it has an update
    bool paused;
    /// Systems of one wave have nothing in common that one of them changes, so
    /// that a game may update them at the same time, wave after wave.
    std::size_t wave;
};

/// Makes systems, plain classes, as they need one another. What a system needs
/// is said by its constructor: a reference for what it changes, a const
/// reference for what it only reads.
///
///     struct tides  { void update(courier::game_time step); ... };
///     struct barges { explicit barges(const tides& water); void update(courier::game_time step); ... };
///     struct board  { board(const barges& convoy, courier::hub& reef); ... };
///
///     courier::systems reef{"reef"};
///     reef.lend(hub);                            // an object that exists already
///     board& shown = reef.get<board>();          // makes tides, then barges, then the board
///     courier::team storm = reef.add<rain, thunder>("storm");
///     frame.update(reef);                        // tides, barges, ... once a frame, with its time
///     storm.end();
///
/// A system has a public constructor whose parameters, at most twelve, are all
/// references to classes; of several, the shortest counts. It may have
/// `update(game_time)` or `update()`, and `pause()` together with `resume()`.
/// There is one of each type. It lives as long as somebody keeps it: who asked
/// for it with `get()`, a team, or another system that needs it; they are
/// destroyed in the opposite order of making.
///
/// When something cannot be made, nothing is: objects made on the way are
/// destroyed again, and the exception goes on. Systems that need one another in
/// a circle are refused before any of them is made (`courier.system-circle`, with
/// the way around), as is a type that can be neither made nor found
/// (`courier.system-missing`); both throw `courier::fault_error`.
///
/// Updates come in the order of making, so after those of what a system needs. One
/// that throws keeps no other from being updated; the first exception is thrown
/// at the end. A system added in the middle is updated the next time.
///
/// Belongs to one thread. Systems may ask for, add, pause and end others at any
/// time, also in their updates and handlers. Can be neither copied nor moved.
class systems {
public:
    /// `name` is for messages and reports and is copied.
    explicit systems(std::string_view name = {})
        : core_(detail::held<detail::systems_core>::taking_over(detail::open_systems(name))) {}
    systems(const systems&) = delete;
    systems& operator=(const systems&) = delete;
    ~systems() { core_->close(); }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] std::string_view name() const noexcept { return core_->name; }

    /// The system of that type, made with all that it needs if it is not there.
    /// It stays until the end of this; a constructor that brings that about leaves a
    /// reference to a destroyed object.
    template <class S>
    S& get(std::source_location where = std::source_location::current()) {
        detail::check_system<S>();
        const detail::held core = core_;
        detail::systems_core::making now(*core, where);
        S& made = detail::make_system<S>(*core);
        core->ask(detail::key_of_type<S>());
        now.done();
        return made;
    }

    /// The system of that type if it is there, or null.
    template <class S>
    [[nodiscard]] S* find() const {
        return static_cast<S*>(core_->find(detail::key_of_type<S>()));
    }

    /// Makes several and keeps them as one. Nothing is made when one cannot be.
    template <class... S>
    team add(std::string_view name, std::source_location where = std::source_location::current()) {
        static_assert(sizeof...(S) != 0, "courier: name the systems of the team: add<rain, thunder>(\"storm\")");
        (detail::check_system<S>(), ...);
        const detail::held core = core_;
        detail::systems_core::making now(*core, where);
        (detail::make_system<S>(*core), ...);
        team made(*core, core->open_team(name));
        (core->add_to_team(made.number_, detail::key_of_type<S>()), ...);
        now.done();
        return made;
    }

    /// Lends an object that is there already to those that need one of its type. It
    /// is not updated, and must outlive them.
    template <class S>
    void lend(S& object, std::source_location where = std::source_location::current()) {
        core_->lend(detail::key_of_type<std::remove_const_t<S>>(), detail::lent_ops<std::remove_const_t<S>>,
                    const_cast<std::remove_const_t<S>*>(&object), where);
    }

    /// From now on `StandIn`, derived from `S`, is made where an `S` is needed,
    /// such as in a test. `S` may be abstract.
    template <class S, class StandIn>
    void stand_in() {
        constexpr bool fits = std::is_base_of_v<S, StandIn>;
        static_assert(fits, "courier: a stand-in for a system is derived from it");
        if constexpr (fits) {
            detail::check_system<StandIn>();
            core_->stand_ins.push_back(
                {detail::key_of_type<S>(), [](detail::systems_core& in) { detail::make_system_as<S, StandIn>(in); }});
        }
    }

    /// Updates all that are not paused; see `frame_driver::update()`. Does
    /// nothing when one of them calls it.
    void update(time_span step) {
        const detail::held core = core_; // which an update may end
        core->update(step);
    }

    /// All of them, in the order of their updates.
    [[nodiscard]] std::vector<system_report> list() const;

private:
    friend struct detail::access;

    detail::held<detail::systems_core> core_;
};

/// All systems of the calling thread, those of the oldest `systems` first.
[[nodiscard]] std::vector<system_report> list_systems();

WIRED_COURIER_NAMESPACE_END
