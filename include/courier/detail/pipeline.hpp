// How a pipeline becomes handlers.
#pragma once

#include <courier/config.hpp>
#include <courier/delivery.hpp>
#include <courier/detail/handler.hpp>
#include <courier/detail/kept.hpp>
#include <courier/detail/owned.hpp>
#include <courier/detail/source_held.hpp>
#include <courier/detail/value_source.hpp>
#include <courier/subscription.hpp>
#include <courier/verdict.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <source_location>
#include <type_traits>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI {

namespace detail {

// A receiver is what a value is given to, with a way to end where it comes
// from: `next(value, end)`. It returns nothing or a verdict, as the handler at
// the end of all does, and says with `ends` whether it ever uses `end`.

/// Ends what a value came from, once nothing more can come of it.
struct ending {
    void (*act)(ending& self);
    void operator()() { act(*this); }
};

struct slot_ending : ending {
    slot* s;
    explicit slot_ending(slot& of) noexcept : s(&of) {
        act = [](ending& self) { detach(*static_cast<slot_ending&>(self).s); };
    }
};

template <class Next, class Value>
using received = decltype(std::declval<Next&>()(std::declval<const Value&>(), std::declval<ending*>()));

/// What a receiver returns that gives nothing on: nothing, or a verdict.
template <class Result>
Result no_ruling() {
    if constexpr (!std::is_void_v<Result>) {
        return verdict::go_on;
    }
}
template <class Next, class Value>
received<Next, Value> given_nothing() {
    let_fall();
    return no_ruling<received<Next, Value>>();
}

/// The user's handler.
template <class Handler>
struct last_receiver {
    static constexpr bool ends = false;
    [[no_unique_address]] Handler handler;

    template <class Value>
        requires callable<const Handler&, const Value&> || callable<const Handler&>
    auto operator()(const Value& value, ending*) const {
        return call_handler<const Handler, Value>(handler, value);
    }
    template <class Value>
    auto operator()(const Value& value, ending*) {
        return call_handler<Handler, Value>(handler, value);
    }
};

/// The same, with those of the delivery options that are about what arrives.
template <class Handler>
struct guarded_receiver {
    static constexpr bool ends = true;
    Handler handler;
    std::uint32_t times;
    condition_fn holds;

    template <class Value>
    auto operator()(const Value& value, ending* end) {
        using result = decltype(call_handler<Handler, Value>(handler, value));
        if (holds && !holds(&value)) {
            return no_ruling<result>();
        }
        if (times != 0 && --times == 0) {
            (*end)();
        }
        return call_handler<Handler, Value>(handler, value);
    }
};

/// A chain without several sources and times, as an ordinary handler: one word
/// when all that is in it is one word.
template <class Payload, class Receiver>
struct chain {
    [[no_unique_address]] Receiver receiver;

    auto operator()(const Payload& payload) const
        requires callable<const Receiver&, const Payload&, ending*>
    {
        return receiver(payload, nullptr);
    }
    auto operator()(const Payload& payload) { return receiver(payload, nullptr); }
};

/// The same of one that ends by itself, and so is called with its slot.
template <class Payload, class Receiver>
consteval handler_ops make_ending_ops() {
    handler_ops ops{};
    ops.invoke = [](void* context, const void* payload) {
        slot& s = *static_cast<slot*>(context);
        slot_ending end(s);
        Receiver& receiver = *static_cast<Receiver*>(state_of(s));
        if constexpr (std::is_void_v<received<Receiver, Payload>>) {
            receiver(*static_cast<const Payload*>(payload), &end);
        } else if (const verdict ruling = receiver(*static_cast<const Payload*>(payload), &end);
                   ruling != verdict::go_on) {
            rule(ruling, s);
        }
    };
    ops.construct = &construct_state<Receiver>;
    ops.destroy = &destroy_state_of<Receiver>;
    ops.module = &module_tag;
    ops.size = sizeof(Receiver);
    ops.align = alignof(Receiver);
    ops.traits = std::is_void_v<received<Receiver, Payload>> ? handler_takes_slot : handler_has_verdict;
    return ops;
}

template <class Payload, class Receiver>
#if defined(__GNUC__)
__attribute__((visibility("hidden")))
#endif
inline constexpr handler_ops ending_ops = make_ending_ops<Payload, Receiver>();

template <class Source, class Receiver>
slot* attach_chain(const Source& source, Receiver&& receiver, stage place, std::source_location where, party* owner) {
    using Payload = typename Source::payload_type;
    if constexpr (std::decay_t<Receiver>::ends) {
        return access::attach_ops(source, &ending_ops<Payload, std::decay_t<Receiver>>, &receiver, place, where, owner);
    } else {
        chain<Payload, std::decay_t<Receiver>> own{std::forward<Receiver>(receiver)};
        delivery<Payload> options{.stage = place};
        return access::attach(source, own, options, where, owner);
    }
}

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
    explicit pipe_root(std::source_location where, stage place) noexcept : where_(where), place_(place) {}
    pipe_root(const pipe_root&) = delete;
    pipe_root& operator=(const pipe_root&) = delete;

    /// Everything ends; memory goes once nothing of it is running.
    static void end(pipe_root& root) noexcept;

    [[nodiscard]] bool deaf() const noexcept { return ended_ || anchor == nullptr || anchor->blocked != 0; }
    [[nodiscard]] std::source_location where() const noexcept { return where_; }
    [[nodiscard]] stage place() const noexcept { return place_; }

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
    std::uint32_t busy_ = 0;
    bool ended_ = false;
    std::vector<detail::owned<pipe_node>> nodes_;
    std::vector<subscription> ins_; // after the nodes, so that they end first
    std::vector<std::function<void(slot*)>> serves_;
};

/// Ends the sources of one node.
struct part_ending : ending {
    pipe_root* root = nullptr;
    std::uint32_t from = 0;
    std::uint32_t past = 0;
    part_ending() noexcept
        : ending{[](ending& self) {
              auto& part = static_cast<part_ending&>(self);
              part.root->end_sources(part.from, part.past);
          }} {}
};

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
    pipe_root* root;
    Receiver receiver;

    template <class Value>
    auto operator()(const Value& value, ending* end) {
        if (root->deaf()) {
            skip(nullptr, nullptr);
            return no_ruling<received<Receiver, Value>>();
        }
        const pipe_root::busy now(*root);
        return receiver(value, end);
    }
};

/// A channel or one address of one, a state or a formula, as the beginning of
/// a pipeline.
template <class Source>
class pipe_source {
public:
    using output_type = typename Source::payload_type;
    static constexpr bool single = true;

    explicit pipe_source(const Source& source) : source_(source) {}

    template <class Receiver>
    slot* attach_receiver(Receiver&& receiver, stage place, std::source_location where, party* owner) const {
        return attach_chain(source_.get(), std::forward<Receiver>(receiver), place, where, owner);
    }
    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        slot* const made = attach_chain(source_.get(), entrance<Receiver>{&root, std::move(receiver)}, root.place(),
                                        root.where(), nullptr);
        root.add(access::own<subscription>(made),
                 [source = source_, where = root.where()](slot* s) { serve_current_of(source.get(), s, where); });
    }
    void serve_current(slot* s, std::source_location where) const { serve_current_of(source_.get(), s, where); }

private:
    source_held<Source> source_;
};

struct adaptor_base {};

template <class T>
concept adaptor = std::derived_from<std::remove_cvref_t<T>, adaptor_base>;
template <class T>
concept event_source = pipeline_like<T> || requires(const T& source) {
    typename T::payload_type;
    source.subscribe([] {});
};

} // namespace detail

/// A source seen through adaptors. A value: copy it, keep it, subscribe to it
/// as to a channel, as often as you like; until then it costs nothing. Its
/// sources must outlive the pipeline, but not its subscriptions.
///
/// Without several sources and without alarms it is one handler on one
/// subscription, which costs what the same written in one lambda does. Each
/// subscription has its own counters, folds and windows. A payload that it lets
/// fall counts as served, as it would in a lambda that looks and returns.
///
/// Delivery options are about what arrives: `times`, `condition` and `during`
/// look at the end of the pipeline, `stage` at its sources; `retained` asks the
/// sources.
template <class Upstream>
class pipeline : public detail::pipeline_base {
public:
    using payload_type = typename Upstream::output_type;
    using output_type = payload_type;
    static constexpr bool single = Upstream::single;

    explicit pipeline(Upstream upstream) : upstream_(std::move(upstream)) {}

    /// As `channel::subscribe()`.
    template <class Handler>
    subscription subscribe(Handler&& handler, delivery<payload_type> options = {},
                           std::source_location where = std::source_location::current()) const {
        std::decay_t<Handler> own(std::forward<Handler>(handler));
        return detail::keep_subscription(*this, attach(own, options, where, nullptr), options.retained, where);
    }

    /// For subscribers; see `delivery::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        if constexpr (single) {
            upstream_.serve_current(s, where);
        } else {
            detail::root_of(*s).serve_current();
        }
    }

    /// For further adaptors.
    template <class Receiver>
    void connect(Receiver receiver, detail::pipe_root& root) const {
        upstream_.connect(std::move(receiver), root);
    }
    template <class Receiver>
    detail::slot* attach_receiver(Receiver&& receiver, stage place, std::source_location where,
                                  detail::party* owner) const {
        return upstream_.attach_receiver(std::forward<Receiver>(receiver), place, where, owner);
    }

private:
    friend class subscriber;
    friend struct detail::access;

    template <class Handler>
    detail::slot* attach(Handler& handler, delivery<payload_type>& options, std::source_location where,
                         detail::party* owner) const {
        if constexpr (detail::check_handler<Handler, payload_type>()) {
            if (detail::condition_fn guard = detail::guard_of(options); guard || options.times != 0) {
                return attach_last(
                    detail::guarded_receiver<Handler>{std::move(handler), options.times, std::move(guard)},
                    options.stage, where, owner);
            }
            return attach_last(detail::last_receiver<Handler>{std::move(handler)}, options.stage, where, owner);
        } else {
            return nullptr;
        }
    }

    template <class Receiver>
    detail::slot* attach_last(Receiver&& receiver, stage place, std::source_location where,
                              detail::party* owner) const {
        if constexpr (single) {
            return upstream_.attach_receiver(std::forward<Receiver>(receiver), place, where, owner);
        } else {
            static_assert(std::is_void_v<detail::received<Receiver, payload_type>>,
                          "courier: a handler of several sources, or of what waited, gives no verdict, since there is "
                          "no one publish that it could stop");
            const detail::meanwhile<const detail::party*> who(detail::this_oversight.on_behalf, owner);
            auto root = detail::make_owned<detail::pipe_root>(where, place);
            upstream_.connect(std::forward<Receiver>(receiver), *root);
            return detail::anchor_root(std::move(root), where, owner);
        }
    }

    Upstream upstream_;
};

namespace detail {

/// A source as the beginning of a pipeline, or a pipeline as it is.
template <class Source>
auto upstream_of(const Source& source) {
    if constexpr (pipeline_like<Source>) {
        return source;
    } else {
        return pipe_source<Source>(source);
    }
}
template <class Source>
using upstream_t = decltype(upstream_of(std::declval<const Source&>()));

/// One adaptor that is a receiver around the next one.
template <class Upstream, class Step>
class piped {
public:
    using output_type = typename Step::template output<typename Upstream::output_type>;
    static constexpr bool single = Upstream::single;

    piped(Upstream upstream, Step step) : upstream_(std::move(upstream)), step_(std::move(step)) {}

    template <class Receiver>
    slot* attach_receiver(Receiver&& receiver, stage place, std::source_location where, party* owner) const {
        auto around = step_.template around<typename Upstream::output_type>(std::forward<Receiver>(receiver));
        return upstream_.attach_receiver(std::move(around), place, where, owner);
    }
    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        upstream_.connect(step_.template around<typename Upstream::output_type>(std::move(receiver)), root);
    }
    void serve_current(slot* s, std::source_location where) const { upstream_.serve_current(s, where); }

private:
    Upstream upstream_;
    Step step_;
};

/// Adaptors that are steps turn a source into a longer pipeline by themselves;
/// others say how.
template <event_source Source, adaptor Adaptor>
auto operator|(const Source& source, Adaptor&& how) {
    using step = std::remove_cvref_t<Adaptor>;
    if constexpr (requires { how.after(upstream_of(source)); }) {
        return how.after(upstream_of(source));
    } else {
        using whole = piped<upstream_t<Source>, step>;
        return pipeline<whole>(whole(upstream_of(source), std::forward<Adaptor>(how)));
    }
}

} // namespace detail
} // namespace courier::inline WIRED_COURIER_ABI
