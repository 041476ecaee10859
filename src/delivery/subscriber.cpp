#include <courier/subscriber.hpp>

#include <courier/detail/base/hold_back.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/delivery/onlooker.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

subscriber::subscriber(std::string_view name) {
    auto made = detail::make_owned<detail::party>();
    made->name = name;
    party_ = made.release();
}

subscriber::~subscriber() {
    party_->ended = true;
    clear();
    if (detail::overseen()) [[unlikely]] {
        detail::looks_on().party_ended(*party_);
    }
    detail::release(party_);
}

void subscriber::pause() noexcept {
    party_->paused = true;
    for (detail::slot* s = party_->first; s != nullptr; s = s->next) {
        detail::block(*s, detail::block_owner_paused);
    }
}

void subscriber::resume() noexcept {
    party_->paused = false;
    ++detail::this_hold.holds; // refreshers and sequences that go on may do anything, so later
    for (detail::slot* s = party_->first; s != nullptr; s = s->next) {
        detail::unblock(*s, detail::block_owner_paused);
    }
    --detail::this_hold.holds;
    detail::carry_out_held_back();
}

void subscriber::clear() noexcept {
    detail::party* const own = party_; // a capture may hold this subscriber, and go
    detail::retain(own);
    while (own->first != nullptr) {
        detail::detach(*own->first);
    }
    detail::release(own);
}

std::size_t subscriber::leave_core(const detail::channel_core& core) noexcept {
    detail::party* const own = party_; // as in clear()
    detail::retain(own);
    std::size_t ended = 0;
    for (detail::slot* s = own->first; s != nullptr;) {
        if (s->list->core != &core) {
            s = s->next;
            continue;
        }
        detail::detach(*s);
        ++ended;
        s = own->first; // whatever the captures' destructors did, start afresh
    }
    detail::release(own);
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
    for (detail::slot* s = party_->first; s != nullptr; s = s->next) {
        if (s == key.slot_ && s->born == key.born_) {
            return s;
        }
    }
    return nullptr;
}

WIRED_COURIER_NAMESPACE_END
