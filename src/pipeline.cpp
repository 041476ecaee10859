#include <courier/detail/pipeline.hpp>

#include <algorithm>
#include <utility>

namespace courier::inline WIRED_COURIER_ABI::detail {

namespace {

/// What an anchor holds.
struct root_holder {
    pipe_root* root;
};

// What a thread's pipelines hang on; gone with the last of them.
struct anchors {
    channel_core* core = nullptr;
    std::size_t count = 0;
};
thread_local constinit anchors own_anchors;

void leave_anchors() noexcept {
    if (--own_anchors.count == 0) {
        close_core(*std::exchange(own_anchors.core, nullptr));
    }
}

constexpr handler_ops anchor_ops = [] {
    handler_ops ops{};
    ops.invoke = [](void*, const void*) {};
    ops.construct = [](void* to, void* from) { ::new (to) root_holder(*static_cast<root_holder*>(from)); };
    ops.destroy = [](void* state) noexcept {
        pipe_root::end(*static_cast<root_holder*>(state)->root);
        leave_anchors();
    };
    ops.module = nullptr;
    ops.size = sizeof(root_holder);
    ops.align = alignof(root_holder);
    return ops;
}();

} // namespace

slot* anchor_root(std::unique_ptr<pipe_root> root, std::source_location where, party* owner) {
    if (own_anchors.core == nullptr) {
        own_anchors.core = open_core("pipelines");
    }
    ++own_anchors.count;
    root_holder holder{root.get()};
    slot* const made = attach(*own_anchors.core, {&anchor_ops, &holder, ordinary, 0, {}, where, owner});
    if (made == nullptr) {
        leave_anchors();
        return nullptr;
    }
    root.release()->anchor = made; // the anchor has it now
    return made;
}

pipe_root& root_of(slot& anchor) noexcept {
    return *static_cast<root_holder*>(state_of(anchor))->root;
}

void pipe_root::add(subscription in, std::function<void(slot*)> serve) {
    ins_.push_back(std::move(in));
    serves_.push_back(std::move(serve));
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
