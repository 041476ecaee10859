// The phases of something, without their type; compiled once.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// The latest moves.
struct phase_history;

/// A bit for each phase.
using phase_mask = std::uint64_t;
[[nodiscard]] constexpr phase_mask bit_of(std::size_t phase) noexcept {
    return phase_mask{1} << phase;
}

struct phases_core {
    phases_core();
    phases_core(const phases_core&) = delete;
    phases_core& operator=(const phases_core&) = delete;
    ~phases_core();

    std::uint32_t refs = 1;
    bool over = false;
    std::uint8_t now = 0;
    std::uint8_t first = 0;
    std::string name;
    const std::string_view* names = nullptr; ///< by value, as many as are allowed; what has none is empty
    std::vector<phase_mask> allowed;         ///< by the phase that is left
    std::vector<std::uint64_t> entered;      ///< how often, by phase
    phase_history& history;
    std::uint64_t moves = 0;
    std::uint64_t refused = 0;
    phases_core* next = nullptr; ///< of this thread's
    phases_core** back = nullptr;

    /// The phases that are allowed after `from`, for people.
    [[nodiscard]] std::string allowed_after(std::size_t from) const;
    void remember(std::uint8_t from, std::uint8_t to, std::source_location where);
};

phases_core* open_phases(std::string_view name, const std::string_view* names, std::size_t count, std::uint8_t first);
void close_phases(phases_core& core) noexcept;
inline void retain(phases_core& core) noexcept {
    ++core.refs;
}
void release(phases_core& core) noexcept;

/// Ends phases when it ends, also when what owns them could not be made.
class phases_owner {
public:
    explicit phases_owner(phases_core* core) noexcept : core_(core) {}
    phases_owner(const phases_owner&) = delete;
    phases_owner& operator=(const phases_owner&) = delete;
    ~phases_owner() { close_phases(*core_); }
    [[nodiscard]] phases_core& operator*() const noexcept { return *core_; }
    [[nodiscard]] phases_core* operator->() const noexcept { return core_; }

private:
    phases_core* core_;
};

/// Raises misuse, which throws or aborts whatever a fault handler does.
[[noreturn, gnu::cold]] void report_no_phase(std::string_view type, std::size_t number);

/// Raises `courier.move-refused` and returns its text.
std::string refuse_move(phases_core& core, std::size_t to, std::string why, std::source_location where);

/// Whether one of several phases goes on; never once they are gone.
class phase_test {
public:
    phase_test(phases_core& core, phase_mask which) noexcept : core_(core), which_(which) {}

    bool operator()() const noexcept { return !core_->over && ((which_ >> core_->now) & 1) != 0; }

private:
    held<phases_core> core_;
    phase_mask which_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
