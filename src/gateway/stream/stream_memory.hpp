// The latest messages of a stream, for readers that come, keep up, or come back.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <chrono>
#include <condition_variable>
#include <cstddef>
#include <cstdint>
#include <deque>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Where a message begins in its batch's text, and what it is about. Each ends where the
/// next one begins.
struct message_mark {
    std::uint32_t source;
    std::uint32_t begin;
};

/// Messages that were written at once, as they are sent; never changed once it is shared.
struct message_batch {
    std::uint64_t first = 0; ///< number of the first message
    std::string text;
    std::vector<message_mark> marks;

    [[nodiscard]] std::uint64_t past() const noexcept { return first + marks.size(); }
    /// From that number on.
    [[nodiscard]] std::string_view from(std::uint64_t number) const noexcept;
    /// The same, of those only that are wanted.
    void append_wanted(std::uint64_t number, const std::function<bool(std::uint32_t)>& wanted, std::string& to) const;
};
using shared_batch = std::shared_ptr<const message_batch>;

/// What one who comes late has to know: a message without its number, by a key whose
/// lower half is the source. Empty: nothing any more.
using kept_message = std::pair<std::uint64_t, std::string>;

class stream_memory {
public:
    /// `most`: bytes of messages.
    explicit stream_memory(std::size_t most);

    /// Adds messages, whose batch begins with the number `next()` or, if some were left
    /// out, a later one.
    void add(message_batch&& batch, std::vector<kept_message>&& kept);
    [[nodiscard]] std::uint64_t next() const;
    /// Wakes all readers; nothing more will come.
    void close();

    /// Numbers are told with this in front, so that those of another run are not taken
    /// for this one's: "5f0c-17".
    [[nodiscard]] const std::string& run() const noexcept { return run_; }

    struct beginning {
        std::vector<std::string> kept; ///< in the order of their keys
        std::vector<shared_batch> batches;
        std::uint64_t next = 0; ///< after these
        std::uint64_t lost = 0; ///< since the one that was named
        bool is_other_run = false;
    };
    /// For one who comes: `last` is what it knows already, or empty. `with_latest`: one
    /// who knows nothing wants the messages that are remembered, too.
    [[nodiscard]] beginning begin(std::string_view last, bool with_latest,
                                  const std::function<bool(std::uint32_t)>& wanted) const;

    struct taken {
        std::vector<shared_batch> batches; ///< a megabyte at most, if there is more than one
        std::uint64_t from = 0;            ///< the first one that is wanted
        std::uint64_t lost = 0;            ///< that are not remembered any more
        std::uint64_t left_out = 0;        ///< that nobody could be sent
        bool is_over = false;
    };
    /// What has come from `next` on, waited for a while; `next` is moved past it.
    [[nodiscard]] taken take(std::uint64_t& next, std::chrono::milliseconds at_most) const;

private:
    [[nodiscard]] std::uint64_t oldest() const noexcept { return batches_.empty() ? next_ : batches_.front()->first; }

    const std::size_t most_;
    const std::string run_;
    mutable std::mutex guard_;
    mutable std::condition_variable news_;
    std::deque<shared_batch> batches_;
    std::size_t bytes_ = 0;
    std::uint64_t next_ = 1;
    std::map<std::uint64_t, std::string> kept_;
    bool is_over_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
