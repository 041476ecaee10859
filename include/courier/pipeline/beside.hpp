// Each of one source with the latest of another.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class In, class Other, class Next>
class paired_node final : public pipe_node {
public:
    explicit paired_node(Next&& to) : next_(std::move(to)) {}

    void come(const In& value) {
        if (latest_) {
            const std::pair<In, Other> both(value, latest_.copy());
            give_unless_over(next_, both, part);
        }
    }
    void note(const Other& value) { latest_.put(value); }

    part_ending part;

private:
    latest_value<Other> latest_;
    Next next_;
};

template <class In, class Node>
struct into_paired {
    static constexpr bool ends = false;
    static constexpr bool asks = false;
    template <class>
    using gives = void;
    Node* node;
    template <class From>
    void operator()(const In& value, From*) const {
        node->come(value);
    }
};
template <class Other, class Node>
struct beside_paired {
    static constexpr bool ends = false;
    static constexpr bool asks = false;
    template <class>
    using gives = void;
    Node* node;
    template <class From>
    void operator()(const Other& value, From*) const {
        node->note(value);
    }
};

template <class Upstream, class Beside>
struct paired {
    using first = typename Upstream::output_type;
    using second = typename Beside::output_type;
    using output_type = std::pair<first, second>;
    static constexpr bool single = false;
    Upstream upstream;
    Beside beside;

    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        using node_type = paired_node<first, second, Receiver>;
        node_type& node = root.add(new node_type(std::move(receiver)));
        connect_part(node, root, [&] {
            beside.connect(beside_paired<second, node_type>{&node}, root); // first, so that it is served first
            upstream.connect(into_paired<first, node_type>{&node}, root);
        });
    }
};

template <class Beside>
struct paired_how : adaptor_base {
    Beside beside;

    template <class Upstream>
    auto after(Upstream upstream) const {
        return pipeline<paired<Upstream, Beside>>({std::move(upstream), beside});
    }
};

} // namespace detail

/// Gives on each that comes, as a `std::pair` with a copy of the latest of
/// `other`; nothing before `other` has given one.
///
///     in.subscribe(bitten | courier::beside(tide), [](const auto& pair) { ... });
template <class Other>
auto beside(const Other& other) {
    using upstream = detail::upstream_t<Other>;
    return detail::paired_how<upstream>{{}, detail::upstream_of(other)};
}

WIRED_COURIER_NAMESPACE_END
