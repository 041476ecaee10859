// A list that announces items that are added, removed or changed.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/values/journal.hpp>
#include <courier/detail/values/value_core.hpp>
#include <courier/detail/values/value_held.hpp>
#include <courier/detail/values/value_source.hpp>
#include <courier/item_change.hpp>
#include <courier/keep_current.hpp>
#include <courier/together.hpp>

#include <concepts>
#include <cstddef>
#include <functional>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// One change of a list, as announced: an item.
template <class T>
class list_change {
public:
    /// Takes over what the other one has, which then has nothing.
    list_change(list_change&&) noexcept = default;
    list_change(const list_change&) = delete;
    list_change& operator=(const list_change&) = delete;

    /// Added, removed or changed.
    [[nodiscard]] item_change what() const noexcept { return what_; }
    /// Where the item is, or was when it was removed; in the list as it is
    /// after this and all changes announced before.
    [[nodiscard]] std::size_t index() const noexcept { return index_; }
    [[nodiscard]] const T* before() const noexcept { return before_; } ///< null when it was added
    [[nodiscard]] const T* after() const noexcept { return after_; }   ///< null when it was removed

private:
    template <class, class>
    friend class announced_list;
    list_change(item_change what, std::size_t index, const T* before, const T* after) noexcept
        : what_(what), index_(index), before_(before), after_(after) {}

    item_change what_;
    std::size_t index_;
    const T* before_;
    const T* after_;
};

/// Holds a list and announces each item that is added, removed or changed, so
/// that who mirrors it need not look through the whole. Several changes made
/// `together()` are announced one by one, in the order in which they were made:
/// carried out on a copy, they give the same list.
///
///     courier::announced_list<Order> open{"orders.open"};
///     in.subscribe(open, [](const courier::list_change<Order>& c) { ... });
///     open.add({.barrels = 3});
///
/// A subscription with `{.retained = true}` is served every item as added.
/// A formula or refresher that reads the list depends on the whole of it. All else
/// as for `state`. Items are copied for the subscribers.
template <class T, class Same = std::equal_to<>>
class announced_list : private detail::source_node,
                       public detail::value_source<list_change<T>, announced_list<T, Same>> {
public:
    using value_type = std::vector<T>;

    /// `name` is for messages, reports and saves, and is copied. `same` says whether two items are equal.
    explicit announced_list(std::string_view name, std::vector<T> items = {}, Same same = {})
        : source_node(how), name_(name), items_(std::move(items)), same_(std::move(same)) {
        detail::enter_graph(*this);
    }
    announced_list(const announced_list&) = delete;
    announced_list& operator=(const announced_list&) = delete;
    ~announced_list() {
        if (in_use) [[unlikely]] {
            detail::report_ended_in_use(*this);
        }
        detail::leave_graph(*this);
    }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] const std::string& name() const noexcept { return name_; }
    /// The items, as something that a refresher or formula depends on. Good until the next change.
    [[nodiscard]] const std::vector<T>& read() const {
        detail::note_read(const_cast<announced_list&>(*this));
        return items_;
    }
    /// The items, without depending on them. Good until the next change.
    [[nodiscard]] const std::vector<T>& glance() const noexcept { return items_; }

    /// At the end.
    bool add(T item, std::source_location where = std::source_location::current()) {
        return insert(items_.size(), std::move(item), where);
    }
    /// In front of the item at `index`, or at the end. False, as for all of
    /// these, when there is no such place or a formula is being computed.
    bool insert(std::size_t index, T item, std::source_location where = std::source_location::current()) {
        if (index > items_.size() || !detail::may_change(*this, where)) {
            return false;
        }
        change(where, [&] {
            entry* const made = prepare_entry(item_change::added, index, &item);
            items_.insert(items_.begin() + static_cast<std::ptrdiff_t>(index), std::move(item));
            enter(made);
        });
        return true;
    }
    /// False also when the item is the same already.
    bool set(std::size_t index, T item, std::source_location where = std::source_location::current()) {
        if (index >= items_.size() || (!in_use && is_same(items_[index], item)) || !detail::may_change(*this, where)) {
            return false;
        }
        std::optional<T> gone; // destroyed last
        change(where, [&] {
            entry* const made = prepare_entry(item_change::changed, index, &item);
            gone.emplace(detail::replace(items_[index], std::move(item)));
            if (made != nullptr) {
                made->before.swap(gone);
            }
            enter(made);
        });
        return true;
    }
    /// Takes one item out and announces that; later items move up. False when there is none of that index.
    bool remove(std::size_t index, std::source_location where = std::source_location::current()) {
        if (index >= items_.size() || !detail::may_change(*this, where)) {
            return false;
        }
        std::optional<T> gone; // destroyed last
        change(where, [&] {
            entry* const made = prepare_entry(item_change::removed, index, nullptr);
            gone.emplace(std::move_if_noexcept(items_[index]));
            items_.erase(items_.begin() + static_cast<std::ptrdiff_t>(index));
            if (made != nullptr) {
                made->before.swap(gone);
            }
            enter(made);
        });
        return true;
    }
    /// Removes all, the last one first.
    void clear(std::source_location where = std::source_location::current()) {
        const detail::lifetime::watch own(life_); // a removed item may destroy this list
        together([&] {
            while (!own.is_over() && !items_.empty() && remove(items_.size() - 1, where)) {}
        });
    }

private:
    friend class detail::value_source<list_change<T>, announced_list<T, Same>>;
    friend struct detail::access;
    friend struct detail::saving_access;

    // Serves the present items on request; see `delivery_options::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        const std::vector<T> copy = copy_of_items(); // a handler may change the list
        std::vector<list_change<T>> all;
        std::vector<const void*> payloads;
        all.reserve(copy.size());
        for (const T& item : copy) {
            all.push_back(list_change<T>(item_change::added, all.size(), nullptr, &item));
            payloads.push_back(&all.back());
        }
        this->serve_several(s, payloads.data(), payloads.size(), where);
    }

    struct entry {
        item_change what;
        std::size_t index;
        std::optional<T> before;
        std::optional<T> after;
    };

    static announced_list& of(detail::source_node& node) noexcept { return static_cast<announced_list&>(node); }
    static void nothing(detail::source_node&) {}
    static void announce_it(detail::source_node& node) { of(node).announce(); }
    static bool is_watched_it(const detail::source_node& node) noexcept {
        return static_cast<const announced_list&>(node).watched();
    }
    static std::string describe_it(const detail::source_node& node) {
        return "list '" + static_cast<const announced_list&>(node).name_ + "'";
    }
    static constexpr detail::source_ops how{&announce_it, &is_watched_it, &nothing, &describe_it};

    void prepare() const {
        auto& own = const_cast<announced_list&>(*this);
        if constexpr (checked_build) {
            detail::check_use(own, "subscribed to", std::source_location{});
        }
        own.told = true;
    }
    [[nodiscard]] const std::string& source_name() const noexcept { return name_; }

    std::vector<T> copy_of_items() const {
        const detail::while_true now(const_cast<announced_list&>(*this).in_use);
        return items_;
    }
    bool is_same(const T& a, const T& b) {
        const detail::while_true now(in_use);
        return same_(a, b);
    }

    // The announcement of a change is made before the change, so that nothing
    // changes silently when memory is full; null without subscribers.
    entry* prepare_entry(item_change what, std::size_t index, const T* after) {
        if (!this->watched()) {
            return nullptr;
        }
        prepared_ = detail::make_owned<entry>(what, index, std::nullopt,
                                              after != nullptr ? std::optional<T>(*after) : std::nullopt);
        journal_.make_room();
        return prepared_.get();
    }
    void enter(entry* made) noexcept {
        if (made != nullptr) {
            journal_.waiting.push_back(std::move(prepared_));
        }
    }

    /// It may not be changed or ended by what it runs itself.
    template <class What>
    void change(std::source_location where, What what) {
        detail::make_room_for_change();
        {
            const detail::while_true now(in_use);
            what();
        }
        this->note_change(where);
        detail::touch(*this);
        detail::settle();
    }

    void announce() {
        journal_.announce([this](const entry& one) {
            this->tell(list_change<T>(one.what, one.index, one.before ? &*one.before : nullptr,
                                      one.after ? &*one.after : nullptr));
        });
    }

    std::string name_;
    std::vector<T> items_;
    detail::journal<entry> journal_; ///< not yet announced
    detail::owned<entry> prepared_;
    detail::lifetime life_;
    [[no_unique_address]] Same same_;
};

WIRED_COURIER_NAMESPACE_END
