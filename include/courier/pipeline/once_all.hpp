// All of several sources, once each has given one.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

#include <cstddef>
#include <optional>
#include <tuple>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Next, class... Ins>
class gather_node final : public pipe_node {
public:
    explicit gather_node(Next&& to) : next_(std::move(to)) {}

    template <std::size_t I, class In>
    void come(const In& value) {
        if (done_) {
            return;
        }
        std::get<I>(came_).put(value);
        if (std::apply([](const auto&... one) { return (static_cast<bool>(one) && ...); }, came_)) {
            done_ = true;
            part();
            const auto all = std::apply([](auto&... one) { return std::tuple<Ins...>(one.take()...); }, came_);
            give_unless_over(next_, all, part);
        }
    }

    part_ending part;

private:
    bool done_ = false;
    std::tuple<latest_value<Ins>...> came_;
    Next next_;
};

template <std::size_t I, class In, class Node>
struct into_gather {
    static constexpr bool ends = false;
    static constexpr bool asks = false;
    template <class>
    using gives = void;
    Node* node;
    template <class From>
    void operator()(const In& value, From*) const {
        node->template come<I>(value);
    }
};

template <class... Upstreams>
struct gathered {
    using output_type = std::tuple<typename Upstreams::output_type...>;
    static constexpr bool single = false;
    std::tuple<Upstreams...> upstreams;

    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        using node_type = gather_node<Receiver, typename Upstreams::output_type...>;
        node_type& node = root.add(new node_type(std::move(receiver)));
        connect_part(node, root, [&] { connect_each(node, root, std::index_sequence_for<Upstreams...>{}); });
    }

private:
    template <class Node, std::size_t... I>
    void connect_each(Node& node, pipe_root& root, std::index_sequence<I...>) const {
        (std::get<I>(upstreams).connect(into_gather<I, std::tuple_element_t<I, output_type>, Node>{&node}, root), ...);
    }
};

} // namespace detail

/// Waits until each of `sources` has given one, then gives a `std::tuple` with
/// copies of the latest of each, once; the subscription ends, just before.
template <class... Sources>
auto once_all(const Sources&... sources) {
    using whole = detail::gathered<detail::upstream_t<Sources>...>;
    return pipeline<whole>(whole{{detail::upstream_of(sources)...}});
}

WIRED_COURIER_NAMESPACE_END
