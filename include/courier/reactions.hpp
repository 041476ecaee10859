// A set of reactions, written once, for one object after another.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/address_code.hpp>
#include <courier/detail/delivery/followers.hpp>
#include <courier/group.hpp>
#include <courier/lifecycle.hpp>
#include <courier/subscriber.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>
#include <source_location>
#include <string>
#include <string_view>
#include <type_traits>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// The subscriptions of each of many objects: a function that makes
/// those of one of them. Attached to an object, it is called with a
/// subscriber of that object's, which ends when it is detached.
///
///     courier::reactions<int> mast{"mast", [&](courier::subscriber& in, int barge) {
///         in.subscribe(convoy.bitten().at(barge), [&, barge] { hoist(barge, flag::help); });
///         in.every(clock, 10s, [&, barge] { hoist(barge, flag::all_well); });
///     }};
///     mast.follow(convoy.members());              // each member, until it leaves
///     mast.attach(7);                             // one by hand
///
/// `Who` is what tells objects apart: an address (a number, an id), or a
/// reference, `reactions<barge&>`, for objects that announce themselves
/// (`lifecycle_channels`). Belongs to one thread; every member may be called
/// from one of its reactions, which may also destroy it. Can be neither copied nor moved.
template <class Who>
class reactions {
    using key = std::conditional_t<std::is_reference_v<Who>, std::remove_reference_t<Who>*, Who>;
    using given = std::conditional_t<std::is_reference_v<Who>, Who, const Who&>;

public:
    /// `name` is that of each subscriber, and is copied. `how` is called with a
    /// `subscriber&` and a `Who`, and may be called at any time while this lives.
    template <class How>
        requires std::is_invocable_v<How&, subscriber&, given>
    reactions(std::string_view name, How how)
        : core_(detail::held<core>::taking_over(new core(name, std::move(how)))), in_(name) {}
    /// Does not compile; the message says what to write instead.
    template <class Wrong>
    reactions(std::string_view name, Wrong) : in_(name) {
        static_assert(detail::always_false<Wrong>,
                      "courier: a set of reactions is a function that takes a courier::subscriber& and the object");
    }
    reactions(const reactions&) = delete; // courier: neither copied nor moved; hold its object by std::unique_ptr
    reactions& operator=(const reactions&) = delete;
    /// Ends them all.
    ~reactions() {
        in_.clear();
        core_->over = true;
        const auto gone = std::exchange(core_->attached, {}); // what ends may do anything but find its like here
    }

    /// Attaches them to one object more; false when they are already. When `how`
    /// throws, they are not.
    bool attach(given who) {
        const detail::held own = core_; // which `how` may end
        return own->attach(who, in_);
    }

    /// Ends an object's subscriptions; false when it had none. Pausing
    /// is the subscriber's: see `of()`.
    bool detach(given who) noexcept {
        const auto gone = core_->attached.extract(key_of(who)); // destroyed last
        return !gone.empty();
    }

    /// The subscriber of one object, or null. Good until it is detached.
    [[nodiscard]] subscriber* of(given who) noexcept {
        const auto found = core_->attached.find(key_of(who));
        return found != core_->attached.end() ? &found->second->in : nullptr;
    }

    /// How many objects they are attached to.
    [[nodiscard]] std::size_t size() const noexcept { return core_->attached.size(); }

    /// Attaches them to the members of a group, those that join later too, until
    /// they leave. The group may end first; they stay attached then.
    void follow(const group<key>& whom, std::source_location where = std::source_location::current())
        requires(!std::is_reference_v<Who>)
    {
        const detail::held own = core_;
        const std::vector<key> members = whom.members();
        in_.subscribe(
            whom.joined(), [this](const group_joined<key>& m) { attach(m.member); }, {}, where);
        in_.subscribe(
            whom.left(), [this](const group_left<key>& m) { detach(m.member); }, {}, where);
        for (std::size_t i = 0; i < members.size() && !own->over; ++i) {
            own->attach(members[i], in_);
        }
    }

    /// Attaches them to each object that is created from now on, until it is destroyed.
    /// They serve nothing while it is asleep, as it is at first.
    template <class Object>
        requires std::is_same_v<Who, Object&>
    void follow(const lifecycle_channels<Object>& whom, std::source_location where = std::source_location::current()) {
        in_.subscribe(
            whom.appeared(),
            [this](const appeared<Object>& c) {
                if (attach(c.object)) {
                    put_to_sleep(c.object, true);
                }
            },
            {}, where);
        in_.subscribe(
            whom.woke(), [this](const woke<Object>& w) { put_to_sleep(w.object, false); }, {}, where);
        in_.subscribe(
            whom.slept(), [this](const slept<Object>& s) { put_to_sleep(s.object, true); }, {}, where);
        in_.subscribe(
            whom.gone(), [this](const gone<Object>& d) { detach(d.object); }, {}, where);
    }

private:
    struct attached_to {
        attached_to(const std::string& name, const subscriber& leader) : in(name) { in.follow(leader); }
        subscriber in;
        bool asleep = false;
    };

    void put_to_sleep(given who, bool asleep) {
        const auto found = core_->attached.find(key_of(who));
        if (found != core_->attached.end() && std::exchange(found->second->asleep, asleep) != asleep) {
            detail::party& own = detail::access::party_of(found->second->in);
            asleep ? detail::fall_asleep(own) : detail::wake_up(own);
        }
    }

    static key key_of(given who) {
        if constexpr (std::is_reference_v<Who>) {
            return &who;
        } else {
            return who;
        }
    }

    /// Stays while its function runs.
    struct core : detail::counted<core> {
        template <class How>
        core(std::string_view its_name, How what) : name(its_name), how(std::move(what)) {}

        bool attach(given who, const subscriber& leader) {
            const key known_as = key_of(who);
            if (attached.contains(known_as)) {
                return false;
            }
            subscriber& own =
                attached.try_emplace(known_as, detail::make_owned<attached_to>(name, leader)).first->second->in;
            detail::unless_done taken_back([&] { const auto gone = attached.extract(known_as); });
            how(own, who); // held by reactions::attach()
            taken_back.done();
            return true;
        }

        bool over = false;
        std::string name;
        std::function<void(subscriber&, given)> how;
        std::unordered_map<key, detail::owned<attached_to>, detail::address_hash, detail::address_equal> attached;
    };

    detail::held<core> core_;
    subscriber in_; ///< to the sources that it follows
};

WIRED_COURIER_NAMESPACE_END
