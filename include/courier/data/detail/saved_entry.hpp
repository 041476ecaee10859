// One value of a save, whatever holds it.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/announced_list.hpp>
#include <courier/announced_map.hpp>
#include <courier/config.hpp>
#include <courier/data/json.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/value_type.hpp>
#include <courier/detail/delivery/phases_core.hpp>
#include <courier/detail/values/end_watch.hpp>
#include <courier/detail/values/value_core.hpp>
#include <courier/phases.hpp>
#include <courier/state.hpp>

#include <cstddef>
#include <map>
#include <optional>
#include <source_location>
#include <string>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What saving needs of values.
struct saving_access {
    template <class Value>
    static source_node& node_of(Value& of) noexcept {
        return of;
    }
    /// A move that need not be allowed.
    template <class Phase>
    static void move_past(phases<Phase>& of, Phase to, std::source_location where) {
        if (!of.is(to)) {
            of.make(to, where);
        }
    }
};

class saved_entry {
public:
    saved_entry() = default;
    saved_entry(const saved_entry&) = delete;
    saved_entry& operator=(const saved_entry&) = delete;
    virtual ~saved_entry() = default;

    [[nodiscard]] virtual bool is_there() const noexcept = 0;
    [[nodiscard]] virtual const value_type& type() const noexcept = 0;
    /// The present value, good until it changes or this is called again.
    [[nodiscard]] virtual const void* value() = 0;
    /// A copy of it, to be filled; it is kept until `apply()` or `drop()`.
    [[nodiscard]] virtual void* prepare() = 0;
    [[nodiscard]] virtual bool is_prepared() const noexcept = 0;
    /// Gives the copy to what it is a copy of, if that is there.
    virtual void apply(std::source_location where) = 0;
    virtual void drop() noexcept = 0;
    /// Whether the copy may be given.
    [[nodiscard]] virtual bool is_valid() const noexcept { return true; }
    /// Whether `apply()` announces, whatever is held back.
    [[nodiscard]] virtual bool is_announced_at_once() const noexcept { return false; }

    std::string name;
    std::string formerly; ///< may be empty
};

template <class Value>
class saved_copy : public saved_entry {
public:
    [[nodiscard]] const value_type& type() const noexcept override { return type_to_write<Value>(); }
    [[nodiscard]] void* prepare() override { return &next_.emplace(*static_cast<const Value*>(this->value())); }
    [[nodiscard]] bool is_prepared() const noexcept override { return next_.has_value(); }
    void drop() noexcept override { next_.reset(); }

protected:
    std::optional<Value> next_;
};

/// Of what formulas can read.
template <class Source, class Value>
class saved_source : public saved_copy<Value>, private end_watch {
public:
    explicit saved_source(Source& of) : of_(&of) {}
    ~saved_source() override {
        if (is_watching_ && of_ != nullptr) {
            unwatch_end(saving_access::node_of(*of_));
        }
    }
    /// False when another save has it.
    [[nodiscard]] bool watch() { return is_watching_ = watch_end(saving_access::node_of(*of_), *this); }
    [[nodiscard]] bool is_there() const noexcept override { return of_ != nullptr; }

protected:
    Source* of_; ///< null: it has ended

private:
    void value_ended() noexcept override { of_ = nullptr; }
    bool is_watching_ = false;
};

template <class State>
class saved_state final : public saved_source<State, typename State::value_type> {
public:
    using saved_source<State, typename State::value_type>::saved_source;
    [[nodiscard]] const void* value() override { return &this->of_->glance(); }
    void apply(std::source_location where) override {
        if (auto next = std::exchange(this->next_, std::nullopt); next && this->is_there()) {
            this->of_->set(std::move(*next), where);
        }
    }
};

template <class List>
class saved_list final : public saved_source<List, typename List::value_type> {
public:
    using saved_source<List, typename List::value_type>::saved_source;
    [[nodiscard]] const void* value() override { return &this->of_->glance(); }
    void apply(std::source_location where) override {
        auto next = std::exchange(this->next_, std::nullopt);
        const auto size = [this] { return this->is_there() ? this->of_->glance().size() : 0; };
        while (next && size() > next->size()) {
            this->of_->remove(size() - 1, where);
        }
        for (std::size_t i = 0; next && i < next->size() && this->is_there(); ++i) {
            i < size() ? this->of_->set(i, std::move((*next)[i]), where) : this->of_->add(std::move((*next)[i]), where);
        }
    }
};

template <class Key, class T>
struct saved_item {
    Key key;
    T value;
};

template <class Key, class T>
using saved_items = std::vector<saved_item<Key, T>>;

template <class Key, class T, class Same>
class saved_map final : public saved_source<announced_map<Key, T, Same>, saved_items<Key, T>> {
public:
    using saved_source<announced_map<Key, T, Same>, saved_items<Key, T>>::saved_source;
    [[nodiscard]] const void* value() override {
        now_.clear();
        for (const auto& [key, value] : this->of_->glance()) {
            now_.push_back({key, value});
        }
        return &now_;
    }
    void apply(std::source_location where) override {
        auto next = std::exchange(this->next_, std::nullopt);
        if (!next || !this->is_there()) {
            return;
        }
        std::map<Key, T> wanted;
        for (saved_item<Key, T>& one : *next) {
            wanted.insert_or_assign(std::move(one.key), std::move(one.value));
        }
        std::vector<Key> gone;
        for (const auto& [key, value] : this->of_->glance()) {
            if (!wanted.contains(key)) {
                gone.push_back(key);
            }
        }
        for (const Key& key : gone) {
            this->of_->remove(key, where);
        }
        for (auto& [key, value] : wanted) {
            this->of_->set(key, std::move(value), where);
        }
    }

private:
    saved_items<Key, T> now_;
};

template <class Phase>
class saved_phases final : public saved_copy<Phase> {
public:
    explicit saved_phases(phases<Phase>& of) : of_(&of), core_(access::phases(of)) {}
    [[nodiscard]] bool watch() const noexcept { return true; }
    [[nodiscard]] bool is_there() const noexcept override { return !core_->over; }
    [[nodiscard]] bool is_announced_at_once() const noexcept override { return true; }
    [[nodiscard]] bool is_valid() const noexcept override {
        return static_cast<std::size_t>(*this->next_) < core_->allowed.size();
    }
    [[nodiscard]] const void* value() override {
        now_ = of_->now();
        return &now_;
    }
    void apply(std::source_location where) override {
        if (const auto next = std::exchange(this->next_, std::nullopt); next && is_there()) {
            saving_access::move_past(*of_, *next, where);
        }
    }

private:
    phases<Phase>* of_; ///< good while it is there
    held<phases_core> core_;
    Phase now_{};
};

template <class T, class Same>
saved_state<state<T, Same>> entry_for(state<T, Same>&);
template <class T, class Same>
saved_list<announced_list<T, Same>> entry_for(announced_list<T, Same>&);
template <class Key, class T, class Same>
saved_map<Key, T, Same> entry_for(announced_map<Key, T, Same>&);
template <class Phase>
saved_phases<Phase> entry_for(phases<Phase>&);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
