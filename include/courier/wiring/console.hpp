// Payloads published and actions called by their names.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/channel.hpp>
#include <courier/coded_fault.hpp>
#include <courier/config.hpp>
#include <courier/data/detail/payload_door.hpp>
#include <courier/data/json_fault.hpp>
#include <courier/fields.hpp>
#include <courier/hub.hpp>
#include <courier/receipt.hpp>
#include <courier/state.hpp>
#include <courier/wiring/catalogue.hpp>
#include <courier/wiring/wiring.hpp>

#include <cstdint>
#include <memory>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// Each has a stable text form, see `id_of()`.
enum class console_code : std::uint8_t {
    unknown_name, ///< nothing of that name is accepted, or not any more
    does_not_fit, ///< the fields, or the address
    no_object,    ///< the action is for objects, and the one that was named is not there
    failed,       ///< a handler or the action threw, or the action failed
};

WIRED_COURIER_ENUM_AS(console_code, unknown_name, "courier.console.unknown-name", does_not_fit,
                      "courier.console.does-not-fit", no_object, "courier.console.no-object", failed,
                      "courier.console.failed")

/// Such as "courier.console.unknown-name".
[[nodiscard]] std::string_view id_of(console_code code) noexcept;

/// Why something was not done. `where` is the name that was used.
using console_fault = coded_fault<console_code>;

/// What a console answers.
struct console_answer {
    std::optional<console_fault> fault; ///< empty: it was done
    std::vector<json_fault> misfits;    ///< of `console_code::does_not_fit`, by JSON pointer
    receipt served;                     ///< of a payload
    std::string answer;                 ///< of an action, as JSON; empty if it answers nothing

    /// Whether it was done.
    [[nodiscard]] explicit operator bool() const noexcept { return !fault; }
};

/// Publishes payloads and calls actions by their names, with their fields as JSON: for the console of a developer's
/// build, cheats, scripts and tests. A gateway does it for requests.
///
///     courier::console typed;
///     typed.accept(match);                                          // all channels of a hub
///     typed.accept(wires);                                          // all actions of a wiring
///     typed.accept(tide);                                           // a state: the action "set tide"
///     typed.publish("door.opened", R"({"door": 4})");
///     typed.call("bell.ring", R"({"strokes": 2})", "north bell");
///
/// Nothing happens unless all of it fits. What it accepts may end first, but for states. Belongs to the thread of what
/// it accepts. Handlers and actions may destroy it. Can be neither copied nor moved.
class console {
public:
    /// `name` is copied; ledgers and recordings have it as the publisher.
    explicit console(std::string_view name = "console");
    console(const console&) = delete;
    console& operator=(const console&) = delete;
    ~console();

    /// A channel, by its name. The latest of several of one name counts.
    template <class Payload>
    void accept(channel<Payload>& to) {
        add(detail::door_to(to, name_));
    }
    /// An addressed channel: a payload is for one address.
    template <class Payload, class Address>
    void accept(addressed_channel<Payload, Address>& to) {
        add(detail::door_to(to, name_));
    }
    /// All channels of a hub and of the hubs below it, now and later, but for payloads that cannot be filled, and
    /// addresses that cannot be read.
    void accept(hub& all);
    /// A state, by the action "set NAME" with the parameter `value`. It must outlive the console.
    template <class T, class Same>
    void accept(state<T, Same>& of, std::source_location where = std::source_location::current()) {
        settings().offer_setting(in_, of, where);
        accept(settings(), "set " + of.name());
    }
    /// All actions of a wiring, now and later; or one, which may be offered later.
    void accept(wiring& of, std::string_view action = {});

    /// Whether a payload can be published under this name, now.
    [[nodiscard]] bool publishes(std::string_view name) const noexcept;
    /// Publishes a payload. `fields` is a JSON object, or empty; `at` is an address, which a channel with addresses
    /// needs.
    console_answer publish(std::string_view name, std::string_view fields = {}, std::string_view at = {},
                           std::source_location where = std::source_location::current()) const;

    /// Whether an action can be called by this name, now.
    [[nodiscard]] bool calls(std::string_view name) const noexcept;
    /// Calls an action. `parameters` is a JSON object, or empty; `at` is the name of an object, which an action for
    /// objects needs.
    console_answer call(std::string_view action, std::string_view parameters = {}, std::string_view at = {},
                        std::source_location where = std::source_location::current()) const;

    /// Adds everything that can be published or called to `all`, as actions, and the objects.
    void list(catalogue& all) const;

private:
    struct parts;

    void add(std::unique_ptr<detail::payload_door> door);
    wiring& settings();

    std::string name_;
    std::unique_ptr<parts> parts_;
    subscriber in_;
};

WIRED_COURIER_NAMESPACE_END
