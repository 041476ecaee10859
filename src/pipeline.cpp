#include "anchors.hpp"

#include <courier/detail/pipeline.hpp>

#include <algorithm>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

namespace {

thread_local constinit anchor_channel anchors;

constexpr handler_ops anchor_ops = anchor_ops_of<pipe_root>([](void* state) noexcept {
    pipe_root::end(**static_cast<pipe_root**>(state));
    anchors.leave();
});

} // namespace

slot* anchor_root(owned<pipe_root> root, std::source_location where, party* owner) {
    pipe_root* held = root.get();
    slot* const made = anchors.hang("pipelines", anchor_ops, &held, where, owner);
    if (made != nullptr) {
        root.release()->anchor = made; // the anchor has it now
    }
    return made;
}

pipe_root& root_of(slot& anchor) noexcept {
    return held_by<pipe_root>(anchor);
}

void pipe_root::add(subscription in, std::function<void(slot*)> serve) {
    ins_.push_back(std::move(in));
    serves_.push_back(std::move(serve));
}

void pipe_root::take(pipe_node* node) {
    nodes_.emplace_back(node);
}

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

} // namespace courier::inline WIRED_COURIER_ABI::detail
