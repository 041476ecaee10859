// The way to the broker, on a thread of its own.
// SPDX-License-Identifier: MIT
#pragma once

#include "ferry/inward/inward_route.hpp"
#include "ferry/inward/message_reader.hpp"
#include "ferry/losses.hpp"
#include "ferry/mqtt/mqtt_client.hpp"
#include "ferry/outward/outward_box.hpp"
#include "ferry/outward/outward_message.hpp"
#include "ferry/outward/waiting_room.hpp"

#include <courier/config.hpp>
#include <courier/ferry/ferry_fault.hpp>

#include <courier/ferry/ferry_options.hpp>
#include <courier/ferry/link_condition.hpp>
#include <courier/inbox.hpp>
#include <courier/inlet.hpp>

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <cstdint>
#include <deque>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <unordered_map>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A descriptor on which a thread can be woken out of poll().
class waker {
public:
    waker();
    waker(const waker&) = delete;
    waker& operator=(const waker&) = delete;
    ~waker();
    void wake() const noexcept;
    void calm() const noexcept;
    [[nodiscard]] int descriptor() const noexcept { return descriptor_; }

private:
    int descriptor_;
};

/// What a ferry's thread has done; read by any.
struct link_counts {
    std::atomic<std::uint64_t> sent{0};
    std::atomic<std::uint64_t> confirmed{0};
    std::atomic<std::uint64_t> arrived{0};
    std::atomic<std::uint64_t> connections{0};
};

/// Made and ended by the game's thread; `run()` and all that it calls is the ferry's.
class broker_link final : private client_listener {
public:
    broker_link(const ferry_options& options, std::uint64_t run, outward_box& box, losses& lost,
                inlet<arrival_errand> in);
    broker_link(const broker_link&) = delete;
    broker_link& operator=(const broker_link&) = delete;
    ~broker_link() = default;

    static void start(const std::shared_ptr<broker_link>& self);
    /// Waits at most about `ferry_options::ending` for what has not left yet. False: the
    /// thread is still looking for the broker, and will end by itself without touching
    /// anything that is not its own.
    bool end();

    void add(std::shared_ptr<inward_route> route);
    /// Another process has this one's name, and is the newer one: this one goes, for good.
    void turn_off() noexcept {
        has_to_go_.store(true, std::memory_order_release);
        waker_.wake();
    }
    void wake() const noexcept { waker_.wake(); }
    /// Something was handed over. While the broker is away that is not urgent, and waking a thread
    /// that sleeps soundly costs the game more than packing a hundred payloads.
    void tell_handed_over() const {
        if (is_urgent_.load(std::memory_order_relaxed) || box_.queue().waiting() > options_.max_waiting / 4) {
            waker_.wake();
        }
    }
    /// Wakes it if it waits for room for what comes in.
    void has_room() const noexcept {
        if (holds_.load(std::memory_order_acquire)) {
            waker_.wake();
        }
    }
    [[nodiscard]] link_condition condition() const;
    /// Changes with each other condition.
    [[nodiscard]] std::uint32_t condition_number() const noexcept {
        return condition_number_.load(std::memory_order_acquire);
    }
    [[nodiscard]] std::uint64_t known_already() const noexcept { return reader_.known_already(); }
    [[nodiscard]] std::uint64_t unexpected() const noexcept { return reader_.unexpected(); }

    link_counts counts;
    std::atomic<std::size_t> arriving{0}; ///< on their way to the game's thread

private:
    using clock = std::chrono::steady_clock;

    void run();
    void step();
    void make_client();
    bool find_broker();
    void wait();
    void take_packed();
    void send_waiting();
    void pass_on(std::shared_ptr<const landed_message> what, bool promised);
    void pass_on_held();
    [[nodiscard]] bool has_arrivals_room() const noexcept {
        return arriving.load(std::memory_order_relaxed) < options_.max_arriving;
    }
    void read_some();
    [[nodiscard]] bool is_finished() const;
    void lost_link(const std::string& why);
    void set_condition(link_phase phase, const std::string& why);
    void tell_there();
    void take_leave();
    bool talk_on();
    void greet();
    void enter_routes();
    void subscribe(const inward_route& route);
    void say_here();
    [[nodiscard]] crossing_head own_news() const;
    [[nodiscard]] std::string own_news_text(std::string_view is) const;
    [[nodiscard]] bool is_ending() const noexcept { return ending_.load(std::memory_order_acquire); }

    void connected(bool is_known) override;
    void refused(std::string why) override;
    void disconnected(std::string why, bool is_displaced) override;
    void confirmed(int number, std::string_view why) override;
    void subscribed(int number, bool is_granted) override;
    void arrived(const crossing_head& head, std::string_view payload) override;

    const ferry_options options_;
    const std::string run_text_;
    outward_box& box_;
    losses& lost_;
    inlet<arrival_errand> in_;
    waker waker_;
    message_maker maker_;
    waiting_room room_;
    message_reader reader_;
    std::unique_ptr<mqtt_client> client_;
    std::deque<std::shared_ptr<const landed_message>> held_; ///< for which there was no room
    std::vector<std::shared_ptr<inward_route>> subscribed_;
    std::unordered_map<int, std::string> asked_for_; ///< subscriptions, by number
    std::uint64_t events_ = 0;                       ///< callbacks
    int last_word_ = 0;                              ///< the number of the last message of all, until it is confirmed
    bool is_trying_ = false;
    bool is_there_ = false;
    bool has_to_greet_ = false; ///< the broker, which is there since just now
    bool was_there_ = false;
    bool is_displaced_ = false;
    std::string why_;
    std::chrono::milliseconds pause_;
    clock::time_point next_try_{};
    clock::time_point give_up_{}; ///< a connection that does not come about
    clock::time_point there_since_{};
    std::atomic<bool> has_to_go_{false};
    std::atomic<bool> holds_{false};
    std::atomic<bool> is_urgent_{false}; ///< the broker is there

    std::atomic<bool> ending_{false};
    std::atomic<std::int64_t> deadline_{0}; ///< of the end, in the clock's own unit
    mutable std::mutex guard_;              ///< of the next
    std::condition_variable done_;
    bool is_done_ = false;
    bool is_looking_ = false; ///< for the broker; nothing but its own is touched
    bool is_left_alone_ = false;
    link_condition condition_;
    std::vector<std::shared_ptr<inward_route>> new_routes_;
    std::atomic<std::uint32_t> condition_number_{0};
    std::thread thread_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
