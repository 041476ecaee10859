// SPDX-License-Identifier: MIT
#include <courier/detail/later/waiting_places.hpp>

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/last_reports.hpp>
#include <courier/detail/delivery/oversight.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

thread_local constinit waiting_place* this_places = nullptr; ///< the newest first

} // namespace

waiting_place::waiting_place(const std::string& name, waiting_kind kind, look how, const void* whose) noexcept
    : name_(name), look_(how), whose_(whose), next_(this_places), back_(&this_places), kind_(kind) {
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
    if (overseen()) [[unlikely]] {
        if (const contents in = look_(whose_); in.payloads != 0) {
            if_memory_allows([&] {
                left_waiting last = report(in);
                last.ended_frame = this_oversight.frame;
                const std::string key = name_ + ' ' + in.posted.file_name() + ' ' + std::to_string(in.posted.line());
                this_oversight.last->keep(key, std::move(last));
            });
        }
    }
    unlink();
}

void waiting_place::unlink() noexcept {
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

left_waiting waiting_place::report(const contents& in) const {
    return {name_, kind_, in.payloads, in.posted, since_frame_, was_called_, std::nullopt};
}

std::vector<left_waiting> list_left_waiting() {
    std::vector<left_waiting> all;
    for (const waiting_place* place = this_places; place != nullptr; place = place->next_) {
        if (const waiting_place::contents in = place->look_(place->whose_); in.payloads != 0) {
            all.push_back(place->report(in));
        }
    }
    std::reverse(all.begin(), all.end());
    return all;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
