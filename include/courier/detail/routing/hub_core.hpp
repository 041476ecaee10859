// A hub without the types of its channels; compiled once.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/owned.hpp>
#include <courier/detail/base/type_number.hpp>
#include <courier/detail/delivery/channel_core.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

/// What a hub has under a name.
enum class hub_kind : std::uint8_t { channel, query, value };

/// One channel, query or value of a hub, for reports.
struct hub_line {
    std::string name;
    std::string type; ///< of the payload or question; of a value its own, such as "state<int>"
    hub_kind kind;
    std::size_t subscriptions; ///< or answerers
    std::string made_at;       ///< where it was first asked for, such as "match.cpp:12"
};

namespace detail {

struct port;
struct port_ops;
struct value_ops;

/// What is wanted of a hub.
struct hub_request {
    std::uint32_t number;  ///< of the type
    std::string_view type; ///< its name
    addressing how;
    void (*construct)(void* object, channel_core& core); ///< makes the channel or query around its core
    const payload_kind* kind;
    const port_ops* ops = nullptr; ///< null: a query
};

/// A value that a hub is to own.
struct hub_value {
    std::uint32_t number;  ///< of its type
    std::string_view type; ///< the type's name
    void (*end)(void* source) noexcept;
};

/// A channel, query or value that a hub made.
struct hub_post {
    alignas(void*) std::byte object[2 * sizeof(void*)]; ///< the channel or query itself
    channel_core* core;
    const port_ops* ops; ///< null: a query
    const value_ops* value = nullptr;
    void* source = nullptr; ///< of a value: itself
    void (*end)(void* source) noexcept = nullptr;
    bool is_named;
    std::uint32_t number;
    std::string type;
    std::string made_at; ///< text of its own, since whoever asked first may be unloaded
};

class hub_watch;

class hub_core {
public:
    hub_core(std::string_view name, hub_core* parent);
    hub_core(const hub_core&) = delete;
    hub_core& operator=(const hub_core&) = delete;
    ~hub_core();

    [[nodiscard]] std::string_view name() const noexcept { return name_; }
    [[nodiscard]] std::size_t size() const noexcept { return posts_.size(); }
    [[nodiscard]] std::vector<hub_line> list() const;

    /// The ledger, by its number, that gets the books of channels made from now on, here and below.
    void set_overseer(std::uint32_t ledger) noexcept;
    [[nodiscard]] bool overseen_by(std::uint32_t ledger) const noexcept { return overseer_ == ledger; }
    void each_port(const std::function<void(const port&)>& visit) const;

    /// The channel or query of a type, if it was found before; null otherwise.
    [[nodiscard]] void* find_known(std::uint32_t number) const noexcept {
        return number < known_count_ ? known_at_[number] : nullptr;
    }

    void* open(const hub_request& wanted, std::source_location where);
    void* open_own(const hub_request& wanted, std::source_location where);
    void* open_named(const hub_request& wanted, std::string_view text, std::source_location where);
    /// A value of that name and type, here or above; null when there is none.
    [[nodiscard]] void* find_value(std::uint32_t number, std::string_view text) const noexcept;
    /// Owns a value from now on; `tell_watches()` comes next. Nothing has changed when memory is full.
    void take_value(const port& made, const hub_value& how, std::string_view text, std::source_location where);
    void tell_watches(const port& made) const;
    [[nodiscard]] void* find_anywhere(const hub_request& wanted) const noexcept;
    [[nodiscard]] std::string_view type_named(std::string_view text) const;
    [[nodiscard]] void* find_text(const hub_request& wanted, std::string_view text, std::source_location where) const;

private:
    friend class hub_watch;
    hub_post& make(const hub_request& wanted, std::string_view name, bool named, std::source_location where);
    void know(std::uint32_t number, void* object);
    void forget_parents() noexcept;
    [[nodiscard]] bool made(const void* object) const noexcept;
    [[nodiscard]] hub_post* own_post(std::uint32_t number) const noexcept;
    [[nodiscard]] hub_post* find_by_text(std::uint32_t number, std::string_view text,
                                         bool only_named = false) const noexcept;
    void report_hidden_below(const hub_request& wanted, std::source_location where) const;
    void report_clash(std::string_view type, std::string_view text, std::source_location where) const;
    [[nodiscard]] std::vector<std::string> names_of(const hub_request& wanted) const;

    void** known_at_ = nullptr; ///< what `known_` holds, without the way there
    std::uint32_t known_count_ = 0;
    std::vector<void*> known_; ///< by type number; a parent's too
    std::vector<detail::owned<hub_post>> posts_;
    owned<struct text_index> by_text_; ///< in the source file, since its type costs every includer
    std::string name_;
    hub_core* parent_;
    std::vector<hub_core*> children_;
    hub_watch* watches_ = nullptr;
    std::uint32_t overseer_ = 0;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
