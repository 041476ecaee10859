// SPDX-License-Identifier: MIT
#include <courier/detail/later/sending_log.hpp>

#include "base/of_this_thread.hpp"

#include <courier/detail/later/inbox_core.hpp>

#include <algorithm>
#include <iterator>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t largest_chunk = std::size_t{64} * 1024;

log_chunk* new_chunk(std::size_t bytes) {
    void* const memory = ::operator new(sizeof(log_chunk) + bytes);
    auto* const chunk = ::new (memory) log_chunk{nullptr, nullptr};
    chunk->end = chunk->begin() + bytes;
    return chunk;
}

void delete_chunks(log_chunk* first) noexcept {
    while (first != nullptr) {
        ::operator delete(std::exchange(first, first->next));
    }
}

} // namespace

sending_log::~sending_log() {
    delete_chunks(reading_); // and on to the one that is written
    delete_chunks(spare_);
    delete_chunks(given_back_.load(std::memory_order_acquire));
}

log_chunk* sending_log::take_spare(std::size_t bytes) noexcept {
    for (const bool again : {true, false}) {
        for (log_chunk** at = &spare_; *at != nullptr; at = &(*at)->next) {
            if (static_cast<std::size_t>((*at)->end - (*at)->begin()) >= bytes) {
                return std::exchange(*at, (*at)->next);
            }
        }
        if (again) {
            log_chunk** end = &spare_;
            while (*end != nullptr) {
                end = &(*end)->next;
            }
            *end = given_back_.exchange(nullptr, std::memory_order_acquire);
        }
    }
    return nullptr;
}

void sending_log::reserve(std::size_t bytes) {
    if (writing_ != nullptr && bytes <= static_cast<std::size_t>(last_ - write_)) {
        return;
    }
    const std::size_t needed = bytes + sizeof(message_head);
    log_chunk* chunk = take_spare(needed);
    if (chunk == nullptr) {
        chunk = new_chunk(std::max(needed, next_bytes_));
        next_bytes_ = std::min(next_bytes_ * 2, largest_chunk);
    }
    chunk->next = nullptr;
    if (writing_ == nullptr) {
        read_ = chunk->begin();
        reading_ = chunk;
    } else {
        writing_->next = chunk;
        ::new (write_) message_head(nullptr);
    }
    writing_ = chunk;
    write_ = chunk->begin();
    last_ = chunk->end - sizeof(message_head);
}

void sending_log::next_chunk() noexcept {
    log_chunk* const done = std::exchange(reading_, reading_->next);
    read_ = reading_->begin();
    done->next = given_back_.load(std::memory_order_relaxed);
    while (!given_back_.compare_exchange_weak(done->next, done, std::memory_order_release, std::memory_order_relaxed)) {
    }
}

std::uint64_t sending_log::measure() noexcept {
    const bool gone = writer_gone_.load(std::memory_order_acquire);
    goal_ = sent_.load(std::memory_order_seq_cst);
    over_ = gone || (single_ && goal_ != 0);
    return goal_ - taken_;
}

thread_local constinit log_at_hand own_logs_at_hand[logs_at_hand];

namespace {

/// The logs of one thread.
class own_logs {
public:
    own_logs() = default;
    own_logs(const own_logs&) = delete;
    own_logs& operator=(const own_logs&) = delete;
    ~own_logs();

    [[nodiscard]] sending_log* find(std::uint64_t inbox) const noexcept {
        for (const entry& e : entries_) {
            if (e.inbox == inbox) {
                return e.log;
            }
        }
        return nullptr;
    }

    /// So that `add()` cannot fail.
    void make_room() {
        if (entries_.size() == entries_.capacity()) {
            std::erase_if(entries_, [](const entry& e) { return e.core.expired(); });
            entries_.reserve(std::max<std::size_t>(4, entries_.size() * 2));
        }
    }
    void add(const shared<inbox_core>& core, sending_log& log) noexcept {
        entries_.push_back({core->number, core, &log});
    }

private:
    struct entry {
        std::uint64_t inbox;
        weak<inbox_core> core; ///< owns the log
        sending_log* log;
    };
    std::vector<entry> entries_;
};

constinit thread_local bool logs_have_ended = false; // without a destructor, so it may be read at the thread's end

own_logs::~own_logs() {
    logs_have_ended = true;
    std::fill(std::begin(own_logs_at_hand), std::end(own_logs_at_hand), log_at_hand{});
    for (const entry& e : entries_) {
        if (const shared<inbox_core> core = e.core.lock(); core != nullptr) {
            core->writers.fetch_sub(1, std::memory_order_relaxed);
            if (e.log->leave() != 0 && core->limit != unbounded) {
                core->room.fetch_add(e.log->leave(), std::memory_order_relaxed);
            }
            e.log->writer_ends();
        }
    }
}

void give_to_owner(inbox_core& core, sending_log& log) noexcept {
    log.next = core.new_logs.load(std::memory_order_relaxed);
    while (!core.new_logs.compare_exchange_weak(log.next, &log, std::memory_order_seq_cst, std::memory_order_relaxed)) {
    }
}

} // namespace

sending_log* find_log(std::uint64_t inbox) noexcept {
    if (logs_have_ended) {
        return nullptr;
    }
    sending_log* const log = of_this_thread<own_logs>().find(inbox);
    if (log != nullptr) {
        own_logs_at_hand[inbox % logs_at_hand] = {inbox, log};
    }
    return log;
}

bool thread_ends() noexcept {
    return logs_have_ended;
}

sending_log& make_log(const shared<inbox_core>& core, std::size_t grant, std::size_t bytes, bool for_one) {
    auto made = make_owned<sending_log>();
    made->reserve(bytes);
    made->grant(grant);
    if (for_one) {
        made->for_one_only();
    } else {
        of_this_thread<own_logs>().make_room();
        of_this_thread<own_logs>().add(core, *made);
        own_logs_at_hand[core->number % logs_at_hand] = {core->number, made.get()};
        core->writers.fetch_add(1, std::memory_order_relaxed);
    }
    sending_log& log = *made.release();
    give_to_owner(*core, log);
    return log;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
