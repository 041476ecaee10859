// SPDX-License-Identifier: MIT
#include "ferry/questions.hpp"

#include "ferry/ferry_core.hpp"

#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void questions::add(std::uint64_t ticket, const std::shared_ptr<answer_desk>& desk, std::chrono::milliseconds limit) {
    waiting_[ticket] = {desk, clock::now() + limit};
}

bool questions::answer(std::uint64_t ticket, const void* answer, std::source_location where) {
    const auto found = waiting_.find(ticket);
    if (found == waiting_.end()) {
        return false;
    }
    const std::shared_ptr<answer_desk> desk = found->second.desk.lock();
    waiting_.erase(found);
    if (desk != nullptr) {
        desk->came(ticket, answer != nullptr ? remote_outcome::answered : remote_outcome::nobody_knew, answer, where);
    }
    return true;
}

void questions::look() {
    const auto now = clock::now();
    std::vector<std::pair<std::uint64_t, std::shared_ptr<answer_desk>>> late;
    for (auto one = waiting_.begin(); one != waiting_.end();) {
        if (one->second.until <= now || one->second.desk.expired()) {
            late.emplace_back(one->first, one->second.desk.lock());
            one = waiting_.erase(one);
        } else {
            ++one;
        }
    }
    for (const auto& [ticket, desk] : late) {
        if (desk != nullptr) {
            desk->came(ticket, remote_outcome::too_late, nullptr, std::source_location::current());
        }
    }
}

asking_place::asking_place(ferry_core& of, std::shared_ptr<answer_desk> desk, std::string_view topic,
                           std::string_view name, const field_table* question, std::chrono::milliseconds limit)
    : core_(of.weak_from_this()), desk_(std::move(desk)), limit_(limit) {
    to_ = &of.add_questions(topic, name, question, limit, answers_topic_);
    of.add_answers_to(desk_->make_door(), answers_topic_);
}

asking_place::~asking_place() = default;

std::uint64_t asking_place::ask(const void* question) {
    const std::shared_ptr<ferry_core> core = core_.lock();
    if (core == nullptr) {
        return 0;
    }
    if (!core->asked.has_room()) {
        core->count_unasked(to_->route().topic.before);
        return 0;
    }
    const std::uint64_t ticket = core->asked.next_ticket();
    core->asked.add(ticket, desk_, limit_);
    core->box.put(*to_, question, {}, {answers_topic_, core->run_name + "-" + std::to_string(ticket)});
    return ticket;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
