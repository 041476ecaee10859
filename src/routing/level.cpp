#include <courier/level.hpp>

#include "delivery/slots.hpp"
#include "delivery/subscription_words.hpp"

#include <courier/detail/delivery/party.hpp>
#include <courier/detail/routing/hub_core.hpp>
#include <courier/fault.hpp>

#include <algorithm>
#include <cstddef>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// What is still subscribed when all that a level owns has ended.
class leftovers {
public:
    explicit leftovers(level_life& of) {
        for (const follower& one : of.followers.all()) {
            known_.push_back(one.who.get());
            if (one.is_made_inside && !one.who->ended) {
                for (const slot* s = one.who->first; s != nullptr; s = s->next) {
                    add(*s);
                }
            }
        }
        std::sort(known_.begin(), known_.end());
        access::hub_of(of.hub).each_channel([&](channel_core& core) {
            for (const stage_list* list = core.lists; list != nullptr; list = list->next) {
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

level_core::level_core(std::string_view its_name, courier::hub& above_it, std::function<void(level&)> how)
    : name(its_name), above(&above_it), make(std::move(how)) {}

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
    if (life != nullptr) {
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
    while (!mine->parts.empty()) {
        const owned<level_part> last = std::move(mine->parts.back());
        mine->parts.pop_back();
    }
    mine->in.clear();
    if_memory_allows([&] { leftovers(*mine).report(*this); });
    life = {};
}

void level_core::sleep() {
    if (life == nullptr) {
        return;
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
    if (life == nullptr) {
        return;
    }
    const held mine = life;
    for (std::size_t i = 0; i < mine->parts.size(); ++i) {
        mine->parts[i]->resume();
    }
    mine->followers.wake();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
