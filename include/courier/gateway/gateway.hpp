// A way out of the program, and back in: for pages, panels and other programs.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/gateway/detail/ends.hpp>
#include <courier/gateway/gateway_fault.hpp>
#include <courier/gateway/gateway_options.hpp>
#include <courier/hub.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/run.hpp>
#include <courier/subscriber.hpp>
#include <courier/wiring/console.hpp>
#include <courier/wiring/wiring.hpp>

#include <array>
#include <cstdint>
#include <memory>
#include <source_location>
#include <stdexcept>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {
class gateway_core;
class hub_watch;
}

/// What a gateway has done so far.
struct gateway_report {
    std::uint64_t requests = 0; ///< that were answered, refused ones not counted
    std::uint64_t calls = 0;    ///< actions and payloads that came to the game
    std::uint64_t events = 0;   ///< sent to the stream of values
    std::uint64_t left_out = 0; ///< for which there was no room on the way there
    std::size_t connections = 0;
    std::size_t readers = 0;
    std::array<std::uint64_t, gateway_refusals> refused{}; ///< by `gateway_code`

    /// How often that was refused.
    [[nodiscard]] std::uint64_t of(gateway_code why) const noexcept { return refused[static_cast<std::size_t>(why)]; }
};

/// An HTTP server beside the game, on threads of its own: shown channels and values go out as
/// server-sent events, accepted actions come in by POST, and nothing else does.
///
///     courier::gateway out{{.port = 8080, .folder = "hud"}};
///     out.show(health);                              // a state: its value, and each new one
///     out.show(boats.moored());                      // a channel
///     out.accept(wires, "bell.ring");                // an action
///     out.show(night);                               // a ledger: all of it, for the page at /page
///     ...
///     out.take_in();                                 // once a frame
///
/// docs/interfaces.md lists the addresses. The game's thread never waits for a reader
/// or a request: a payload is packed once, however many read it, and handed over
/// by `take_in()`; requests are delivered there, at most
/// `gateway_options::calls_per_frame` each time, as coming from outside. Sources may end
/// first, and so may this, at any moment: it takes no longer than a few milliseconds.
///
/// Belongs to one thread, that of what it shows and accepts; `report()`, `address()`
/// and `token()` may be called from any. Throws `gateway_error` when it cannot listen or has no folder.
/// Can be neither copied nor moved.
class gateway {
public:
    /// Listens from now on. Throws `gateway_error` when it cannot, or has no folder.
    explicit gateway(gateway_options options = {});
    gateway(const gateway&) = delete;
    gateway& operator=(const gateway&) = delete;
    /// Readers get an event `over`.
    ~gateway();

    /// From now on everybody may read it: a channel, a state or a formula whose payload's
    /// fields are known (courier/fields.hpp). A retained payload is shown at once.
    // clang-format off
    template <class Source>
        requires(!std::is_same_v<run, Source> && !std::is_same_v<hub, Source>)
    void show(const Source& source, std::source_location where = std::source_location::current()) {
        show(detail::described_port(source), where);
    }
    // clang-format on
    /// All channels of a hub and of the hubs below it, now and later, whose payloads' fields are
    /// known. The hub may end first.
    void show(hub& all, std::source_location where = std::source_location::current());
    /// Shows everything that a recording would have: events, subscriptions, frames; for
    /// the page. One ledger, which may end first.
    void show(ledger& all);

    /// A recording, as the page shows it; in place of a ledger.
    void show(const run& recorded);

    /// Payloads for this channel may come in.
    template <class Payload>
    void accept(channel<Payload>& to) {
        accepted().accept(to);
    }
    /// A payload is for one address, which the request names (`?at=`); without one it is refused.
    template <class Payload, class Address>
    void accept(addressed_channel<Payload, Address>& to) {
        accepted().accept(to);
    }
    /// Payloads for all channels of a hub and of the hubs below it, now and later, may come in, but
    /// for payloads that cannot be filled, and addresses that cannot be read, from outside.
    void accept(hub& all);
    /// This state may be set, by the action "set NAME" with the parameter `value`. It must outlive the gateway.
    template <class T, class Same>
    void accept(state<T, Same>& of, std::source_location where = std::source_location::current()) {
        accepted().accept(of, where);
    }
    /// This action may be called. Throws `gateway_error` when the wiring has none
    /// of that name.
    void accept(wiring& of, std::string_view action);
    /// All actions that it has, now and later.
    void accept_actions(wiring& of);
    /// Its wires may be looked at, tried, and changed in the files in force.
    void accept_edits(wiring& of);

    /// Takes in requests, and hands over published payloads; once a frame.
    std::size_t take_in();

    /// Refusals, once a frame for each kind.
    [[nodiscard]] const channel<requests_refused>& refused() const noexcept;

    /// "http://127.0.0.1:8080/".
    [[nodiscard]] const std::string& address() const noexcept;
    /// What a request has to bring that changes something. From any thread.
    [[nodiscard]] const std::string& token() const noexcept;
    /// The page, with the token behind a '#', which browsers keep to themselves.
    [[nodiscard]] std::string page_address() const;
    /// Counts so far. From any thread.
    [[nodiscard]] gateway_report report() const;

private:
    void show(const detail::port& one, std::source_location where);
    [[nodiscard]] console& accepted() noexcept;

    std::shared_ptr<detail::gateway_core> core_;
    subscriber in_{"gateway"};
    std::vector<std::unique_ptr<detail::hub_watch>> hubs_; ///< end first
};

WIRED_COURIER_NAMESPACE_END
