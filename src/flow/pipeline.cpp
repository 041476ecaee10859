// SPDX-License-Identifier: MIT
#include "delivery/anchors.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/flight.hpp>
#include <courier/detail/flow/pipeline.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

thread_local constinit anchor_channel anchors;

void end_root(pipe_root& root) noexcept {
    pipe_root::end(root);
    anchors.leave();
}

constexpr handler_ops anchor_ops = anchor_ops_of<pipe_root, &end_root>();

} // namespace

bool is_over(const handler_ops* ops, const void* word) noexcept {
    const channel_core& core = innermost()->channel();
    for (const slot* s = core.limbo; s != nullptr; s = s->next) {
        if (s->ops == ops && s->back == word) {
            return true;
        }
    }
    for (const stage_list* list = core.lists; list != nullptr; list = list->next) {
        for (std::uint32_t i = 0; i < list->size; ++i) {
            const entry& e = list->entries[i];
            if (!is_gone(e) && e.state == word && list->slots[i]->ops == ops && list->slots[i]->blocked != 0) {
                return true;
            }
        }
    }
    return false;
}

slot* anchor_root(owned<pipe_root> root, std::source_location where, party* owner) {
    slot* const made = anchors.hang("pipelines", anchor_ops, root.get(), where, owner);
    if (made != nullptr) {
        root.release()->anchor = made; // the anchor has it now
    }
    return made;
}

pipe_root& root_of(slot& anchor) noexcept {
    return *held_by<pipe_root>(anchor);
}

void pipe_root::add(subscription in, std::function<void(slot*)> serve) {
    reserve_by_halves(ins_, ins_.size() + 1);
    serves_.push_back(std::move(serve));
    ins_.push_back(std::move(in));
}

void pipe_root::take(pipe_node* node) {
    owned<pipe_node> own(node); // also when there is no room
    nodes_.push_back(std::move(own));
}

// Both here, since what its lists are made of costs every includer.
pipe_root::pipe_root(std::source_location where, stage place, const party* made_for) noexcept
    : where_(where), place_(place), made_for_(made_for) {}
pipe_root::~pipe_root() = default;

void pipe_root::end(pipe_root& root) noexcept {
    root.ended_ = true;
    root.anchor = nullptr;
    if (root.busy_ == 0) {
        delete &root;
    }
}

void pipe_root::end_sources(std::uint32_t from, std::uint32_t past) noexcept {
    for (std::uint32_t i = from; i < past; ++i) {
        ins_[i].end();
    }
}

void pipe_root::serve_current() {
    const busy now(*this);
    for (std::size_t i = 0; i < ins_.size() && !deaf(); ++i) {
        if (slot* const s = access::slot_of(ins_[i]); s != nullptr) {
            serves_[i](s);
        }
    }
}

pipe_root::busy::~busy() {
    if (--root_.busy_ == 0) {
        root_.end_if_over();
    }
}

void pipe_root::end_if_over() noexcept {
    if (ended_) {
        delete this;
    } else if (std::none_of(ins_.begin(), ins_.end(), [](const subscription& in) { return in.live(); }) &&
               std::none_of(nodes_.begin(), nodes_.end(), [](const auto& node) { return node->waits(); })) {
        detach(*anchor); // ends and deletes this
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
