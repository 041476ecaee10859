// One source that takes precedence over another for a while.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/pipeline.hpp>

#include <optional>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class In, class Next>
class overridden_node final : public pipe_node {
public:
    explicit overridden_node(Next&& to) : next_(std::move(to)) {}

    void come_under(const In& value) {
        under_.put(value);
        if (!held_) {
            give_unless_over(next_, value, part);
        }
    }
    void come_over(const std::optional<In>& value) {
        const bool let_go = held_ && !value;
        held_ = value.has_value();
        if (value) {
            next_(*value, &part);
        } else if (let_go && under_) {
            const In again = under_.copy(); // its use may bring the next one
            give_unless_over(next_, again, part);
        }
    }

    part_ending part;

private:
    latest_value<In> under_;
    bool held_ = false;
    Next next_;
};

template <class In, class Node>
struct under_receiver {
    static constexpr bool ends = false;
    static constexpr bool asks = false;
    template <class>
    using gives = void;
    Node* node;
    template <class From>
    void operator()(const In& value, From*) const {
        node->come_under(value);
    }
};
template <class In, class Node>
struct over_receiver {
    static constexpr bool ends = false;
    static constexpr bool asks = false;
    template <class>
    using gives = void;
    Node* node;
    template <class From>
    void operator()(const std::optional<In>& value, From*) const {
        node->come_over(value);
    }
};

template <class Upstream, class Over>
struct overridden {
    using output_type = typename Upstream::output_type;
    static constexpr bool single = false;
    Upstream upstream;
    Over over;

    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        using node_type = overridden_node<output_type, Receiver>;
        node_type& node = root.add(new node_type(std::move(receiver)));
        connect_part(node, root, [&] {
            over.connect(over_receiver<output_type, node_type>{&node}, root);
            upstream.connect(under_receiver<output_type, node_type>{&node}, root);
        });
    }
};

template <class Over>
struct overridden_how : adaptor_base {
    template <class In>
    static constexpr bool fits = std::is_same_v<typename Over::output_type, std::optional<In>>;
    Over over;

    template <class Upstream>
    auto after(Upstream upstream) const {
        return pipeline<overridden<Upstream, Over>>({std::move(upstream), over});
    }
};

} // namespace detail

/// Gives on what comes, but while the latest of `over`, which carries
/// `std::optional`s of the same type, holds a value, that one instead. When
/// `over` lets go (an empty optional), the latest that came meanwhile, or
/// before, is given again, if there is one.
///
///     auto posture = under_sail | courier::overridden_by(taking_water | courier::transform(
///         [](const TakingWater& w) { return w.holds ? std::optional{posture::low} : std::nullopt; }));
template <class Over>
auto overridden_by(const Over& over) {
    using upstream = detail::upstream_t<Over>;
    return detail::overridden_how<upstream>{{}, detail::upstream_of(over)};
}

WIRED_COURIER_NAMESPACE_END
