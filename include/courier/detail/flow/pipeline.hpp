// A pipeline: sources, and adaptors around them.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/delivery_options.hpp>
#include <courier/detail/delivery/kept.hpp>
#include <courier/detail/delivery/latest_value.hpp>
#include <courier/detail/flow/pipe_root.hpp>
#include <courier/detail/flow/receivers.hpp>
#include <courier/detail/flow/source_held.hpp>
#include <courier/detail/values/value_source.hpp>
#include <courier/subscription.hpp>

#include <concepts>
#include <source_location>
#include <type_traits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

/// A channel or one address of one, a state or a formula, as the beginning of
/// a pipeline.
template <class Source>
class pipe_source {
public:
    using output_type = typename Source::payload_type;
    static constexpr bool single = true;

    explicit pipe_source(const Source& source) : source_(source) {}

    template <class Receiver>
    slot* attach_receiver(Receiver&& receiver, stage place, std::source_location where, ownership whose) const {
        return attach_chain(source_.get(), std::forward<Receiver>(receiver), place, where, whose);
    }
    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        slot* const made = attach_chain(source_.get(), entrance<Receiver>{&root, std::move(receiver)}, root.place(),
                                        root.where(), root.whose());
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
/// fall was not served, and does not count in the receipt.
///
/// Delivery options are about what arrives: `times`, `condition` and `during`
/// look at the end of the pipeline, `stage` at its sources; `retained` asks the
/// sources.
template <class Upstream>
class pipeline : public detail::pipeline_base, public subscribable<pipeline<Upstream>, typename Upstream::output_type> {
public:
    using payload_type = typename Upstream::output_type;
    using output_type = payload_type;
    static constexpr bool single = Upstream::single;

    explicit pipeline(Upstream upstream) : upstream_(std::move(upstream)) {}

    /// For further adaptors.
    template <class Receiver>
    void connect(Receiver receiver, detail::pipe_root& root) const {
        upstream_.connect(std::move(receiver), root);
    }
    template <class Receiver>
    detail::slot* attach_receiver(Receiver&& receiver, stage place, std::source_location where,
                                  detail::ownership whose) const {
        return upstream_.attach_receiver(std::forward<Receiver>(receiver), place, where, whose);
    }

    /// Whether a handler of that type can be subscribed.
    template <class Handler>
    static consteval bool is_heard_by() {
        if constexpr (detail::handler_fits<Handler, payload_type>()) {
            return single || std::is_void_v<detail::handler_result<Handler, payload_type>>;
        } else {
            return false;
        }
    }

private:
    friend class subscriber;
    friend struct detail::access;

    // What it has already, for one who asked for it; see `delivery_options::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        if constexpr (single) {
            detail::serve_current_of(upstream_, s, where);
        } else {
            detail::root_of(*s).serve_current();
        }
    }

    template <class Handler>
    detail::slot* attach(Handler& handler, delivery_options<payload_type>& options, std::source_location where,
                         detail::ownership whose) const {
        if constexpr (is_heard_by<Handler>()) {
            if (detail::guards::are_in(options)) {
                return attach_last(detail::guarded_receiver<Handler>{std::move(handler), detail::guards::of(options)},
                                   options.stage, where, whose);
            }
            return attach_last(detail::last_receiver<Handler>{std::move(handler)}, options.stage, where, whose);
        } else {
            return detail::never_subscribed();
        }
    }

    template <class Receiver>
    detail::slot* attach_last(Receiver&& receiver, stage place, std::source_location where,
                              detail::ownership whose) const {
        if constexpr (single) {
            return upstream_.attach_receiver(std::forward<Receiver>(receiver), place, where, whose);
        } else {
            auto root = detail::make_owned<detail::pipe_root>(where, place, whose.on_behalf);
            upstream_.connect(std::forward<Receiver>(receiver), *root);
            return detail::anchor_root(std::move(root), where, whose.owner);
        }
    }

    Upstream upstream_;
};

namespace detail {

template <class Upstream, class F>
inline constexpr bool takes_handler<pipeline<Upstream>, F> = pipeline<Upstream>::template is_heard_by<F>();

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
    slot* attach_receiver(Receiver&& receiver, stage place, std::source_location where, ownership whose) const {
        auto around = step_.template around<typename Upstream::output_type>(std::forward<Receiver>(receiver));
        return upstream_.attach_receiver(std::move(around), place, where, whose);
    }
    template <class Receiver>
    void connect(Receiver receiver, pipe_root& root) const {
        upstream_.connect(step_.template around<typename Upstream::output_type>(std::move(receiver)), root);
    }
    void serve_current(slot* s, std::source_location where) const { serve_current_of(upstream_, s, where); }

private:
    Upstream upstream_;
    Step step_;
};

/// What is left of a pipeline whose adaptor did not fit, so that this is said once.
template <class Upstream>
struct misfit {
    using output_type = typename Upstream::output_type;
    static constexpr bool single = true;

    template <class Receiver>
    slot* attach_receiver(const Receiver&, stage, std::source_location, ownership) const {
        return never_subscribed();
    }
};
template <class Upstream, class F>
inline constexpr bool takes_handler<pipeline<misfit<Upstream>>, F> = true;

/// Whether the function, or other source, of an adaptor goes with what comes before it.
template <class Adaptor, class In>
consteval bool adaptor_fits() {
    if constexpr (requires { Adaptor::template fits<In>; }) {
        return Adaptor::template fits<In>;
    } else {
        return true;
    }
}

/// Adaptors that are steps turn a source into a longer pipeline by themselves;
/// others say how.
template <event_source Source, adaptor Adaptor>
auto operator|(const Source& source, Adaptor&& how) {
    using step = std::remove_cvref_t<Adaptor>;
    constexpr bool fits = adaptor_fits<step, typename upstream_t<Source>::output_type>();
    static_assert(fits, "courier: this adaptor does not take the payload of the source before it: a function takes it "
                        "by const reference, and overridden_by() a source of std::optionals of it");
    if constexpr (!fits) {
        return pipeline<misfit<upstream_t<Source>>>({});
    } else if constexpr (requires { how.after(upstream_of(source)); }) {
        return how.after(upstream_of(source));
    } else {
        using whole = piped<upstream_t<Source>, step>;
        return pipeline<whole>(whole(upstream_of(source), std::forward<Adaptor>(how)));
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
