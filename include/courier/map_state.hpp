// A map that announces what was added, removed and changed.
#pragma once

#include <courier/config.hpp>
#include <courier/detail/journal.hpp>
#include <courier/detail/owned.hpp>
#include <courier/detail/value_core.hpp>
#include <courier/detail/value_source.hpp>
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

namespace courier::inline WIRED_COURIER_ABI {

/// What is announced of a map: one key.
template <class Key, class T>
class map_change {
public:
    map_change(map_change&&) noexcept = default;
    map_change(const map_change&) = delete;
    map_change& operator=(const map_change&) = delete;

    [[nodiscard]] item_change what() const noexcept {
        return before_ == nullptr  ? item_change::added
               : after_ == nullptr ? item_change::removed
                                   : item_change::changed;
    }
    [[nodiscard]] const Key& key() const noexcept { return *key_; }
    [[nodiscard]] const T* before() const noexcept { return before_; } ///< null when it was added
    [[nodiscard]] const T* after() const noexcept { return after_; }   ///< null when it was removed

private:
    template <class, class, class>
    friend class map_state;
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
///     courier::map_state<int, Berth> berths{"harbour.berths"};
///     berths.set(3, {.barge = 7});
///
/// A formula or view that reads one key (`read(key)`) depends on that key only;
/// one that reads the map, on all of it. One who subscribes with
/// `{.retained = true}` is served every key as added. All else as for `state`.
/// Keys and values are copied for those who are told.
template <class Key, class T, class Same = std::equal_to<>>
class map_state : private detail::value_node, public detail::value_source<map_change<Key, T>, map_state<Key, T, Same>> {
public:
    using value_type = std::map<Key, T>;

    explicit map_state(std::string_view name, std::map<Key, T> items = {}, Same same = {})
        : value_node(how), name_(name), items_(std::move(items)), same_(std::move(same)) {
        detail::enter_graph(*this);
    }
    map_state(const map_state&) = delete;
    map_state& operator=(const map_state&) = delete;
    ~map_state() {
        keys_.clear();
        detail::leave_graph(*this);
    }

    [[nodiscard]] const std::string& name() const noexcept { return name_; }
    [[nodiscard]] const std::map<Key, T>& read() const {
        detail::note_read(const_cast<map_state&>(*this));
        return items_;
    }
    [[nodiscard]] const std::map<Key, T>& peek() const noexcept { return items_; }

    /// The value of one key, or null; whoever reads it depends on that key only.
    [[nodiscard]] const T* read(const Key& key) const {
        if (detail::this_values.reader != nullptr) {
            detail::owned<key_node>& node = const_cast<map_state&>(*this).keys_[key];
            if (node == nullptr) {
                node = detail::make_owned<key_node>(*this);
            }
            detail::note_read(*node);
        }
        return peek(key);
    }
    [[nodiscard]] const T* peek(const Key& key) const {
        const auto found = items_.find(key);
        return found != items_.end() ? &found->second : nullptr;
    }

    /// Adds or changes; false when the key has that value already, or a
    /// formula is being computed.
    bool set(const Key& key, T value, std::source_location where = std::source_location::current()) {
        const auto found = items_.find(key);
        if ((found != items_.end() && same_(std::as_const(found->second), std::as_const(value))) ||
            !detail::may_change(*this, where)) {
            return false;
        }
        note_before(key, found);
        if (found != items_.end()) {
            found->second = std::move(value);
        } else {
            items_.emplace(key, std::move(value));
        }
        touch_key(key, where);
        return true;
    }
    /// False when there is no such key, or a formula is being computed.
    bool remove(const Key& key, std::source_location where = std::source_location::current()) {
        const auto found = items_.find(key);
        if (found == items_.end() || !detail::may_change(*this, where)) {
            return false;
        }
        const Key own = key; // which may lie in what goes
        note_before(own, found);
        items_.erase(found);
        touch_key(own, where);
        return true;
    }
    void clear(std::source_location where = std::source_location::current()) {
        together([&] {
            while (!items_.empty() && remove(items_.begin()->first, where)) {}
        });
    }

    /// For subscribers; see `delivery::retained`.
    void serve_current(detail::slot* s, std::source_location where) const {
        const std::map<Key, T> copy = items_; // a handler may change the map
        std::vector<map_change<Key, T>> all;
        std::vector<const void*> payloads;
        all.reserve(copy.size());
        for (const auto& [key, value] : copy) {
            all.push_back(map_change<Key, T>(key, nullptr, &value));
            payloads.push_back(&all.back());
        }
        this->serve_several(s, payloads.data(), payloads.size(), where);
    }

private:
    friend class detail::value_source<map_change<Key, T>, map_state<Key, T, Same>>;
    friend struct detail::access;

    /// What depends on one key.
    struct key_node : detail::value_node {
        explicit key_node(const map_state& of) : value_node(key_how), whole(&of) { detail::enter_graph(*this); }
        key_node(const key_node&) = delete;
        key_node& operator=(const key_node&) = delete;
        ~key_node() { detail::leave_graph(*this); }
        const map_state* whole;
        std::uint64_t old_version = 0;
    };
    /// The value a key had, until its change is announced.
    struct entry {
        Key key;
        std::optional<T> before;
        std::uint64_t old_version; ///< of the key's node
    };

    static map_state& of(detail::value_node& node) noexcept { return static_cast<map_state&>(node); }
    static void nothing(detail::value_node&) {}
    static void no_renewal(detail::reader_node&) {}
    static bool nobody(const detail::value_node&) noexcept { return false; }
    static void announce_it(detail::value_node& node) { of(node).announce(); }
    static void compare_it(detail::value_node& node) { of(node).compare(); }
    static bool is_watched_it(const detail::value_node& node) noexcept {
        return static_cast<const map_state&>(node).watched();
    }
    static std::string describe_it(const detail::value_node& node) {
        return "map '" + static_cast<const map_state&>(node).name_ + "'";
    }
    static std::string describe_key(const detail::value_node& node) {
        return "a key of map '" + static_cast<const key_node&>(node).whole->name_ + "'";
    }
    static constexpr detail::value_ops how{&no_renewal, &announce_it, &is_watched_it, &compare_it, &describe_it};
    static constexpr detail::value_ops key_how{&no_renewal, &nothing, &nobody, &nothing, &describe_key};

    void prepare() const noexcept { const_cast<map_state&>(*this).told = true; }
    [[nodiscard]] const std::string& source_name() const noexcept { return name_; }

    auto place_of(const Key& key) {
        auto low = journal_.waiting.begin();
        for (auto count = journal_.waiting.size(); count != 0;) {
            const auto half = count / 2;
            const auto middle = low + static_cast<std::ptrdiff_t>(half);
            const bool before = middle->key < key;
            low = before ? middle + 1 : low;
            count = before ? count - half - 1 : half;
        }
        return low;
    }

    void note_before(const Key& key, typename std::map<Key, T>::iterator found) {
        if (!this->watched() && detail::this_values.together == 0) {
            return;
        }
        if (journal_.waiting.empty()) {
            old_version_ = version;
        }
        if (const auto at = place_of(key); at == journal_.waiting.end() || key < at->key) {
            const auto node = keys_.find(key);
            journal_.waiting.insert(at, {key, found != items_.end() ? std::optional<T>(found->second) : std::nullopt,
                                         node != keys_.end() ? node->second->version : 0});
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
        const T* const now = peek(e.key);
        return e.before.has_value() == (now != nullptr) &&
               (now == nullptr || same_(std::as_const(*e.before), std::as_const(*now)));
    }

    void compare() {
        if (journal_.waiting.empty()) {
            return;
        }
        std::erase_if(journal_.waiting, [&](const entry& e) {
            if (!is_as_before(e)) {
                return false;
            }
            if (const auto node = keys_.find(e.key); node != keys_.end() && e.old_version != 0) {
                node->second->version = e.old_version;
            }
            return true;
        });
        if (journal_.waiting.empty()) {
            version = old_version_;
        }
    }

    void announce() {
        compare();
        journal_.announce([this](const entry& one) {
            const T* const now = peek(one.key);
            const std::optional<T> after = now != nullptr ? std::optional<T>(*now) : std::nullopt;
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

} // namespace courier::inline WIRED_COURIER_ABI
