// SPDX-License-Identifier: MIT
#include <courier/level.hpp>

#include "delivery/follower_list.hpp"
#include "delivery/slots.hpp"
#include "delivery/subscription_words.hpp"

#include <courier/detail/delivery/party.hpp>
#include <courier/detail/delivery/port.hpp>
#include <courier/detail/routing/hub_core.hpp>
#include <courier/fault.hpp>

#include <algorithm>
#include <cstddef>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct level_life : counted<level_life> {
    level_life(const std::string& name, courier::hub& above);

    courier::hub hub;
    subscriber in;
    std::vector<owned<level_part>> parts;
    courier::detail::followers followers{true}; ///< end before the channels
    bool ending = false;
};

struct level_core {
    level_core(std::string_view its_name, hub& above_it, std::function<void(level&)> how)
        : name(its_name), above(&above_it), make(std::move(how)) {}

    void begin(level& face, std::source_location place);
    void end() noexcept;
    void sleep();
    void wake();
    /// Raises `level_over` when it has not begun, or is ending and `to_add` is set.
    [[nodiscard]] level_life& here(std::source_location place, bool to_add = false) const;

    std::uint32_t refs = 1; ///< the level, and whoever is in the middle of one of its functions
    std::string name;
    hub* above;
    std::function<void(level&)> make;
    std::source_location where; ///< where it has begun
    held<level_life> life;      ///< null: it has not begun
    bool over = false;          ///< the level is gone, and never begins again
    std::uint64_t begun = 0;
};

namespace {

/// What is still subscribed when all that a level owns has ended.
class leftovers {
public:
    explicit leftovers(level_life& of) {
        for (const follower& one : of.followers.all()->each) { // of which its own subscriber is one
            known_.push_back(one.who.get());
            if (one.is_made_inside && !one.who->ended) {
                for (const slot* s = one.who->first; s != nullptr; s = s->next) {
                    add(*s);
                }
            }
        }
        std::sort(known_.begin(), known_.end());
        access::hub_of(of.hub).each_port([&](const port& one) {
            for (const stage_list* list = one.core->lists; list != nullptr; list = list->next) {
                for (std::uint32_t i = 0; i < list->size; ++i) {
                    if (!is_gone(list->entries[i]) && !is_in_order(list->slots[i]->owner)) {
                        add(*list->slots[i]);
                    }
                }
            }
        });
    }

    void report(const level_core& level) const {
        if (count_ != 0) {
            raise(fault_code::subscriptions_left, severity::notice,
                  "level '" + level.name + "' ends, and " + std::to_string(count_) +
                      (count_ == 1 ? " subscription is left, which ends with it: "
                                   : " subscriptions are left, which end with it: ") +
                      list_ + (count_ > most ? ", ..." : ""),
                  "let a part of the level hold them, or a subscriber that follows it", level.where);
        }
    }

private:
    static constexpr std::size_t most = 16; ///< that are named

    // It follows the level, or has been added already, or finds what comes in the place of this.
    bool is_in_order(const party* who) const {
        return who != nullptr && (who->comes_back || std::binary_search(known_.begin(), known_.end(), who));
    }

    void add(const slot& s) {
        if (++count_ <= most) {
            add_words(list_, s.list->core->name, s.owner != nullptr ? s.owner->name : std::string(), place(s.where));
        }
    }

    std::size_t count_ = 0;
    std::string list_;
    std::vector<const party*> known_;
};

} // namespace

level_life::level_life(const std::string& name, courier::hub& above) : hub(name, above), in(name) {
    followers.add(access::party_of(in));
}

void retain(level_core& core) noexcept {
    ++core.refs;
}

void release(level_core& core) noexcept {
    if (--core.refs == 0) {
        delete &core;
    }
}

level_life& level_core::here(std::source_location place, bool to_add) const {
    if (life == nullptr || (to_add && life->ending)) {
        refuse_for_good(fault_code::level_over,
                        "level '" + name + (life == nullptr ? "' has not begun" : "' is ending and takes nothing more"),
                        life == nullptr ? "call begin() first, or ask live()" : "make it when the level has begun",
                        place);
    }
    return *life;
}

void level_core::begin(level& face, std::source_location place) {
    if (life != nullptr || over) {
        return;
    }
    where = place;
    const held until_then(*this);
    life = held<level_life>::taking_over(new level_life(name, *above));
    ++begun;
    unless_done ended([this] { end(); });
    {
        const held mine = life;
        const followed_when_made now(&mine->followers);
        make(face);
    }
    ended.done();
}

void level_core::end() noexcept {
    if (life == nullptr || life->ending) {
        return;
    }
    const held until_then(*this);
    held mine = life;
    mine->ending = true;
    ++ending_levels;
    while (!mine->parts.empty()) {
        const owned<level_part> last = std::move(mine->parts.back());
        mine->parts.pop_back();
    }
    mine->in.clear();
    --ending_levels;
    if_memory_allows([&] { leftovers(*mine).report(*this); });
    life = {};
}

void level_core::sleep() {
    if (life == nullptr || !life->followers.awake()) {
        return; // parts remember only once that they were awake
    }
    const held mine = life;
    mine->followers.sleep();
    for (std::size_t i = mine->parts.size(); i-- > 0;) {
        if (i < mine->parts.size()) { // what is paused may end others
            mine->parts[i]->pause();
        }
    }
}

void level_core::wake() {
    if (life == nullptr || life->followers.awake()) {
        return;
    }
    const held mine = life;
    for (std::size_t i = 0; i < mine->parts.size(); ++i) {
        mine->parts[i]->resume();
    }
    mine->followers.wake();
}

making_in_level::making_in_level(const level_core& in)
    : life_(held(in.here({}, true)).let_go()), now_(&life_->followers) {}

making_in_level::~making_in_level() {
    static_cast<void>(held<level_life>::taking_over(life_));
}

void making_in_level::keep(owned<level_part> made) const {
    if (!life_->followers.awake()) {
        made->pause();
    }
    life_->parts.push_back(std::move(made));
}

level_core* open_level(std::string_view name, hub& above, std::function<void(level&)> make) {
    return new level_core(name, above, std::move(make));
}

} // namespace detail

level::~level() {
    const detail::held own = core_;
    own->over = true;
    own->end();
}

std::string_view level::name() const noexcept {
    return core_->name;
}

void level::begin(std::source_location where) {
    core_->begin(*this, where);
}

void level::end() noexcept {
    const detail::held own = core_;
    own->end();
}

void level::restart(std::source_location where) {
    const detail::held own = core_;
    own->end();
    own->begin(*this, where);
}

bool level::live() const noexcept {
    return core_->life != nullptr;
}

std::uint64_t level::times_begun() const noexcept {
    return core_->begun;
}

void level::sleep() {
    const detail::held own = core_;
    own->sleep();
}

void level::wake() {
    const detail::held own = core_;
    own->wake();
}

bool level::awake() const noexcept {
    return live() && core_->life->followers.awake();
}

hub& level::hub(std::source_location where) {
    return core_->here(where).hub;
}

subscriber& level::in(std::source_location where) {
    return core_->here(where).in;
}

detail::followers& level::followers() {
    return core_->here({}).followers;
}

WIRED_COURIER_NAMESPACE_END
