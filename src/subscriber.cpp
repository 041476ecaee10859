#include <courier/subscriber.hpp>

#include "noted.hpp"

#include <courier/detail/value_core.hpp>
#include <courier/fault.hpp>

namespace courier::inline WIRED_COURIER_ABI {

subscriber::subscriber(std::string_view name) : party_(new detail::party{}) {
    party_->name = name;
}

subscriber::~subscriber() {
    clear();
    if (detail::overseen()) [[unlikely]] {
        detail::note_party_end(*party_);
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
    ++detail::this_values.together; // views and sequences that go on may do anything, so later
    for (detail::slot* s = party_->first; s != nullptr; s = s->next) {
        detail::unblock(*s, detail::block_owner_paused);
    }
    --detail::this_values.together;
    detail::go_on_after_pause();
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

subscription_key subscriber::begin(detail::view_node* view) {
    if (view == nullptr) {
        return {};
    }
    const subscription_key key{view->self}; // it may end in its first run
    detail::begin_view(*view);
    return key;
}

detail::slot* subscriber::find(subscription_key key) const noexcept {
    for (detail::slot* s = party_->first; s != nullptr; s = s->next) {
        if (s == key.slot_ && s->born == key.born_) {
            return s;
        }
    }
    return nullptr;
}

namespace detail {

void report_empty_handler(const channel_core& core, std::source_location where) {
    raise(fault_code::empty_handler, severity::refused,
          "the handler subscribed to '" + core.name + "' at " + place(where) +
              " is empty; give it a function before subscribing it",
          where);
}

} // namespace detail
} // namespace courier::inline WIRED_COURIER_ABI
