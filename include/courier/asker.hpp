// A right to ask that may outlive the query.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/query.hpp>

#include <optional>
#include <source_location>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// Lets a system ask a query that another one owns. Copyable; the query may
/// end first, there is no answer then. Belongs to the query's thread.
template <class Question>
class asker {
public:
    using answer_type = typename Question::answer;

    /// Not connected: there is never an answer.
    asker() noexcept = default;

    /// The query may end first; nobody answers then.
    explicit asker(const query<Question>& asked) noexcept : core_(asked.core_) {}

    /// As `query::ask()`.
    [[nodiscard("courier: an unused answer need not be asked for")]] std::optional<answer_type>
    ask(const Question& question, std::source_location where = std::source_location::current()) const {
        if (!connected()) {
            return std::nullopt;
        }
        return query<Question>::ask_core(*core_, question, where);
    }

    /// Whether there is a query at the other end.
    [[nodiscard]] bool connected() const noexcept { return core_ && !core_->closed; }

private:
    detail::held<detail::channel_core> core_;
};

WIRED_COURIER_NAMESPACE_END
