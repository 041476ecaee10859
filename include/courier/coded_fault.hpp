// What went wrong in a component, and the exception that carries it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/shared.hpp>
#include <courier/fault.hpp>

#include <stdexcept>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

/// One fault of a component: `recording_fault`, `gateway_fault` and so on. `Code` is its
/// enumeration, whose values have stable texts, see `id_of()`.
template <class Code>
struct coded_fault {
    Code code;
    std::string what;   ///< what is wrong, in one sentence
    std::string where;  ///< a file and line, a JSON pointer, a topic; may be empty
    std::string advice; ///< what to do about it; may be empty

    /// One line: "where: what; advice [code]".
    [[nodiscard]] std::string text() const { return fault_text(where, what, advice, id_of(code)); }
};

/// Thrown with such a fault: `recording_error`, `gateway_error` and so on. `what()` is its `text()`.
template <class Code>
class coded_error : public std::runtime_error {
public:
    /// With a fault that is there already.
    explicit coded_error(coded_fault<Code> why)
        : std::runtime_error(why.text()), fault_(new const coded_fault<Code>(std::move(why))) {}
    /// Makes the fault of its parts.
    coded_error(Code code, std::string what, std::string where, std::string advice)
        : coded_error(coded_fault<Code>{code, std::move(what), std::move(where), std::move(advice)}) {}

    /// The fault that it carries; good while any copy of the exception lives.
    [[nodiscard]] const coded_fault<Code>& fault() const noexcept { return *fault_; }
    /// The code of that fault.
    [[nodiscard]] Code code() const noexcept { return fault_->code; }

private:
    detail::shared<const coded_fault<Code>> fault_; ///< shared, so that copying the exception throws nothing
};

WIRED_COURIER_NAMESPACE_END
