// Several steps, none of which is left out because one before it threw.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <exception>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class first_failure {
public:
    template <class Step>
    void run(Step step) {
#if WIRED_COURIER_EXCEPTIONS
        try {
            step();
        } catch (...) {
            if (!first_) {
                first_ = std::current_exception();
            }
        }
#else
        step();
#endif
    }

    /// Throws the first exception of all steps, if there was one.
    void rethrow() {
#if WIRED_COURIER_EXCEPTIONS
        if (first_) {
            std::rethrow_exception(std::exchange(first_, nullptr));
        }
#endif
    }

private:
    std::exception_ptr first_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
