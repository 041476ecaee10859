// A way between processes, over a broker.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/ferry/detail/ends.hpp>
#include <courier/ferry/detail/question_door.hpp>
#include <courier/ferry/ferry_fault.hpp>
#include <courier/ferry/ferry_options.hpp>
#include <courier/ferry/guarantee.hpp>
#include <courier/ferry/link_condition.hpp>
#include <courier/ferry/peer_changed.hpp>
#include <courier/query.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>

#include <array>
#include <cstdint>
#include <memory>
#include <source_location>
#include <stdexcept>
#include <string>
#include <string_view>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {
class ferry_core;
}
template <class Question>
class remote_query; // courier: #include <courier/ferry/remote_query.hpp>

/// What a ferry has done so far.
struct ferry_report {
    std::uint64_t sent = 0;          ///< handed over to the broker, repetitions included
    std::uint64_t confirmed = 0;     ///< which it has
    std::uint64_t arrived = 0;       ///< payloads, questions and answers that passed all checks
    std::uint64_t known_already = 0; ///< that came again, and were recognised
    std::uint64_t unexpected = 0;    ///< that nothing is received from any more, or not yet
    std::uint64_t connections = 0;
    std::array<std::uint64_t, ferry_losses> lost{}; ///< by `ferry_code`

    /// How often that happened.
    [[nodiscard]] std::uint64_t of(ferry_code why) const noexcept { return lost[static_cast<std::size_t>(why)]; }
};

/// Carries chosen channels between this process and others, through a broker of MQTT 5.
/// Publishers and handlers do not know of it.
///
///     courier::ferry over{{.process = "reef-1", .host = "broker.gannet.example",
///                          .processes_topic = "gannet/processes"}};
///     over.send(boats.left(), "gannet/boats/left", {.guarantee = courier::guarantee::exactly_once});
///     over.send(oil, "gannet/reef-1/oil");                  // a state: kept by the broker
///     over.receive(boats.expected(), "gannet/boats/left");
///     ...
///     over.take_in();                                       // once a frame
///
/// Topics are those of MQTT; of something with addresses, the level '+' is the address.
/// Payloads go as CloudEvents, in JSON or CBOR, by the names of their fields: a process
/// with a field more, or one less, understands the other. What a payload does not name
/// keeps the value that its struct gives it.
///
/// The game's thread never waits for the network: `take_in()` hands over published
/// payloads, and publishes arrived ones, as coming from outside and from the process and
/// event that caused them. A received payload is not sent back to where it came from.
/// Payloads of one process on one topic arrive in the order in which they were sent.
/// docs/processes.md has the guarantees, and the settings of the broker.
///
/// Belongs to one thread, that of what it carries; sources and targets may end first, and
/// so may this, at any moment, which takes at most `ferry_options::ending` and half a
/// second. Can be neither copied nor moved.
class ferry {
public:
    /// Looks for the broker from the first `take_in()` on, so that channels declared by then
    /// miss nothing that waited there for this process; see `link()`. Throws
    /// `ferry_error` for options that cannot be.
    explicit ferry(ferry_options options);
    ferry(const ferry&) = delete;
    ferry& operator=(const ferry&) = delete;
    /// Unsent payloads go into the waiting file, or are dropped. Others hear that this
    /// process left.
    ~ferry();

    /// From now on what this channel, state or formula carries goes to that topic. Throws
    /// `ferry_error` for an invalid topic.
    template <class Source>
    void send(const Source& source, std::string_view topic, outward_options options = {},
              std::source_location where = std::source_location::current()) {
        send(detail::described_port(source), topic, options, where);
    }

    /// What comes from topics that this filter matches is published on the channel. Throws
    /// `ferry_error` for an invalid filter, and for payloads that cannot be
    /// filled from outside.
    template <class Payload>
    void receive(channel<Payload>& to, std::string_view filter, const inward_options& options = {}) {
        add_door(detail::door_to(to, "ferry"), filter, options, false);
    }
    /// Into an addressed channel: the level `+` of the filter is the address.
    template <class Payload, class Address>
    void receive(addressed_channel<Payload, Address>& to, std::string_view filter, const inward_options& options = {}) {
        add_door(detail::door_to(to, "ferry"), filter, options, true);
    }
    /// The state gets the value that comes, the latest one at once.
    template <class T, class Same>
    void receive(state<T, Same>& to, std::string_view filter, const inward_options& options = {}) {
        add_door(detail::door_to(to), filter, options, false);
    }

    /// Questions that other processes put to that topic with a `remote_query` are asked
    /// here, and their answers go back, to topics below it only. One process of a group
    /// answers, if `options.share_name` is set.
    template <class Question>
    void answer(const query<Question>& with, std::string_view topic, const inward_options& options = {}) {
        using answer_type = typename Question::answer;
        add_answers(std::make_unique<detail::question_door<Question>>(with), topic, options,
                    detail::fields_to_send<answer_type>());
    }

    /// Requests that other processes put, whose replies may come later. `fail()` counts as declined. A reply
    /// that is given when nobody waits there any longer crosses, and is passed over.
    template <class Question>
    void answer(channel<request<Question>>& with, std::string_view topic, const inward_options& options = {}) {
        add_answers(std::make_unique<detail::request_door<Question>>(with), topic, options,
                    detail::fields_to_send<typename Question::answer>());
    }

    /// Takes in arrived payloads, and hands over published ones; once a frame. Returns how
    /// many came. An exception of a handler comes out, once all are served.
    std::size_t take_in();

    /// Whether the broker is there; as of the latest `take_in()`.
    [[nodiscard]] const state<link_condition>& link() const noexcept;
    /// Other processes, as they come and go.
    [[nodiscard]] const channel<peer_changed>& peers() const noexcept;
    /// What did not cross, and why.
    [[nodiscard]] const channel<payloads_lost>& lost() const noexcept;

    /// The name of this process, from the options.
    [[nodiscard]] const std::string& process() const noexcept;
    /// Which of the process's runs this is: 16 hexadecimal digits. A recording says so, too.
    [[nodiscard]] const std::string& run() const noexcept;
    /// May be called from any thread.
    [[nodiscard]] ferry_report report() const;

private:
    template <class>
    friend class remote_query;

    void send(const detail::port& source, std::string_view topic, const outward_options& options,
              std::source_location where);
    void add_door(std::unique_ptr<detail::payload_door> door, std::string_view filter, const inward_options& options,
                  bool has_addresses);
    void add_answers(std::unique_ptr<detail::question_door_base> door, std::string_view topic,
                     const inward_options& options, const detail::field_table* answer_fields);

    std::shared_ptr<detail::ferry_core> core_;
    subscriber in_{"ferry"}; ///< ends first
};

WIRED_COURIER_NAMESPACE_END
