// Messages that wait for the broker, in memory and in a file.
// SPDX-License-Identifier: MIT
#pragma once

#include "ferry/losses.hpp"
#include "ferry/outward/kept_messages.hpp"
#include "ferry/outward/outward_message.hpp"
#include "ferry/outward/waiting_file.hpp"

#include <courier/config.hpp>

#include <chrono>
#include <cstddef>
#include <list>
#include <memory>
#include <string>
#include <string_view>
#include <unordered_map>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// In the order in which they are sent: those in memory that came first, those in the
/// file, those in memory behind them. Belongs to the ferry's thread.
class waiting_room {
public:
    /// `file` may be null. What was confirmed less than `sent_again` before the link broke is
    /// sent again.
    waiting_room(std::size_t most, std::chrono::milliseconds sent_again, std::unique_ptr<waiting_file> file,
                 losses& lost);

    /// One more. Where there is no room it is let go, and counted.
    void add(outward_message&& one, bool broker_is_there);
    /// The next one to be sent; null: there is none. It stays until `sent()` or `drop()`.
    [[nodiscard]] outward_message* next();
    /// The next one was handed over: it waits for its confirmation under this number.
    void sent(int number);
    /// It will not be sent; `why` is counted.
    void drop(ferry_code why, std::string_view what);
    /// The broker has it, or does not take it.
    void confirmed(int number, std::string_view why_not);

    /// The broker is away: what it has not confirmed, or may have forgotten, waits again in its
    /// old order; what has to outlive the process goes into the file, and what is only
    /// promised at most once is let go.
    void broker_went();
    /// It is there again, and knows nothing of this process: what it is to keep waits again, too.
    void broker_forgot();
    /// The process ends: the same for all that is left; what has no place is let go.
    void close();

    [[nodiscard]] std::size_t unconfirmed() const noexcept { return sent_.size(); }
    [[nodiscard]] bool is_empty() const noexcept {
        return front_.empty() && sent_.empty() && behind_.empty() && (file_ == nullptr || file_->is_empty());
    }

private:
    using list = std::list<outward_message>;

    void keep(list& in, outward_message&& one);
    outward_message take(list& of, list::iterator one);
    [[nodiscard]] bool replaces_one(outward_message& one);
    [[nodiscard]] bool put_into_file(const outward_message& one);
    void read_file();
    [[nodiscard]] bool goes_to_file(const outward_message& one, bool broker_is_there) const;
    void file_is_done();
    void send_again(list& from);
    void file_front();
    void forget_late();
    void forget_settled(std::chrono::steady_clock::time_point until);

    const std::size_t most_;
    const std::chrono::milliseconds sent_again_;
    std::unique_ptr<waiting_file> file_;
    losses& lost_;
    list front_;
    list behind_;                                            ///< what the file had no room for
    std::unordered_map<std::string, list::iterator> latest_; ///< waiting in `front_`, by topic
    list sent_;
    list settled_;                                    ///< confirmed lately, the oldest first
    std::unordered_map<int, list::iterator> numbers_; ///< of their confirmations
    kept_messages kept_;                              ///< that were confirmed
    std::size_t bytes_ = 0;                           ///< of all but `settled_` and `kept_`
    std::size_t settled_bytes_ = 0;
    std::size_t from_file_ = 0; ///< read from it, and not confirmed
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
