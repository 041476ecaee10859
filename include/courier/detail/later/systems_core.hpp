// Systems without their types: who needs whom, who keeps whom, and the order of
// their updates; compiled once.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/delivery/put_off.hpp>
#include <courier/game_time.hpp>

#include <cstddef>
#include <cstdint>
#include <exception>
#include <source_location>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Tells the types of systems apart, in all shared libraries.
using system_key = std::uint64_t;

/// What one type of system can do, as far as it has that.
struct system_ops {
    std::string_view type;
    void (*destroy)(void* object) noexcept = nullptr; ///< null: it was lent
    void (*update)(void* object, game_time step) = nullptr;
    void (*pause)(void* object) = nullptr;
    void (*resume)(void* object) = nullptr;
};

struct system_entry;
struct team_note;
/// All that is kept of them, where no header has to read it.
struct system_parts;

class systems_core {
public:
    explicit systems_core(std::string_view name);
    systems_core(const systems_core&) = delete;
    systems_core& operator=(const systems_core&) = delete;
    ~systems_core();

    /// The object under that key, or null.
    [[nodiscard]] void* find(system_key key) const noexcept;
    /// Notes that whoever is being made needs it.
    void note_need(system_key key, bool changes);
    /// Another one under its key is to be made; throws when that is a circle.
    void begin(system_key key, std::string_view type);
    /// It was, or could not be made.
    void made(system_key key, const system_ops& ops, void* object);
    void not_made() noexcept;
    void lend(system_key key, const system_ops& ops, void* object, std::source_location where);
    void ask(system_key key);
    /// Nobody can make one of that type; throws.
    [[noreturn]] void report_missing(std::string_view type) const;

    /// Around everything that makes systems: undoes what was made when it throws.
    class making {
    public:
        making(systems_core& core, std::source_location where) noexcept;
        making(const making&) = delete;
        making& operator=(const making&) = delete;
        ~making();
        void done() noexcept;

    private:
        systems_core& core_;
        std::size_t before_;
        bool outermost_;
        bool done_ = false;
    };

    std::uint32_t open_team(std::string_view name);
    void add_to_team(std::uint32_t number, system_key key);
    void pause_team(std::uint32_t number, bool pause);
    void end_team(std::uint32_t number);
    [[nodiscard]] const team_note* team(std::uint32_t number) const noexcept;

    void update(game_time step);
    /// Around a frame of a driver's: what ends meanwhile goes afterwards.
    void begin_frame() noexcept { ++frames_; }
    void end_frame() noexcept;
    /// Everything ends, the newest first.
    void close() noexcept;
    /// What its systems are now, for a ledger that outlives them.
    void keep_reports() const noexcept;

    /// In which of its waves each can be updated: those of one wave have nothing
    /// in common.
    [[nodiscard]] std::vector<std::size_t> waves() const;

    /// A system that is made in place of another.
    struct stand_in {
        system_key instead_of;
        void (*make)(systems_core& in);
    };
    std::vector<stand_in> stand_ins;

    std::uint32_t refs = 1;
    bool over = false;
    std::string name;
    system_parts& parts;
    systems_core* next = nullptr; ///< of this thread's
    systems_core** back = nullptr;

private:
    [[nodiscard]] system_entry* entry_of(system_key key) noexcept;
    [[nodiscard]] const system_entry* entry_of(system_key key) const noexcept;
    [[nodiscard]] bool needs(const system_entry& one, system_key key) const noexcept;
    void settle();
    void settle_and_remove() noexcept;
    void settle_lives() noexcept;
    void settle_activity(class first_failure& failed);
    void remove_ended() noexcept;
    void remove_ended_when_safe() noexcept;
    void list_updates();
    void undo_since(std::size_t before) noexcept;

    std::source_location asked_at_; ///< of that
    bool updates_changed_ = true;
    bool updating_ = false;
    std::uint32_t frames_ = 0; ///< of drivers, under way
    std::uint32_t newest_team_ = 0;
    put_off at_the_end_{[](void* self) { static_cast<systems_core*>(self)->remove_ended(); }, this};
};

systems_core* open_systems(std::string_view name);
/// Of this thread; others hang on it.
[[nodiscard]] systems_core* newest_systems() noexcept;
inline void retain(systems_core& core) noexcept {
    ++core.refs;
}
void release(systems_core& core) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
