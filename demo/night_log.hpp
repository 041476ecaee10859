// The log of one night: what was published, who reacted, and the sums.
#pragma once

#include "payloads.hpp"

#include <courier/addressed_publisher.hpp>
#include <courier/channel.hpp>
#include <courier/data/in_words.hpp>
#include <courier/poster.hpp>
#include <courier/publisher.hpp>

#include <cstdint>
#include <functional>
#include <map>
#include <source_location>
#include <string>
#include <string_view>
#include <vector>

namespace reef {

/// One piece of a line, so that whoever prints it may colour it.
enum class tint : std::uint8_t { plain, frame, channel, party, quiet };

struct log_piece {
    tint colour;
    std::string text;
};
using log_line = std::vector<log_piece>;

/// What a ledger counted.
struct channel_sums {
    std::string name;
    std::uint64_t published = 0;
    std::uint64_t deliveries = 0;
    std::uint64_t unheard = 0;
    std::uint64_t stopped = 0;
    bool is_offered = false; ///< by the library, whether or not anybody asks
};

class night_log {
public:
    using line_sink = std::function<void(const log_line&)>;

    explicit night_log(line_sink sink) : sink_(std::move(sink)) {}

    /// Publishes and notes it: the reactions of whoever is served stand below
    /// the line, one step further in.
    template <class Payload>
    courier::receipt publish(std::string_view who, courier::channel<Payload>& on, const Payload& payload,
                             std::source_location where = std::source_location::current()) {
        const std::size_t line = open(who, on.name(), courier::in_words(payload));
        const courier::receipt receipt = courier::publisher<Payload>(on, who).publish(payload, where);
        close(line, receipt, on.size() != 0);
        return receipt;
    }

    /// The same for one address or a group, with the words for it.
    template <class Payload, class To>
    courier::receipt publish_to(std::string_view who, const courier::addressed_publisher<Payload>& on,
                                std::string_view channel, const To& to, std::string_view to_whom,
                                const Payload& payload, std::source_location where = std::source_location::current()) {
        const std::size_t line = open(who, channel, courier::in_words(payload), to_whom);
        const courier::receipt receipt = on.publish_to(to, payload, where);
        close(line, receipt, true);
        return receipt;
    }

    /// Posts it for the end of the frame, and notes that.
    template <class Payload>
    void post(std::string_view who, const courier::poster<Payload>& on, std::string_view channel,
              const Payload& payload, std::source_location where = std::source_location::current()) {
        note(who, " posts ", channel, courier::in_words(payload));
        on.post(payload, where);
    }

    /// Notes that something is delivered which was posted, or sent by another
    /// thread, before.
    template <class Payload>
    void announce(std::string_view who, std::string_view channel, const Payload& payload) {
        note(who, ": ", channel, courier::in_words(payload));
    }

    /// Makes a listener known, so that the sums can tell who heard nothing.
    void expect(std::string_view who) { listeners_.emplace(who, 0); }

    /// Notes that a listener was served, without a line.
    void heard(std::string_view who) { ++listeners_[std::string{who}]; }

    /// Notes what somebody does about what was just published.
    void react(std::string_view who, std::string_view what);

    /// Notes something that no channel carries, such as a lamp going out.
    void remark(std::string_view text);

    void begin_frame(int frame, std::string_view phase);
    /// Hands the frame's lines on, when there are any.
    void end_frame();

    /// Listeners that were made known and never served.
    [[nodiscard]] std::vector<std::string> heard_nothing() const;

private:
    void note(std::string_view who, std::string_view how, std::string_view channel, const std::string& payload);
    std::size_t open(std::string_view who, std::string_view channel, const std::string& payload,
                     std::string_view to_whom = {});
    void close(std::size_t line, const courier::receipt& receipt, bool listeners);
    [[nodiscard]] std::string indent() const {
        return std::string(2 + 2 * static_cast<std::size_t>(depth_), ' '); // NOLINT(modernize-return-braced-init-list)
    }

    line_sink sink_;
    std::vector<log_line> lines_;
    std::map<std::string, int> listeners_; ///< times served
    log_line heading_;
    int depth_ = 0;
};

} // namespace reef
