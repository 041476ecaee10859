// SPDX-License-Identifier: MIT
// What a ferry's thread says to the broker and hears from it.
#include "ferry/link/broker_link.hpp"

#include <courier/detail/base/in_use.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <utility>

#include <poll.h>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

// What the client calls may not throw, since libmosquitto, which is C, is below; nor call the client.

void broker_link::connected(bool is_known) {
    ++events_;
    if_memory_allows([&] {
        is_trying_ = false;
        is_there_ = true;
        is_urgent_.store(true, std::memory_order_relaxed);
        there_since_ = clock::now();
        counts.connections.fetch_add(1, std::memory_order_relaxed);
        has_to_greet_ = true;
        if (was_there_ && !is_known) {
            room_.broker_forgot();
        }
    });
}

void broker_link::greet() {
    for (const auto& route : subscribed_) {
        subscribe(*route);
    }
    was_there_ = true;
    say_here();
    tell_there();
}

// Not before the broker has answered each subscription: who waits for this may have something sent here at once.
void broker_link::tell_there() {
    if (is_there_ && asked_for_.empty()) {
        set_condition(link_phase::connected, {});
    }
}

void broker_link::refused(std::string why) {
    ++events_;
    why_ = std::move(why);
}

void broker_link::disconnected(std::string why, bool is_displaced) {
    ++events_;
    why_ = std::move(why);
    is_displaced_ = is_displaced_ || is_displaced;
}

void broker_link::confirmed(int number, std::string_view why) {
    ++events_;
    counts.confirmed.fetch_add(1, std::memory_order_relaxed);
    last_word_ = number == last_word_ ? 0 : last_word_;
    if_memory_allows([&] { room_.confirmed(number, why); });
}

void broker_link::subscribed(int number, bool is_granted) {
    ++events_;
    if (const auto found = asked_for_.find(number); found != asked_for_.end()) {
        if (!is_granted) {
            lost_.add(ferry_code::not_allowed, found->second, 1, "the broker does not let this process hear it");
        }
        asked_for_.erase(found);
        if_memory_allows([&] { tell_there(); });
    }
}

void broker_link::arrived(const crossing_head& head, std::string_view payload) {
    ++events_;
    if_memory_allows([&] {
        reader_.read(head, payload, [this](landed_message&& one, bool promised) {
            pass_on(std::make_shared<const landed_message>(std::move(one)), promised);
        });
    });
}

void broker_link::enter_routes() {
    std::vector<std::shared_ptr<inward_route>> fresh;
    {
        const std::lock_guard lock(guard_);
        fresh.swap(new_routes_);
    }
    for (auto& route : fresh) {
        reader_.add(route);
        if (is_there_) {
            subscribe(*route);
        }
        std::erase_if(subscribed_, [&](const auto& one) { return one->is_as(*route); });
        subscribed_.push_back(std::move(route));
    }
}

// Whoever comes first in its life wants to know what the broker kept, even where the broker has
// heard of this process before.
void broker_link::subscribe(const inward_route& route) {
    int number = 0;
    const std::string filter = route.subscription();
    const std::string wrong =
        client_->subscribe(filter, route.qos(), !was_there_ || route.is_always_told,
                           !route.share_name.empty() || route.is_always_told, number); // shared ones cannot be without
    if (wrong.empty()) {
        asked_for_[number] = filter;
    } else if (!client_->is_broken()) {
        lost_.add(ferry_code::not_allowed, filter, 1, wrong);
    }
}

crossing_head broker_link::own_news() const {
    crossing_head made;
    made.topic = options_.processes_topic + "/" + options_.process;
    made.content_type = "application/json";
    made.id = run_text_;
    made.source = options_.process;
    made.type = type_of(crossing_kind::process);
    made.is_retained = true;
    made.qos = 1;
    return made;
}

std::string broker_link::own_news_text(std::string_view is) const {
    return nlohmann::json{{"process", options_.process}, {"run", run_text_}, {"is", is}}.dump();
}

void broker_link::say_here() {
    if (!options_.processes_topic.empty()) {
        int number = 0;
        crossing_head head = own_news();
        head.id += fmt::format("-here-{}", counts.connections.load(std::memory_order_relaxed));
        static_cast<void>(
            client_->publish(head, own_news_text("here"), number)); // or the link breaks, and it is said again
    }
}

// Others hear that it left; those who come later, nothing.
void broker_link::take_leave() {
    if (!is_there_) {
        return;
    }
    if (!options_.processes_topic.empty()) {
        int number = 0;
        crossing_head head = own_news();
        head.is_retained = false;
        head.id += "-left";
        static_cast<void>(client_->publish(head, own_news_text("left"), number));
        head.is_retained = true;
        static_cast<void>(client_->publish(head, {}, number));
        last_word_ = number;
    }
    const auto until = clock::now() + std::chrono::milliseconds(200);
    while (last_word_ != 0 && clock::now() < until && talk_on()) {}
    client_->disconnect();
    while (clock::now() < until && client_->wants_write() && talk_on()) {}
}

// What has come must be read: where a connection is closed before, its other end may not get to read
// what was sent last. False once it is closed.
bool broker_link::talk_on() {
    pollfd on{client_->socket(), static_cast<short>(POLLIN | (client_->wants_write() ? POLLOUT : 0)), 0};
    if (on.fd < 0 || ::poll(&on, 1, 20) <= 0) {
        return on.fd >= 0;
    }
    const bool is_fine = ((on.revents & POLLOUT) == 0 || client_->write().empty()) &&
                         ((on.revents & ~POLLOUT) == 0 || client_->read().empty());
    return is_fine && client_->socket() >= 0;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
