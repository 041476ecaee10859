// SPDX-License-Identifier: MIT
#include "later/outbox_reports.hpp"

#include <courier/detail/later/backlog.hpp>
#include <courier/fault.hpp>
#include <courier/outbox.hpp>
#include <courier/threads.hpp>

#include <string>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void report_restless(const backlog_base& backlog) {
    raise(fault_code::not_quiet, severity::notice,
          "outbox '" + backlog.box->name + "': more is posted on '" + backlog.target->name +
              "' while its payloads are combined, moved or destroyed than one round takes; the rest waits for the next",
          "look for a combining function, move or destructor that posts each time", backlog.where);
}

void report_nested(const outbox_core& box) {
    raise(fault_code::nested_round, severity::refused,
          "a handler that outbox '" + box.name +
              "' delivers to asked it to deliver; the waiting payloads come in the next round",
          "deliver from the main loop", std::source_location{});
}

void report_busy(const outbox_core& box, std::size_t rounds) {
    std::string channels;
    for (const backlog_base* backlog : box.ready) {
        channels += (channels.empty() ? "'" : ", '") + backlog->target->name + "' (" +
                    std::to_string(backlog->waiting()) + " waiting, posted at " + place(backlog->where) + ")";
    }
    raise(fault_code::not_quiet, severity::notice,
          "outbox '" + box.name + "' is not quiet after " + std::to_string(rounds) + " rounds: " + channels,
          "look for handlers that post in a circle", std::source_location{});
}

void check_thread(const outbox_core& box, const char* what, std::source_location where) {
    if (const std::uint32_t here = this_thread_number(); box.thread != here) {
        raise(fault_code::wrong_thread, severity::misuse,
              "outbox '" + box.name + "' belongs to " + describe_thread(box.thread) + " and is " + what + " by " +
                  describe_thread(here),
              "cross threads through an inbox", where);
    }
}

void check_backlog(const backlog_base& backlog, const char* what, std::source_location where) {
    check_thread(*backlog.box, what, where);
    if (!backlog.target->closed) { // such as the one that stands for none
        check_use(*backlog.target, what, where);
    }
}

std::size_t outbox_core::waiting() const noexcept {
    std::size_t sum = 0;
    for (const auto& backlog : backlogs) {
        sum += backlog->waiting() + backlog->left();
    }
    return sum;
}

waiting_place::contents outbox_core::look_into(const void* outbox) {
    const auto& box = *static_cast<const outbox_core*>(outbox);
    return {box.waiting(), box.ready.empty() ? std::source_location{} : box.ready.front()->where};
}

} // namespace detail

std::size_t outbox::waiting() const noexcept {
    return core_->waiting();
}

std::uint64_t outbox::turned_away() const noexcept {
    std::uint64_t sum = 0;
    for (const auto& backlog : core_->backlogs) {
        sum += backlog->turned_away;
    }
    return sum;
}

std::vector<outbox_line> outbox::list() const {
    std::vector<outbox_line> lines;
    lines.reserve(core_->backlogs.size());
    for (const auto& backlog : core_->backlogs) {
        lines.push_back(
            {backlog->target->name, backlog->waiting() + backlog->left(), backlog->delivered, backlog->turned_away});
    }
    return lines;
}

WIRED_COURIER_NAMESPACE_END
