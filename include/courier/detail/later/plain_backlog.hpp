// A backlog of payloads without addresses.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/later/backlog.hpp>

#include <cstddef>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

template <class Payload>
class plain_backlog : public backlog_of<Payload, Payload> {
public:
    using backlog_of<Payload, Payload>::backlog_of;

    bool post_item(Payload&& payload) final { return post(std::move(payload)); }
    bool post(Payload&& payload) {
        if (this->takes_plainly()) [[likely]] { // small enough to be inlined
            this->move_around([&] { this->waiting_.push_back(std::move(payload)); });
            return true;
        }
        return post_with_care(std::move(payload));
    }

    std::size_t deliver(std::size_t most) override {
        const std::size_t count = most < this->left() ? most : this->left();
        const std::size_t from = this->advance(count);
        publish_all(*this->target, this->round_.data() + from, count, sizeof(Payload), this->where,
                    this->marks_from(from));
        return count;
    }

private:
    [[gnu::noinline]] bool post_with_care(Payload&& payload) {
        if (this->busy) [[unlikely]] {
            return this->lay_aside(std::move(payload));
        }
        return post_now(std::move(payload));
    }
    bool post_now(Payload&& payload) final {
        bool taken = true;
        if (this->how_.keep == keep::all || this->in_line() == 0) {
            this->move_around([&] { taken = this->take(std::move(payload)); });
        } else {
            this->combine_in_use(
                [&] { this->combine(this->waiting_.back(), this->waiting_.back(), std::move(payload)); });
        }
        return taken;
    }
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
