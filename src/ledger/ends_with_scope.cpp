// SPDX-License-Identifier: MIT
// What has not ended with its scope.
#include <courier/audit.hpp>

#include "ledger/audit_text.hpp"

#include <courier/fault.hpp>

#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

std::vector<subscription_books> live_since(const ledger& of, std::uint32_t mark) {
    std::vector<subscription_books> left;
    for (subscription_books& s : of.read().subscriptions) {
        if (s.number > mark) {
            left.push_back(std::move(s));
        }
    }
    return left;
}

ends_with_scope::ends_with_scope(const ledger& of, report left, std::source_location where)
    : of_(of), mark_(of.latest_subscription()), left_(std::move(left)), where_(where) {}

ends_with_scope::~ends_with_scope() {
    const std::vector<subscription_books> left = live_since(of_, mark_);
    if (left.empty()) {
        return;
    }
    if (left_) {
        left_(left);
        return;
    }
    std::string list;
    for (const subscription_books& s : left) {
        detail::add_words(list, s.channel, s.subscriber, s.where.text());
    }
    detail::raise(fault_code::subscriptions_left, severity::notice,
                  std::to_string(left.size()) + (left.size() == 1 ? " thing" : " things") +
                      " made in this scope did not end with it: " + list,
                  "let an owner that ends in the scope hold them", where_);
}

WIRED_COURIER_NAMESPACE_END
