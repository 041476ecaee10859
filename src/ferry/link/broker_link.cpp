// SPDX-License-Identifier: MIT
// The loop of a ferry's thread.
#include "ferry/link/broker_link.hpp"
#include "data/broken_pipes.hpp"

#include <courier/detail/base/in_use.hpp>

#include <algorithm>
#include <array>
#include <stdexcept>
#include <utility>

#include <poll.h>
#include <pthread.h>
#include <signal.h>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

std::unique_ptr<waiting_file> file_of(const ferry_options& options) {
    return options.waiting_file.empty() ? nullptr
                                        : std::make_unique<waiting_file>(options.waiting_file, options.max_in_file);
}

constexpr auto look_around = std::chrono::milliseconds(1000); ///< at least so often
constexpr auto while_held = std::chrono::milliseconds(10);    ///< the same while something waits for room
constexpr auto while_away = std::chrono::milliseconds(50);    ///< the same while the broker is away
constexpr int most_at_once = 64;

} // namespace

broker_link::broker_link(const ferry_options& options, std::uint64_t run, outward_box& box, losses& lost,
                         inlet<arrival_errand> in)
    : options_(options), run_text_(detail::run_text(run)), box_(box), lost_(lost), in_(std::move(in)),
      maker_(options.process, run, options.largest_payload, lost),
      room_(options.max_waiting, options.sent_again, file_of(options), lost), reader_(options, lost),
      pause_(options.min_retry) {
    make_client();
}

// A new one for each connection: what is sent again is sent in its old order, by this.
void broker_link::make_client() {
    last_will will;
    will.head = own_news();
    will.head.id += "-died";
    will.payload = own_news_text("died");
    client_ = std::make_unique<mqtt_client>(options_, options_.processes_topic.empty() ? nullptr : &will,
                                            static_cast<client_listener&>(*this));
}

void broker_link::start(const std::shared_ptr<broker_link>& self) {
    self->thread_ = std::thread([self] { self->run(); });
}

bool broker_link::end() {
    const auto deadline = clock::now() + options_.ending;
    deadline_.store(deadline.time_since_epoch().count(), std::memory_order_relaxed);
    ending_.store(true, std::memory_order_release);
    wake();
    std::unique_lock lock(guard_);
    const auto longest = options_.ending + std::chrono::milliseconds(500); // to take leave, and to write a file
    while (!done_.wait_for(lock, longest, [&] { return is_done_; })) {
        if (is_looking_) {
            is_left_alone_ = true;
            lock.unlock();
            thread_.detach();
            return false;
        }
    }
    lock.unlock();
    thread_.join();
    return true;
}

void broker_link::run() {
    ::pthread_setname_np(::pthread_self(), "courier ferry");
    block_broken_pipes(); // a connection that breaks while it is written to is an error, not the end
    while (!is_finished()) {
        if_memory_allows([&] { step(); });
        const std::lock_guard lock(guard_);
        if (is_left_alone_) {
            return;
        }
    }
    if_memory_allows([&] { take_leave(); });
    if_memory_allows([&] { room_.close(); });
    {
        const std::lock_guard lock(guard_);
        is_done_ = true;
    }
    done_.notify_all();
}

bool broker_link::is_finished() const {
    return is_ending() && ((room_.is_empty() && box_.queue().waiting() == 0) ||
                           clock::now().time_since_epoch().count() >= deadline_.load(std::memory_order_relaxed));
}

void broker_link::step() {
    enter_routes();
    take_packed();
    if (has_to_go_.load(std::memory_order_acquire) && !is_displaced_) {
        is_displaced_ = true;
        client_->disconnect();
        lost_link({});
    }
    if (!is_trying_ && !is_there_ && !is_displaced_ && clock::now() >= next_try_ && !find_broker()) {
        return;
    }
    if (is_there_) {
        send_waiting();
    }
    pass_on_held();
    wait();
}

// False: the game has gone meanwhile, and with it all but this.
bool broker_link::find_broker() {
    {
        const std::lock_guard lock(guard_);
        is_looking_ = true;
    }
    std::string wrong;
    try {
        make_client();
        wrong = client_->connect();
    } catch (const ferry_error& error) { // certificates that are no longer there
        wrong = error.fault().what;
    }
    {
        const std::lock_guard lock(guard_);
        is_looking_ = false;
        if (is_left_alone_) {
            return false;
        }
    }
    is_trying_ = true;
    give_up_ = clock::now() + options_.keep_alive;
    if (!wrong.empty()) {
        lost_link(wrong);
    }
    return true;
}

void broker_link::take_packed() {
    for (chunk next; box_.queue().take_now(next);) {
        maker_.make(
            next, [this](std::size_t known) { return box_.routes(known); },
            [this](outward_message&& one) { room_.add(std::move(one), is_there_); });
        box_.queue().done(std::move(next));
    }
}

void broker_link::send_waiting() {
    while (is_there_ && room_.unconfirmed() < options_.max_unconfirmed && !client_->wants_write()) {
        outward_message* const one = room_.next();
        if (one == nullptr) {
            return;
        }
        if (one->is_question()) { // for one that waits at the broker
            const auto left = std::chrono::ceil<std::chrono::seconds>(one->until - clock::now());
            one->head.expires_in = static_cast<std::uint32_t>(std::clamp<std::int64_t>(left.count(), 1, UINT32_MAX));
        }
        int number = 0;
        const std::string wrong = client_->publish(one->head, one->payload, number);
        if (wrong.empty()) {
            counts.sent.fetch_add(1, std::memory_order_relaxed);
            room_.sent(number);
        } else if (client_->is_broken()) {
            lost_link(wrong);
        } else {
            room_.drop(ferry_code::too_large, wrong);
        }
    }
}

void broker_link::wait() {
    const int socket = client_->socket();
    const bool reads = held_.empty();
    const bool writes = client_->wants_write();
    // A socket that nothing is to be done with is not looked at, or one that is closed would be told of again and
    // again.
    std::array<pollfd, 2> on{{{waker_.descriptor(), POLLIN, 0}, {reads || writes ? socket : -1, 0, 0}}};
    on[1].events = static_cast<short>((reads ? POLLIN : 0) | (writes ? POLLOUT : 0));
    auto longest = !held_.empty() ? while_held : is_there_ || is_displaced_ ? look_around : while_away;
    const auto now = clock::now();
    const auto until = [&](clock::time_point when) {
        longest =
            std::clamp(std::chrono::ceil<std::chrono::milliseconds>(when - now), std::chrono::milliseconds(0), longest);
    };
    if (!is_trying_ && !is_there_ && !is_displaced_) {
        until(next_try_);
    }
    if (is_ending()) {
        until(clock::time_point(clock::duration(deadline_.load(std::memory_order_relaxed))));
    }
    const int ready = ::poll(on.data(), on.size(), static_cast<int>(longest.count()));
    if (ready > 0 && on[0].revents != 0) {
        waker_.calm();
    }
    if (socket < 0) {
        return;
    }
    if (ready > 0 && (on[1].revents & POLLOUT) != 0) {
        if (const std::string why = client_->write(); !why.empty()) {
            lost_link(why);
            return;
        }
    }
    if (ready > 0 && (on[1].revents & ~POLLOUT) != 0 && reads) {
        read_some();
    }
    if (is_trying_ && clock::now() > give_up_) {
        client_->drop();
        lost_link("the broker does not answer");
    } else if (is_trying_ || is_there_) {
        if (const std::string why = client_->rest(); !why.empty()) {
            lost_link(why);
        }
    }
}

void broker_link::read_some() {
    for (int i = 0; i < most_at_once && held_.empty(); ++i) {
        const std::uint64_t before = events_;
        const std::string why = client_->read();
        if (!why.empty() || client_->socket() < 0) {
            lost_link(why.empty() ? why_ : why);
            return;
        }
        if (std::exchange(has_to_greet_, false)) {
            greet();
        }
        if (events_ == before) {
            return;
        }
    }
}

void broker_link::pass_on(std::shared_ptr<const landed_message> what, bool promised) {
    if (!what->route->is_always_told) { // which is of the ferries themselves
        counts.arrived.fetch_add(1, std::memory_order_relaxed);
    }
    if (held_.empty() && has_arrivals_room()) {
        arriving.fetch_add(1, std::memory_order_relaxed);
        in_.send({std::move(what)});
    } else if (promised) { // as many as the broker sends before it hears that they came
        holds_.store(true, std::memory_order_release);
        held_.push_back(std::move(what));
    } else {
        lost_.add(ferry_code::arrivals_full, what->topic);
    }
}

void broker_link::pass_on_held() {
    while (!held_.empty() && has_arrivals_room()) {
        arriving.fetch_add(1, std::memory_order_relaxed);
        in_.send({std::move(held_.front())});
        held_.pop_front();
    }
    holds_.store(!held_.empty(), std::memory_order_release);
}

void broker_link::lost_link(const std::string& why) {
    const bool was_trying = std::exchange(is_trying_, false);
    const bool was_there = std::exchange(is_there_, false);
    is_urgent_.store(false, std::memory_order_relaxed);
    if (!was_trying && !was_there) {
        return;
    }
    room_.broker_went();
    asked_for_.clear();
    if (was_there && clock::now() - there_since_ > options_.max_retry) {
        pause_ = options_.min_retry; // else it may be of the kind that breaks again and again
    }
    next_try_ = clock::now() + pause_;
    pause_ = std::min(2 * pause_, options_.max_retry);
    set_condition(is_displaced_ ? link_phase::displaced : link_phase::connecting,
                  is_displaced_ ? "another process has come with the name '" + options_.process + "'" : why);
}

void broker_link::set_condition(link_phase phase, const std::string& why) {
    const std::lock_guard lock(guard_);
    link_condition now{phase, why};
    if (now != condition_) {
        condition_ = std::move(now);
        condition_number_.fetch_add(1, std::memory_order_release);
    }
}

link_condition broker_link::condition() const {
    const std::lock_guard lock(guard_);
    return condition_;
}

void broker_link::add(std::shared_ptr<inward_route> route) {
    {
        const std::lock_guard lock(guard_);
        new_routes_.push_back(std::move(route));
    }
    wake();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
