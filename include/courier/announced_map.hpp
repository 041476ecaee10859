// A map that announces keys that are added, removed or changed.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/base/owned.hpp>
#include <courier/detail/values/journal.hpp>
#include <courier/detail/values/value_core.hpp>
#include <courier/detail/values/value_held.hpp>
#include <courier/detail/values/value_source.hpp>
#include <courier/item_change.hpp>
#include <courier/keep_current.hpp>
#include <courier/together.hpp>

#include <cstddef>
#include <functional>
#include <map>
#include <optional>
#include <source_location>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// One change of a map, as announced: a key.
template <class Key, class T>
class map_change {
public:
    /// Takes over what the other one has, which then has nothing.
    map_change(map_change&&) noexcept = default;
    map_change(const map_change&) = delete;
    map_change& operator=(const map_change&) = delete;

    /// Added, removed or changed.
    [[nodiscard]] item_change what() const noexcept {
        return before_ == nullptr  ? item_change::added
               : after_ == nullptr ? item_change::removed
                                   : item_change::changed;
    }
    /// Which item it is about.
    [[nodiscard]] const Key& key() const noexcept { return *key_; }
    [[nodiscard]] const T* before() const noexcept { return before_; } ///< null when it was added
    [[nodiscard]] const T* after() const noexcept { return after_; }   ///< null when it was removed

private:
    template <class, class, class>
    friend class announced_map;
    map_change(const Key& key, const T* before, const T* after) noexcept : key_(&key), before_(before), after_(after) {}

    const Key* key_;
    const T* before_;
    const T* after_;
};

/// Holds a value for each key, in the keys' order, and announces each key whose
/// value is added, removed or changed. Several changes made `together()` are
/// announced once for each key, in the keys' order, and not at all for one that
/// is back where it was.
///
///     courier::announced_map<int, Berth> berths{"harbour.berths"};
///     berths.set(3, {.barge = 7});
///
/// A formula or refresher that reads one key (`read(key)`) depends on that key only;
/// one that reads the map, on all of it. A subscription with
/// `{.retained = true}` is served every key as added. All else as for `state`.
/// Keys and values are copied for the subscribers.
template <class Key, class T, class Same = std::equal_to<>>
class announced_map : private detail::source_node,
                      public detail::value_source<map_change<Key, T>, announced_map<Key, T, Same>> {
public:
    using value_type = std::map<Key, T>;

    /// `name` is for messages, reports and saves, and is copied. `same` says whether two items are equal.
    explicit announced_map(std::string_view name, std::map<Key, T> items = {}, Same same = {})
        : source_node(how), name_(name), items_(std::move(items)), same_(std::move(same)) {
        detail::enter_graph(*this);
    }
    announced_map(const announced_map&) = delete;
    announced_map& operator=(const announced_map&) = delete;
    ~announced_map() {
        if (in_use) [[unlikely]] {
            detail::report_ended_in_use(*this);
        }
        keys_.clear();
        detail::leave_graph(*this);
    }

    /// The name it was made with. A view that is good while it lives.
    [[nodiscard]] const std::string& name() const noexcept { return name_; }
    /// The items, as something that a refresher or formula depends on. Good until the next change.
    [[nodiscard]] const std::map<Key, T>& read() const {
        detail::note_read(const_cast<announced_map&>(*this));
        return items_;
    }
    /// The items, without depending on them. Good until the next change.
    [[nodiscard]] const std::map<Key, T>& glance() const noexcept { return items_; }

    /// The value of one key, or null; a reader depends on that key only.
    [[nodiscard]] const T* read(const Key& key) const {
        if (detail::this_values.reader != nullptr) {
            detail::note_read(const_cast<announced_map&>(*this).node_of(key));
        }
        return glance(key);
    }
    /// One item, without depending on it, or null. Good until the next change.
    [[nodiscard]] const T* glance(const Key& key) const {
        const auto found = items_.find(key);
        return found != items_.end() ? &found->second : nullptr;
    }

    /// Adds or changes; false when the key has that value already, or a
    /// formula is being computed.
    bool set(const Key& key, T value, std::source_location where = std::source_location::current()) {
        if ((!in_use && has(key, value)) || !detail::may_change(*this, where)) {
            return false;
        }
        std::optional<T> gone; // destroyed last
        change(key, where, [&] {
            const auto found = items_.find(key);
            note_before(key, found);
            if (found != items_.end()) {
                gone.emplace(detail::replace(found->second, std::move(value)));
            } else {
                items_.emplace(key, std::move(value));
            }
            return true;
        });
        return true;
    }
    /// False when there is no such key, or a formula is being computed.
    bool remove(const Key& key, std::source_location where = std::source_location::current()) {
        if (!detail::may_change(*this, where)) {
            return false;
        }
        typename std::map<Key, T>::node_type gone; // destroyed last
        const Key own = key;                       // which may lie in what goes
        change(own, where, [&] {
            const auto found = items_.find(own);
            if (found == items_.end()) {
                return false;
            }
            note_before(own, found);
            gone = items_.extract(found);
            return true;
        });
        return !gone.empty();
    }
    /// Removes each item and announces that.
    void clear(std::source_location where = std::source_location::current()) {
        together([&] {
            while (!items_.empty() && remove(items_.begin()->first, where)) {}
        });
    }

private:
    friend class detail::value_source<map_change<Key, T>, announced_map<Key, T, Same>>;
    friend struct detail::access;
    friend struct detail::saving_access;

    // Serves the present items on request; see `delivery_options::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        const std::map<Key, T> copy = copy_of_items(); // a handler may change the map
        std::vector<map_change<Key, T>> all;
        std::vector<const void*> payloads;
        all.reserve(copy.size());
        for (const auto& [key, value] : copy) {
            all.push_back(map_change<Key, T>(key, nullptr, &value));
            payloads.push_back(&all.back());
        }
        this->serve_several(s, payloads.data(), payloads.size(), where);
    }

    /// What depends on one key.
    struct key_node : detail::source_node {
        explicit key_node(const announced_map& of) : source_node(key_how), whole(&of) { detail::enter_graph(*this); }
        key_node(const key_node&) = delete;
        key_node& operator=(const key_node&) = delete;
        ~key_node() { detail::leave_graph(*this); }
        const announced_map* whole;
        std::uint64_t old_version = 0;
    };
    /// The value a key had, until its change is announced.
    struct entry {
        Key key;
        std::optional<T> before;
        std::uint64_t old_version; ///< of the key's node
    };

    static announced_map& of(detail::source_node& node) noexcept { return static_cast<announced_map&>(node); }
    static void nothing(detail::source_node&) {}
    static bool nobody(const detail::source_node&) noexcept { return false; }
    static void announce_it(detail::source_node& node) { of(node).announce(); }
    static void compare_it(detail::source_node& node) { of(node).compare(); }
    static bool is_watched_it(const detail::source_node& node) noexcept {
        return static_cast<const announced_map&>(node).watched();
    }
    static std::string describe_it(const detail::source_node& node) {
        return "map '" + static_cast<const announced_map&>(node).name_ + "'";
    }
    static std::string describe_key(const detail::source_node& node) {
        return "a key of map '" + static_cast<const key_node&>(node).whole->name_ + "'";
    }
    static constexpr detail::source_ops how{&announce_it, &is_watched_it, &compare_it, &describe_it};
    static constexpr detail::source_ops key_how{&nothing, &nobody, &nothing, &describe_key};

    void prepare() const {
        auto& own = const_cast<announced_map&>(*this);
        if constexpr (checked_build) {
            detail::check_use(own, "subscribed to", std::source_location{});
        }
        own.told = true;
    }
    [[nodiscard]] const std::string& source_name() const noexcept { return name_; }

    auto place_of(const Key& key) {
        auto low = journal_.waiting.begin();
        for (auto count = journal_.waiting.size(); count != 0;) {
            const auto half = count / 2;
            const auto middle = low + static_cast<std::ptrdiff_t>(half);
            const bool before = (*middle)->key < key;
            low = before ? middle + 1 : low;
            count = before ? count - half - 1 : half;
        }
        return low;
    }

    void note_before(const Key& key, typename std::map<Key, T>::iterator found) {
        if (!this->watched() && detail::this_hold.holds == 0) {
            return;
        }
        if (journal_.waiting.empty()) {
            old_version_ = version;
        }
        if (const auto at = place_of(key); at == journal_.waiting.end() || key < (*at)->key) {
            const auto node = keys_.find(key);
            auto one =
                detail::make_owned<entry>(key, found != items_.end() ? std::optional<T>(found->second) : std::nullopt,
                                          node != keys_.end() ? node->second->version : 0);
            journal_.waiting.insert(at, std::move(one));
        }
    }

    std::map<Key, T> copy_of_items() const {
        const detail::while_true now(const_cast<announced_map&>(*this).in_use);
        return items_;
    }
    bool has(const Key& key, const T& value) {
        const detail::while_true now(in_use);
        const auto found = items_.find(key);
        return found != items_.end() && same_(std::as_const(found->second), value);
    }

    key_node& node_of(const Key& key) {
        auto found = keys_.find(key);
        if (found == keys_.end()) {
            found = keys_.emplace(key, detail::make_owned<key_node>(*this)).first;
        }
        return *found->second;
    }

    /// It may not be changed or ended by what it runs itself.
    template <class What>
    void change(const Key& key, std::source_location where, What what) {
        detail::make_room_for_change();
        bool changed = false;
        {
            const detail::while_true now(in_use);
            changed = what();
        }
        if (changed) {
            touch_key(key, where);
        }
    }

    void touch_key(const Key& key, std::source_location where) {
        this->note_change(where);
        if (const auto node = keys_.find(key); node != keys_.end()) {
            if (node->second->readers == nullptr) {
                keys_.erase(node); // who read it is gone, or reads something else
            } else {
                detail::touch(*node->second);
            }
        }
        detail::touch(*this);
        detail::settle();
    }

    [[nodiscard]] bool is_as_before(const entry& e) const {
        const T* const now = glance(e.key);
        return e.before.has_value() == (now != nullptr) &&
               (now == nullptr || same_(std::as_const(*e.before), std::as_const(*now))); // held by compare(): in_use
    }

    void compare() {
        if (journal_.waiting.empty()) {
            return;
        }
        std::vector<detail::owned<entry>> gone; // destroyed last
        gone.reserve(journal_.waiting.size());
        const detail::while_true now(in_use);
        for (std::size_t i = 0; i < journal_.waiting.size();) {
            const entry& e = *journal_.waiting[i];
            if (!is_as_before(e)) {
                ++i;
                continue;
            }
            if (const auto node = keys_.find(e.key); node != keys_.end() && e.old_version != 0) {
                node->second->version = e.old_version;
            }
            gone.push_back(detail::taken_from(journal_.waiting, i));
        }
        if (journal_.waiting.empty()) {
            version = old_version_;
        }
    }

    void announce() {
        detail::first_failure failed;
        failed.run([this] { compare(); }); // one that throws has found no two values the same
        failed.run([this] { tell_each(); });
        failed.rethrow();
    }

    std::optional<T> copy_of(const Key& key) {
        const detail::while_true now(in_use);
        const T* const there = glance(key);
        return there != nullptr ? std::optional<T>(*there) : std::nullopt;
    }

    void tell_each() {
        journal_.announce([this](const entry& one) {
            const std::optional<T> after = copy_of(one.key);
            if (one.before || after) {
                this->tell(map_change<Key, T>(one.key, one.before ? &*one.before : nullptr, after ? &*after : nullptr));
            }
        });
    }

    std::string name_;
    std::map<Key, T> items_;
    std::map<Key, detail::owned<key_node>> keys_; ///< that somebody depends on
    detail::journal<entry> journal_;              ///< not yet announced, in the order of the keys
    std::uint64_t old_version_ = 0;
    [[no_unique_address]] Same same_;
};

WIRED_COURIER_NAMESPACE_END
