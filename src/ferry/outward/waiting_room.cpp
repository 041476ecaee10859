// SPDX-License-Identifier: MIT
#include "ferry/outward/waiting_room.hpp"

#include <optional>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

waiting_room::waiting_room(std::size_t most, std::chrono::milliseconds sent_again, std::unique_ptr<waiting_file> file,
                           losses& lost)
    : most_(most), sent_again_(sent_again), file_(std::move(file)), lost_(lost), kept_(most) {}

void waiting_room::keep(list& in, outward_message&& one) {
    bytes_ += one.bytes();
    in.push_back(std::move(one));
    if (&in == &front_ && in.back().only_latest) {
        latest_[in.back().head.topic] = std::prev(in.end());
    }
}

outward_message waiting_room::take(list& of, list::iterator one) {
    bytes_ -= one->bytes();
    if (one->only_latest) {
        const auto known = latest_.find(one->head.topic);
        if (known != latest_.end() && known->second == one) {
            latest_.erase(known);
        }
    }
    outward_message taken = std::move(*one);
    of.erase(one);
    return taken;
}

bool waiting_room::replaces_one(outward_message& one) {
    const auto found = latest_.find(one.head.topic);
    if (found == latest_.end()) {
        return false;
    }
    bytes_ -= found->second->bytes();
    *found->second = std::move(one);
    bytes_ += found->second->bytes();
    return true;
}

// What came later must not be sent before what is in the file.
bool waiting_room::goes_to_file(const outward_message& one, bool broker_is_there) const {
    return file_ != nullptr && one.outlives_process && behind_.empty() && (!broker_is_there || !file_->is_empty());
}

bool waiting_room::put_into_file(const outward_message& one) {
    return one.is_from_file || file_->append(line_of(one));
}

void waiting_room::add(outward_message&& one, bool broker_is_there) {
    if (one.head.qos == 0 && !broker_is_there) {
        lost_.add(ferry_code::away, one.head.topic);
        return;
    }
    if (one.only_latest) { // there are as many as topics, and they get a little more room
        if (!replaces_one(one)) {
            bytes_ + one.bytes() <= 2 * most_ ? keep(front_, std::move(one))
                                              : lost_.add(ferry_code::no_room, one.head.topic);
        }
        return;
    }
    const bool was_for_file = goes_to_file(one, broker_is_there);
    if (was_for_file && put_into_file(one)) {
        return;
    }
    if (bytes_ + one.bytes() > most_) {
        lost_.add(was_for_file || !behind_.empty() ? ferry_code::file_full : ferry_code::no_room, one.head.topic);
        return;
    }
    const bool has_to_queue = one.outlives_process && file_ != nullptr && (!file_->is_empty() || !behind_.empty());
    keep(has_to_queue || was_for_file ? behind_ : front_, std::move(one));
}

void waiting_room::read_file() {
    while (front_.empty() && !file_->is_read()) {
        const std::optional<std::string> line = file_->next();
        if (!line || line->empty()) {
            continue;
        }
        if (std::optional<outward_message> one = read_line(*line)) {
            ++from_file_;
            keep(front_, std::move(*one));
        } else {
            lost_.add(ferry_code::bad_message, "", 1, "a line of the waiting file is none of a ferry's");
        }
    }
    file_is_done();
}

// Who asked has been told that no answer came.
void waiting_room::forget_late() {
    const auto now = std::chrono::steady_clock::now();
    while (!front_.empty() && front_.front().is_late(now)) {
        take(front_, front_.begin());
    }
}

outward_message* waiting_room::next() {
    forget_late();
    if (front_.empty() && file_ != nullptr) {
        read_file();
    }
    if (front_.empty() && (file_ == nullptr || file_->is_read())) {
        front_.splice(front_.end(), behind_);
    }
    return front_.empty() ? nullptr : &front_.front();
}

void waiting_room::sent(int number) {
    const auto first = front_.begin();
    if (first->head.qos == 0) {
        if (outward_message one = take(front_, first); one.only_latest) { // of others, none is sent twice
            kept_.remember(std::move(one));
        }
        return;
    }
    if (first->only_latest) {
        latest_.erase(first->head.topic);
    }
    sent_.splice(sent_.end(), front_, first);
    numbers_[number] = first;
}

void waiting_room::drop(ferry_code why, std::string_view what) {
    const auto first = front_.begin();
    lost_.add(why, first->head.topic, 1, what);
    from_file_ -= first->is_from_file && from_file_ > 0 ? 1U : 0U;
    take(front_, first);
    file_is_done();
}

void waiting_room::confirmed(int number, std::string_view why_not) {
    const auto known = numbers_.find(number);
    if (known == numbers_.end()) {
        return;
    }
    const list::iterator one = known->second;
    numbers_.erase(known);
    if (!why_not.empty()) {
        lost_.add(ferry_code::not_allowed, one->head.topic, 1, why_not);
    }
    const bool is_counted = one->is_from_file && from_file_ > 0;
    from_file_ -= is_counted ? 1U : 0U;
    file_is_done();
    const auto now = std::chrono::steady_clock::now();
    one->confirmed_at = now;
    one->is_from_file = false;
    if (one->head.is_retained && why_not.empty()) {
        kept_.remember(*one);
    }
    if (!why_not.empty() || sent_again_ == std::chrono::milliseconds(0)) {
        take(sent_, one);
        return;
    }
    bytes_ -= one->bytes();
    settled_bytes_ += one->bytes();
    settled_.splice(settled_.end(), sent_, one);
    forget_settled(now - sent_again_);
}

void waiting_room::forget_settled(std::chrono::steady_clock::time_point until) {
    while (!settled_.empty() && (settled_.front().confirmed_at <= until || settled_bytes_ > most_)) {
        settled_bytes_ -= settled_.front().bytes();
        settled_.pop_front();
    }
}

void waiting_room::file_is_done() {
    if (file_ != nullptr && from_file_ == 0 && file_->is_read() && !file_->is_empty()) {
        file_->clear();
    }
}

// In front of all that waits, the latest first; of what only the latest counts, older ones are let go.
void waiting_room::send_again(list& from) {
    while (!from.empty()) {
        const auto last = std::prev(from.end());
        const bool is_old = last->only_latest && latest_.contains(last->head.topic);
        if (is_old) {
            bytes_ -= last->bytes();
            from.erase(last);
            continue;
        }
        front_.splice(front_.begin(), from, last);
        if (last->only_latest) {
            latest_[last->head.topic] = last;
        }
    }
}

void waiting_room::broker_went() {
    for (auto one = front_.begin(); one != front_.end();) {
        const auto next = std::next(one);
        if (one->head.qos == 0) {
            lost_.add(ferry_code::away, one->head.topic);
            take(front_, one);
        }
        one = next;
    }
    forget_settled(std::chrono::steady_clock::now() - sent_again_);
    numbers_.clear();
    send_again(sent_);
    bytes_ += std::exchange(settled_bytes_, 0);
    for (const outward_message& one : settled_) {
        kept_.forget(one);
    }
    send_again(settled_);
    if (file_ != nullptr && file_->is_empty()) {
        file_front();
    }
}

void waiting_room::broker_forgot() {
    kept_.take_all([this](outward_message&& one) {
        if (one.only_latest && latest_.contains(one.head.topic)) {
            return;
        }
        bytes_ += one.bytes();
        front_.push_front(std::move(one)); // it is older than all that waits for its topic
        if (front_.front().only_latest) {
            latest_[front_.front().head.topic] = front_.begin();
        }
    });
}

void waiting_room::file_front() {
    for (auto one = front_.begin(); one != front_.end();) {
        const auto next = std::next(one);
        if (one->outlives_process) {
            if (!put_into_file(*one)) { // no more goes there, before these are sent
                behind_.splice(behind_.begin(), front_, one, front_.end());
                return;
            }
            take(front_, one);
        }
        one = next;
    }
}

void waiting_room::close() {
    settled_.clear();
    settled_bytes_ = 0;
    broker_went();
    if (file_ != nullptr) {
        for (const outward_message& one : behind_) {
            if (one.outlives_process && !put_into_file(one)) {
                return;
            }
        }
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
