// What several sources of a pipeline, or its times, meet in.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/owned.hpp>
#include <courier/detail/flow/receivers.hpp>
#include <courier/subscription.hpp>

#include <cstdint>
#include <functional>
#include <source_location>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Part of what several sources meet in.
class pipe_node {
public:
    pipe_node() = default;
    pipe_node(const pipe_node&) = delete;
    pipe_node& operator=(const pipe_node&) = delete;
    virtual ~pipe_node() = default;

    /// Whether something may still come of it when its sources have ended.
    [[nodiscard]] virtual bool waits() const noexcept { return false; }
};

/// What a subscription with several sources or times consists of. It hangs on
/// one slot of this thread's channel of pipelines, the anchor, by which it is
/// owned, paused and ended like any other.
class pipe_root {
public:
    /// `made_for` is looked at while its sources are connected only.
    pipe_root(std::source_location where, stage place, const party* made_for) noexcept;
    pipe_root(const pipe_root&) = delete;
    pipe_root& operator=(const pipe_root&) = delete;
    ~pipe_root();

    /// Everything ends; memory goes once nothing of it is running.
    static void end(pipe_root& root) noexcept;

    [[nodiscard]] bool deaf() const noexcept { return ended_ || anchor == nullptr || anchor->blocked != 0; }
    [[nodiscard]] std::source_location where() const noexcept { return where_; }
    [[nodiscard]] stage place() const noexcept { return place_; }
    /// Whose its sources' subscriptions are.
    [[nodiscard]] ownership whose() const noexcept { return ownership::held_for(made_for_); }

    /// Takes a new node. Each kind of them is a type of its own; taken like
    /// this, none of them needs an owner of its own type.
    template <class Node>
    Node& add(Node* node) {
        take(node);
        return *node;
    }
    /// One more source, and how what it has already can be served.
    void add(subscription in, std::function<void(slot*)> serve);

    [[nodiscard]] std::uint32_t sources() const noexcept { return static_cast<std::uint32_t>(ins_.size()); }
    void end_sources(std::uint32_t from, std::uint32_t past) noexcept;

    /// Serves what sources have already.
    void serve_current();

    /// Around everything that comes in.
    class busy {
    public:
        explicit busy(pipe_root& root) noexcept : root_(root) { ++root_.busy_; }
        busy(const busy&) = delete;
        busy& operator=(const busy&) = delete;
        ~busy();

    private:
        pipe_root& root_;
    };

    slot* anchor = nullptr;

private:
    void take(pipe_node* node);
    void end_if_over() noexcept;

    std::source_location where_;
    stage place_;
    const party* made_for_;
    std::uint32_t busy_ = 0;
    bool ended_ = false;
    std::vector<detail::owned<pipe_node>> nodes_;
    std::vector<subscription> ins_; // after the nodes, so that they end first
    std::vector<std::function<void(slot*)>> serves_;
};

/// Ends the sources of one node.
struct part_ending {
    pipe_root* root = nullptr;
    std::uint32_t from = 0;
    std::uint32_t past = 0;
    void operator()() const { root->end_sources(from, past); }
    [[nodiscard]] bool is_over() const noexcept { return root->deaf(); }
};

/// Copies were made, which may have ended it.
template <class Next, class Value>
void give_unless_over(Next& next, const Value& value, const part_ending& part) {
    if (!part.is_over()) {
        next(value, &part);
    }
}

/// The anchor of a root; null when the channel of pipelines refuses.
slot* anchor_root(detail::owned<pipe_root> root, std::source_location where, party* owner);
/// Connects a node's sources, and notes which they are.
template <class Node, class Connect>
void connect_part(Node& node, pipe_root& root, Connect connect) {
    node.part.root = &root;
    node.part.from = root.sources();
    connect();
    node.part.past = root.sources();
}

/// The root that hangs on an anchor.
pipe_root& root_of(slot& anchor) noexcept;

/// What comes in from one source of several.
template <class Receiver>
struct entrance {
    static constexpr bool ends = Receiver::ends;
    static constexpr bool asks = false; // the root knows whether it is over
    template <class Value>
    using gives = received<Receiver, Value>;
    pipe_root* root;
    Receiver receiver;

    template <class Value, class From>
    gives<Value> operator()(const Value& value, From* end) {
        if (root->deaf()) {
            miss(turn::paused);
            return no_ruling<received<Receiver, Value>>();
        }
        const pipe_root::busy now(*root);
        const source_ending<From> from{root, end};
        return receiver(value, &from);
    }

private:
    template <class Source>
    struct source_ending {
        pipe_root* root;
        Source* source; ///< null where nobody ends or asks
        void operator()() const { (*source)(); }
        [[nodiscard]] bool is_over() const noexcept { return root->deaf() || (source != nullptr && source->is_over()); }
    };
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
