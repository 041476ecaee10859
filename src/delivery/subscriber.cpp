// SPDX-License-Identifier: MIT
#include <courier/detail/base/in_use.hpp>
#include <courier/subscriber.hpp>

#include "delivery/follower_list.hpp"

#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/onlooker.hpp>
#include <unordered_set>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

/// Without memory there is none, and the list is looked through.
struct key_index {
    std::unordered_set<const slot*> slots;
};

namespace {

constexpr std::size_t few_keys = 16; ///< that are looked through

owned<key_index> index_of(const party& of) {
    auto made = make_owned<key_index>();
    made->slots.reserve(of.count);
    for (const slot* s = of.first; s != nullptr; s = s->next) {
        made->slots.insert(s);
    }
    return made;
}

} // namespace

party::~party() {
    delete led; // what ended last may have let somebody follow
    delete keys;
}

void enter_key(slot& s) noexcept {
    party& owner = *s.owner;
    bool is_in = false;
    if_memory_allows([&] { is_in = owner.keys->slots.insert(&s).second; });
    if (!is_in) {
        delete std::exchange(owner.keys, nullptr);
    }
}

void leave_key(slot& s) noexcept {
    party& owner = *s.owner;
    owner.keys->slots.erase(&s);
    if (owner.count == 0) {
        delete std::exchange(owner.keys, nullptr);
    }
}

} // namespace detail

subscriber::subscriber(std::string_view name) {
    auto made = detail::make_owned<detail::party>();
    made->name = name;
    if (detail::making_for != nullptr) [[unlikely]] {
        detail::making_for->add(*made, true);
    }
    party_ = made.release();
}

subscriber::~subscriber() {
    const auto own = detail::held<detail::party>::taking_over(party_);
    own->ended = true;
    delete std::exchange(own->led, nullptr);
    clear();
    if (detail::overseen()) [[unlikely]] {
        detail::looks_on().party_ended(*own);
    }
}

void subscriber::pause() noexcept {
    if (!std::exchange(party_->paused, true) && party_->asleep == 0) {
        detail::silence(*party_);
    }
}

void subscriber::resume() noexcept {
    if (std::exchange(party_->paused, false) && party_->asleep == 0) {
        detail::unsilence(*party_);
    }
}

void subscriber::clear() noexcept {
    detail::end_all_of(*party_);
}

std::size_t subscriber::leave_core(const detail::channel_core& core) noexcept {
    const detail::held own(party_); // as in clear()
    detail::party_walk walk{own->first, own->walks};
    own->walks = &walk;
    std::size_t ended = 0;
    while (detail::slot* const s = walk.next) {
        walk.next = s->next;
        if (s->list->core == &core) {
            detail::detach(*s);
            ++ended;
        }
    }
    own->walks = walk.outer;
    return ended;
}

bool subscriber::end(subscription_key key) noexcept {
    detail::slot* s = find(key);
    if (s == nullptr) {
        return false;
    }
    detail::detach(*s);
    return true;
}

detail::slot* subscriber::find(subscription_key key) const noexcept {
    detail::party& own = *party_;
    if (own.keys == nullptr && own.count > detail::few_keys) {
        detail::if_memory_allows([&] { own.keys = detail::index_of(own).release(); });
    }
    if (own.keys != nullptr) {
        auto* const s = const_cast<detail::slot*>(key.slot_);
        return own.keys->slots.contains(s) && s->born == key.born_ ? s : nullptr;
    }
    for (detail::slot* s = own.first; s != nullptr; s = s->next) {
        if (s == key.slot_ && s->born == key.born_) {
            return s;
        }
    }
    return nullptr;
}

WIRED_COURIER_NAMESPACE_END
