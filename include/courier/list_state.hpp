// A list that announces what was added, removed and changed.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/journal.hpp>
#include <courier/detail/value_core.hpp>
#include <courier/detail/value_source.hpp>
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

namespace courier::inline WIRED_COURIER_ABI {

/// What is announced of a list: one item.
template <class T>
class list_change {
public:
    list_change(list_change&&) noexcept = default;
    list_change(const list_change&) = delete;
    list_change& operator=(const list_change&) = delete;

    [[nodiscard]] item_change what() const noexcept { return what_; }
    /// Where the item is, or was when it was removed; in the list as it is
    /// after this and all changes announced before.
    [[nodiscard]] std::size_t index() const noexcept { return index_; }
    [[nodiscard]] const T* before() const noexcept { return before_; } ///< null when it was added
    [[nodiscard]] const T* after() const noexcept { return after_; }   ///< null when it was removed

private:
    template <class, class>
    friend class list_state;
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
/// whoever carries them out on a copy has the same list.
///
///     courier::list_state<Order> open{"orders.open"};
///     in.subscribe(open, [](const courier::list_change<Order>& c) { ... });
///     open.add({.barrels = 3});
///
/// One who subscribes with `{.retained = true}` is served every item as added.
/// A formula or view that reads the list depends on the whole of it. All else
/// as for `state`. Items are copied for those who are told.
template <class T, class Same = std::equal_to<>>
class list_state : private detail::value_node, public detail::value_source<list_change<T>, list_state<T, Same>> {
public:
    using value_type = std::vector<T>;

    explicit list_state(std::string_view name, std::vector<T> items = {}, Same same = {})
        : value_node(how), name_(name), items_(std::move(items)), same_(std::move(same)) {
        detail::enter_graph(*this);
    }
    list_state(const list_state&) = delete;
    list_state& operator=(const list_state&) = delete;
    ~list_state() { detail::leave_graph(*this); }

    [[nodiscard]] const std::string& name() const noexcept { return name_; }
    [[nodiscard]] const std::vector<T>& read() const {
        detail::note_read(const_cast<list_state&>(*this));
        return items_;
    }
    [[nodiscard]] const std::vector<T>& peek() const noexcept { return items_; }

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
        items_.insert(items_.begin() + static_cast<std::ptrdiff_t>(index), std::move(item));
        note(item_change::added, index, std::nullopt, where);
        return true;
    }
    /// False also when the item is the same already.
    bool set(std::size_t index, T item, std::source_location where = std::source_location::current()) {
        if (index >= items_.size() || same_(std::as_const(items_[index]), std::as_const(item)) ||
            !detail::may_change(*this, where)) {
            return false;
        }
        std::swap(items_[index], item);
        note(item_change::changed, index, std::move(item), where);
        return true;
    }
    bool remove(std::size_t index, std::source_location where = std::source_location::current()) {
        if (index >= items_.size() || !detail::may_change(*this, where)) {
            return false;
        }
        T gone = std::move(items_[index]);
        items_.erase(items_.begin() + static_cast<std::ptrdiff_t>(index));
        note(item_change::removed, index, std::move(gone), where);
        return true;
    }
    /// Removes all, the last one first.
    void clear(std::source_location where = std::source_location::current()) {
        together([&] {
            while (!items_.empty() && remove(items_.size() - 1, where)) {}
        });
    }

    /// For subscribers; see `delivery::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        const std::vector<T> copy = items_; // a handler may change the list
        std::vector<list_change<T>> all;
        std::vector<const void*> payloads;
        all.reserve(copy.size());
        for (const T& item : copy) {
            all.push_back(list_change<T>(item_change::added, all.size(), nullptr, &item));
            payloads.push_back(&all.back());
        }
        this->serve_several(s, payloads.data(), payloads.size(), where);
    }

private:
    friend class detail::value_source<list_change<T>, list_state<T, Same>>;
    friend struct detail::access;

    struct entry {
        item_change what;
        std::size_t index;
        std::optional<T> before;
        std::optional<T> after;
    };

    static list_state& of(detail::value_node& node) noexcept { return static_cast<list_state&>(node); }
    static void nothing(detail::value_node&) {}
    static void no_renewal(detail::reader_node&) {}
    static void announce_it(detail::value_node& node) { of(node).announce(); }
    static bool is_watched_it(const detail::value_node& node) noexcept {
        return static_cast<const list_state&>(node).watched();
    }
    static std::string describe_it(const detail::value_node& node) {
        return "list '" + static_cast<const list_state&>(node).name_ + "'";
    }
    static constexpr detail::value_ops how{&no_renewal, &announce_it, &is_watched_it, &nothing, &describe_it};

    void prepare() const noexcept { const_cast<list_state&>(*this).told = true; }
    [[nodiscard]] const std::string& source_name() const noexcept { return name_; }

    void note(item_change what, std::size_t index, std::optional<T>&& before, std::source_location where) {
        if (this->watched()) {
            entry& one = journal_.waiting.emplace_back(what, index, std::move(before), std::nullopt);
            if (what != item_change::removed) {
                one.after.emplace(items_[index]);
            }
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
    [[no_unique_address]] Same same_;
};

} // namespace courier::inline WIRED_COURIER_ABI
