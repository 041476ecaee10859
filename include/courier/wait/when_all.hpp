// Waits for all of several.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/flow/several_waits.hpp>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

template <class... Waits>
class all_of_wait final : public several_waits<all_of_wait<Waits...>, Waits...> {
    using base = several_waits<all_of_wait<Waits...>, Waits...>;

public:
    using result_type = std::tuple<kept_result<Waits>...>;

    explicit all_of_wait(Waits&&... waits) : base(std::move(waits)...) {}
    all_of_wait(all_of_wait&&) = default;
    ~all_of_wait() = default;

    bool begin(waiter& told) { return this->begin_each(told); }
    result_type result() { return this->take_each(); }
    [[nodiscard]] bool is_source_gone() const override { return this->count_source_gone() != 0; }
    [[nodiscard]] const channel_core* awaited() const override { return this->most_in_vain(); }
    [[nodiscard]] std::string describe() const override { return "all of (" + this->describe_each() + ")"; }

private:
    friend base;

    bool note(std::size_t which) {
        this->with(which, []<std::size_t>(auto& wait) { wait.keep(); }); // until the last one is over
        return ++over_ == sizeof...(Waits);
    }

    std::size_t over_ = 0;
};

} // namespace detail

/// Waits until all of `waits` are over, in whatever order. Gives a
/// `std::tuple` of copies of the results (`std::monostate` for none).
template <detail::waitable... Waits>
auto when_all(Waits... waits) {
    static_assert((detail::can_be_kept<Waits> && ...), "courier: the results of several waits are copied, so their "
                                                       "payloads must be copyable");
    return detail::all_of_wait<Waits...>(std::move(waits)...);
}

WIRED_COURIER_NAMESPACE_END
