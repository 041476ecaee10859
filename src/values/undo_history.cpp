// SPDX-License-Identifier: MIT
#include <courier/undo_history.hpp>

#include <courier/detail/base/at_the_end.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/routing/hub_watch.hpp>
#include <courier/subscriber.hpp>

#include <algorithm>
#include <deque>
#include <memory>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// A value of a type that nobody knows here.
class copied_value {
public:
    copied_value() = default;
    copied_value(const value_copier& by, const void* of) : by_(&by), value_(by.copy(of)) {}
    copied_value(copied_value&& other) noexcept : by_(other.by_), value_(std::exchange(other.value_, nullptr)) {}
    copied_value& operator=(copied_value&& other) noexcept {
        replace_handle(*this, std::move(other));
        return *this;
    }
    copied_value(const copied_value&) = delete;
    copied_value& operator=(const copied_value&) = delete;
    ~copied_value() {
        if (value_ != nullptr) {
            by_->destroy(value_);
        }
    }
    [[nodiscard]] copied_value copy() const { return {*by_, value_}; }
    [[nodiscard]] void* get() const noexcept { return value_; }

private:
    const value_copier* by_ = nullptr;
    void* value_ = nullptr;
};

struct kept_value {
    kept_value(const port& one) : core(*one.core), of(one), now(*one.value->copier, one.value->look(one.source)) {}
    [[nodiscard]] bool is_there() const noexcept { return !core->closed && core->kind != nullptr; }

    held<channel_core> core; ///< which may go first
    port of;
    copied_value now;
    std::size_t changed_in = 0; ///< the number of the step under way that has it
    std::size_t given_in = 0;   ///< the same, of one that is undone or redone
};

struct undo_change {
    std::shared_ptr<kept_value> value;
    copied_value before;
    copied_value after;
};

using undo_changes = std::vector<undo_change>;
using wanted_value = std::pair<std::shared_ptr<kept_value>, copied_value>;

} // namespace

struct undo_core : std::enable_shared_from_this<undo_core> {
    explicit undo_core(std::size_t most) : limit(most) {}

    void keep(const port& one, std::source_location where);
    void note(const std::shared_ptr<kept_value>& value);
    bool step(std::deque<undo_changes>& from, std::deque<undo_changes>& to, copied_value undo_change::*which,
              std::source_location where);
    void give(std::vector<wanted_value> all, std::source_location where);
    void end_step();

    const std::size_t limit;
    std::vector<std::shared_ptr<kept_value>> values;
    std::deque<undo_changes> done;
    std::deque<undo_changes> undone;
    undo_changes open; ///< of the step under way
    std::size_t newest_step = 1;
    bool is_open = false;
    bool is_stepping = false; ///< back or forth
    std::vector<std::unique_ptr<hub_watch>> hubs;
    subscriber in{"undo history"}; ///< ends first
};

void undo_core::keep(const port& one, std::source_location where) {
    std::erase_if(values, [](const auto& value) { return !value->is_there(); });
    if (std::any_of(values.begin(), values.end(), [&](const auto& value) { return value->of.source == one.source; })) {
        return;
    }
    auto made = std::make_shared<kept_value>(one);
    values.push_back(made);
    in.subscribe(
        port_source(one), [this, made](const some_payload&) { note(made); }, {}, where);
}

void undo_core::note(const std::shared_ptr<kept_value>& value) {
    copied_value fresh(*value->of.value->copier, value->of.value->look(value->of.source));
    if ((is_open || is_stepping) && value->changed_in != newest_step) {
        open.push_back({value, value->now.copy(), {}});
        value->changed_in = newest_step;
    }
    value->now = std::move(fresh);
}

// What handlers change on hearing of it is set back, since the step has it already, or it was another one.
void undo_core::give(std::vector<wanted_value> all, std::source_location where) {
    constexpr int passes = 4; // then handlers that insist have it their way
    const std::size_t giving = ++newest_step;
    for (const auto& [value, next] : all) {
        value->given_in = giving;
    }
    for (int pass = 0; pass < passes; ++pass) {
        open.clear();
        ++newest_step;
        together([&] {
            for (const auto& [value, next] : all) {
                if (value->is_there()) {
                    value->of.value->set(value->of.source, next.copy().get(), where);
                }
            }
        });
        if (open.empty()) {
            return;
        }
        for (undo_change& one : std::exchange(open, {})) {
            if (std::exchange(one.value->given_in, giving) != giving) {
                all.emplace_back(one.value, std::move(one.before));
            }
        }
    }
}

void undo_core::end_step() {
    is_open = false;
    ++newest_step;
    undo_changes made = std::move(open);
    open.clear();
    if (made.empty() || limit == 0) {
        return;
    }
    for (undo_change& one : made) {
        one.after = one.value->now.copy();
    }
    undone.clear();
    done.push_back(std::move(made));
    if (done.size() > limit) {
        done.pop_front();
    }
}

bool undo_core::step(std::deque<undo_changes>& from, std::deque<undo_changes>& to, copied_value undo_change::*which,
                     std::source_location where) {
    if (from.empty() || is_open || is_stepping) {
        return false;
    }
    const std::shared_ptr<undo_core> own = shared_from_this(); // which a handler may destroy
    const while_true now(is_stepping);
    to.push_back(std::move(from.back()));
    from.pop_back();
    std::vector<wanted_value> all; // a handler may forget the steps
    for (const undo_change& one : to.back()) {
        all.emplace_back(one.value, (one.*which).copy());
    }
    const unless_done forgotten([&] { open.clear(); });
    give(std::move(all), where);
    return true;
}

struct undo_share {
    std::shared_ptr<undo_core> of;
};

void end_undo_share::operator()(undo_share* gone) const noexcept {
    delete gone;
}

undo_step::undo_step(const undo_part& of) : own_(new undo_share(*of)) {
    own_->of->is_open = !own_->of->is_stepping;
}

undo_step::~undo_step() {
    if (own_->of->is_open) {
        at_the_end("an undo history", [this] { own_->of->end_step(); });
    }
}

} // namespace detail

undo_history::undo_history(std::size_t limit)
    : core_(new detail::undo_share{std::make_shared<detail::undo_core>(limit)}) {}

undo_history::~undo_history() {
    core_->of->hubs.clear();
    core_->of->in.clear();
}

void undo_history::keep(const detail::port& value, std::source_location where) {
    core_->of->keep(value, where);
}

void undo_history::keep(hub& all, std::source_location where) {
    std::erase_if(core_->of->hubs, [](const auto& one) { return one->of() == nullptr; });
    core_->of->hubs.push_back(std::make_unique<detail::hub_watch>(
        detail::access::hub_of(all), [core = core_->of.get(), where](const detail::port& one) {
            if (one.ops != nullptr && one.value != nullptr && one.value->set != nullptr &&
                one.value->copier != nullptr) {
                core->keep(one, where);
            }
        }));
}

bool undo_history::undo(std::source_location where) {
    return core_->of->step(core_->of->done, core_->of->undone, &detail::undo_change::before, where);
}

bool undo_history::redo(std::source_location where) {
    return core_->of->step(core_->of->undone, core_->of->done, &detail::undo_change::after, where);
}

std::size_t undo_history::undoable() const noexcept {
    return core_->of->done.size();
}

std::size_t undo_history::redoable() const noexcept {
    return core_->of->undone.size();
}

void undo_history::clear() noexcept {
    core_->of->done.clear();
    core_->of->undone.clear();
}

WIRED_COURIER_NAMESPACE_END
