// SPDX-License-Identifier: MIT
#include "delivery/anchors.hpp"

#include "base/of_this_thread.hpp"

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

thread_local constinit bool is_anchor_thread_ending = false;

namespace {

thread_local constinit anchor_channel* these_anchors = nullptr;

struct anchors_end {
    ~anchors_end() {
        is_anchor_thread_ending = true;
        close_idle_anchors();
    }
};

} // namespace

void close_idle_anchors() noexcept {
    for (anchor_channel* one = these_anchors; one != nullptr; one = one->next) {
        one->close_if_idle();
    }
}

void anchor_channel::open(const char* name) {
    if (!is_anchor_thread_ending) {
        static_cast<void>(of_this_thread<anchors_end>());
    }
    core = open_core(name, &owned_kind);
    if (!std::exchange(is_listed, true)) {
        next = std::exchange(these_anchors, this);
    }
}

void anchor_channel::close_if_idle() noexcept {
    if (core != nullptr && count == 0) {
        close_core(*std::exchange(core, nullptr));
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
