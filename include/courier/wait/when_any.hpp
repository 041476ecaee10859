// Waits for the first of several.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/several_waits.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class... Waits>
class any_of_wait final : public several_waits<any_of_wait<Waits...>, Waits...> {
    using base = several_waits<any_of_wait<Waits...>, Waits...>;

public:
    using result_type = std::variant<kept_result<Waits>...>;

    explicit any_of_wait(Waits&&... waits) : base(std::move(waits)...) {}
    any_of_wait(any_of_wait&&) = default;
    ~any_of_wait() = default;

    bool begin(waiter& told) {
        const bool over = this->begin_each(told);
        if (over) {
            this->end();
        }
        return over;
    }
    result_type result() {
        std::optional<result_type> first;
        this->with(winner_,
                   [&]<std::size_t I>(auto& wait) { first.emplace(std::in_place_index<I>, take_result(wait)); });
        return std::move(*first);
    }
    void keep() override {
        this->with(winner_, []<std::size_t>(auto& wait) { wait.keep(); });
    }
    [[nodiscard]] bool is_source_gone() const override { return this->count_source_gone() == sizeof...(Waits); }
    [[nodiscard]] const channel_core* awaited() const override { return this->all_in_vain(); }
    [[nodiscard]] std::string describe() const override { return "any of (" + this->describe_each() + ")"; }

private:
    friend base;

    /// One is over; true when that is all there was to wait for.
    bool note(std::size_t which) {
        winner_ = which;
        return true;
    }

    std::size_t winner_ = 0;
};

} // namespace detail

/// Waits for whichever of `waits` is over first; the others end. Gives a
/// `std::variant` of copies of the results (`std::monostate` for none), whose
/// `index()` says which one it was. When one is over at once, those after it
/// are not begun.
///
///     auto first = co_await courier::when_any(courier::next(lamp_lit), courier::elapsed(clock, 5s));
///     if (first.index() == 1) { ... }
template <detail::waitable... Waits>
auto when_any(Waits... waits) {
    static_assert((detail::can_be_kept<Waits> && ...), "courier: the results of several waits are copied, so their "
                                                       "payloads must be copyable");
    return detail::any_of_wait<Waits...>(std::move(waits)...);
}

WIRED_COURIER_NAMESPACE_END
