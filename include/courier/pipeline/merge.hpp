// Several sources as one.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

#include <tuple>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Next>
class merge_node final : public pipe_node {
public:
    explicit merge_node(Next&& to) : next(std::move(to)) {}
    part_ending part;
    Next next;
};

template <class In, class Next>
struct into_merge {
    static constexpr bool ends = false;
    static constexpr bool asks = false;
    template <class>
    using gives = void;
    merge_node<Next>* node;
    template <class From>
    void operator()(const In& value, From*) const {
        node->next(value, &node->part);
    }
};

template <class First, class... Others>
struct merged {
    using output_type = typename First::output_type;
    static_assert((std::is_same_v<output_type, typename Others::output_type> && ...),
                  "courier: merged sources carry one type; convert them with courier::transform");
    static constexpr bool single = false;
    std::tuple<First, Others...> upstreams;

    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        auto& node = root.add(new merge_node<Receiver>(std::move(receiver)));
        connect_part(node, root, [&] {
            std::apply(
                [&](const auto&... upstream) {
                    (upstream.connect(into_merge<output_type, Receiver>{&node}, root), ...);
                },
                upstreams);
        });
    }
};

} // namespace detail

/// Everything that comes from any of `sources`, channels or pipelines that
/// carry one type, in the order in which it comes.
///
///     in.subscribe(courier::merge(port.moored(), starboard.moored()), handler);
template <class First, class... Others>
auto merge(const First& first, const Others&... others) {
    using whole = detail::merged<detail::upstream_t<First>, detail::upstream_t<Others>...>;
    return pipeline<whole>(whole{{detail::upstream_of(first), detail::upstream_of(others)...}});
}

WIRED_COURIER_NAMESPACE_END
