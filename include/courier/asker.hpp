// A right to ask that may outlive the query.
#pragma once

#include <courier/config.hpp>
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

    explicit asker(const query<Question>& asked) noexcept : core_(asked.core_) { detail::retain(*core_); }
    asker(const asker& other) noexcept : core_(other.core_) {
        if (core_ != nullptr) {
            detail::retain(*core_);
        }
    }
    asker(asker&& other) noexcept : core_(std::exchange(other.core_, nullptr)) {}
    asker& operator=(asker other) noexcept {
        std::swap(core_, other.core_);
        return *this;
    }
    ~asker() {
        if (core_ != nullptr) {
            detail::release(*core_);
        }
    }

    /// As `query::ask()`.
    [[nodiscard]] std::optional<answer_type> ask(const Question& question,
                                                 std::source_location where = std::source_location::current()) const {
        if (!connected()) {
            return std::nullopt;
        }
        return query<Question>::ask_core(*core_, question, where);
    }

    /// Whether there is a query at the other end.
    [[nodiscard]] bool connected() const noexcept { return core_ != nullptr && !core_->closed; }

private:
    detail::channel_core* core_ = nullptr;
};

WIRED_COURIER_NAMESPACE_END
