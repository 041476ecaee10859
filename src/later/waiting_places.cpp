#include <courier/detail/later/waiting_places.hpp>

#include <courier/detail/delivery/oversight.hpp>

#include <algorithm>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

thread_local constinit waiting_place* this_places = nullptr; ///< the newest first

} // namespace

waiting_place::waiting_place(const std::string& name, bool is_inbox, look how, const void* whose) noexcept
    : name_(name), look_(how), whose_(whose), next_(this_places), back_(&this_places), is_inbox_(is_inbox) {
    if (next_ != nullptr) {
        next_->back_ = &next_;
    }
    this_places = this;
    note_frame();
}

void waiting_place::leave() noexcept {
    if (back_ == nullptr) {
        return;
    }
    *back_ = next_;
    if (next_ != nullptr) {
        next_->back_ = back_;
    }
    back_ = nullptr;
}

void waiting_place::note_frame() noexcept {
    if (overseen()) [[unlikely]] {
        since_frame_ = this_oversight.frame;
    }
}

void waiting_place::note_call() noexcept {
    was_called_ = true;
    note_frame();
}

std::vector<left_waiting> list_left_waiting() {
    std::vector<left_waiting> all;
    for (const waiting_place* place = this_places; place != nullptr; place = place->next_) {
        if (const waiting_place::contents in = place->look_(place->whose_); in.payloads != 0) {
            all.push_back(
                {place->name_, place->is_inbox_, in.payloads, in.posted, place->since_frame_, place->was_called_});
        }
    }
    std::reverse(all.begin(), all.end());
    return all;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
