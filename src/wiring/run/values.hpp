// Conditions and parameters, ready to be looked at and filled in.
#pragma once

#include "wiring/run/reach.hpp"

#include <courier/wiring/detail/cause.hpp>

#include <memory>
#include <string>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Finds live things by their names.
class name_finder {
public:
    virtual ~name_finder() = default;
    [[nodiscard]] virtual std::shared_ptr<state_base> state(const std::string& name) const = 0;
};

class live_test {
public:
    live_test(const condition_plan& plan, const cause_base& cause, const name_finder& find);

    [[nodiscard]] bool holds(const void* payload) const noexcept;

private:
    struct wanted {
        plain_value value;
        std::string text;
    };
    [[nodiscard]] bool compare(const plain_value& is, const wanted& with, test_op op) const noexcept;

    reach field_;
    std::shared_ptr<state_base> state_;
    test_op op_;
    value_kind kind_;
    std::vector<wanted> values_;
};

/// What values are taken from.
struct value_sources {
    const void* payload = nullptr; ///< null: it is gone
    const void* answer = nullptr;
};

/// One parameter, or piece of a text.
class live_value {
public:
    live_value(const value_plan& plan, const value_type& into, const cause_base& cause, const value_type* answer,
               const name_finder& find);

    /// Whether it depends on what happens, and so has to be written each time.
    [[nodiscard]] bool varies() const noexcept { return from_ != value_origin::constant; }
    [[nodiscard]] bool needs_answer() const noexcept { return needs_answer_; }
    /// Whether what it is taken from is there: an optional field may hold nothing.
    [[nodiscard]] bool is_there(const value_sources& sources) const noexcept {
        return from_ == value_origin::constant || from_ == value_origin::text || source(sources) != nullptr;
    }
    /// False, with the reason, when it does not fit or is not there.
    bool write(const value_sources& sources, void* into, std::string& why) const;

private:
    [[nodiscard]] const void* source(const value_sources& sources) const noexcept;
    void append(const value_sources& sources, std::string& to) const;
    [[nodiscard]] double number(const void* at) const noexcept;
    bool convert(const void* from, void* into, std::string& why) const;

    value_origin from_;
    const value_type* into_;
    reach field_;
    std::shared_ptr<state_base> state_;
    plain_value constant_;
    std::string text_;
    std::vector<live_value> pieces_;
    double factor_;
    int decimals_;
    bool copies_ = false; ///< byte by byte
    bool needs_answer_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
