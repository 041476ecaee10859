// Who is subscribed at which address of one channel. Does not depend on the
// type of the addresses; compiled once.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/delivery/oversight.hpp>
#include <courier/detail/delivery/stage_list.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// A copy of an address that does not fit into its code.
struct held_address {
    void (*destroy)(held_address*) noexcept;
};

/// What a subscription on an addressed channel has behind its slot. Parts at
/// one address form a list in the order of delivery, as do those that listen
/// to all; the whole channel's order is in its stage lists.
struct address_part {
    entry hot;              ///< a copy of the subscription's entry
    address_part* next;     ///< null at the end
    address_part* previous; ///< of the first one: the last one
    slot* self;             ///< null while in no list
    std::uint64_t code;     ///< of the address
};

/// The same when addresses do not fit into their codes.
struct keyed_part : address_part {
    held_address* address; ///< its own copy, since it may come from a module; null when it listens to all
    void* filler;          ///< keeps what lies in front of it aligned as any handler needs
};

/// Where a subscription is wanted.
struct address_request {
    std::uint64_t code;
    held_address* address; ///< null when the code says it all; ownership is not taken
    bool (*same)(const held_address&, const held_address&);
    address_label label = {}; ///< how it is written
};

enum class addressing : std::uint8_t {
    none,
    by_code, ///< two addresses are the same when their codes are
    by_key,  ///< they have to be compared as well
};

/// How much a subscription needs behind its slot.
constexpr std::size_t part_size(addressing how) noexcept {
    return how == addressing::none ? 0 : how == addressing::by_code ? sizeof(address_part) : sizeof(keyed_part);
}

/// One address. An address with one subscription, which is what most have,
/// is served from here, without a look at the part.
struct address_cell {
    std::uint64_t code;
    address_part* first; ///< null: the cell is empty
    entry alone;         ///< of the only part; `run` is null when there are several
};

/// A hash table with open addressing from codes to lists of parts. Codes are
/// well mixed, so that their upper bits are the place.
class address_book {
public:
    explicit address_book(addressing how) noexcept : how_(how) {}
    address_book(const address_book&) = delete;
    address_book& operator=(const address_book&) = delete;
    ~address_book();

    /// Those who are subscribed at an address; an empty cell when there is
    /// nobody. Good until somebody comes or goes.
    [[nodiscard]] const address_cell& find(std::uint64_t code) const noexcept {
        for (std::size_t i = (code >> shift_) & mask_;; i = (i + 1) & mask_) {
            if (cells_[i].first == nullptr || cells_[i].code == code) {
                return cells_[i];
            }
        }
    }
    template <class Same>
    [[nodiscard]] const address_cell& find(std::uint64_t code, Same same) const {
        const while_comparing now(*this);
        for (std::size_t i = (code >> shift_) & mask_;; i = (i + 1) & mask_) {
            if (cells_[i].first == nullptr || (cells_[i].code == code && is_at(*cells_[i].first, same))) {
                return cells_[i];
            }
        }
    }

    /// Those who listen to all.
    [[nodiscard]] address_part* listeners() const noexcept { return listeners_; }

    /// How many addresses have a subscription.
    [[nodiscard]] std::size_t size() const noexcept { return used_; }
    [[nodiscard]] std::size_t bytes() const noexcept;
    [[nodiscard]] bool keyed() const noexcept { return how_ == addressing::by_key; }

    /// While addresses are compared, which is code of the user's, nobody may
    /// come or go. Known in checked builds only.
    [[nodiscard]] bool comparing() const noexcept { return comparing_; }

    /// Makes sure that `link()` at one address more needs no memory.
    void make_room();

    /// Puts `part`, which is the newest of the channel, into the list at the
    /// address, or of the listeners to all. Needs `make_room()` first.
    void link(address_part& part, const address_request* at) noexcept;
    void unlink(address_part& part) noexcept;

    /// What is run for `part` from now on.
    void set_run(address_part& part, invoke_fn run) noexcept;

    /// Gives unused memory back.
    void shrink() noexcept;

    /// Publishes to an address or group where nobody was subscribed.
    void note_vacant(std::source_location where, std::size_t publishes = 1) noexcept {
        vacant_ += publishes;
        last_vacant_ = where;
    }
    [[nodiscard]] std::uint64_t vacant() const noexcept { return vacant_; }
    [[nodiscard]] std::source_location last_vacant() const noexcept { return last_vacant_; }

    /// A work area for publishing to groups; taken while in use.
    std::vector<address_part*> take_work_area() noexcept { return std::move(work_area_); }
    void give_back(std::vector<address_part*>&& area) noexcept;

private:
    static constexpr std::size_t smallest = 8;

    // A part whose module goes away in the middle of a publish has no address any more.
    template <class Same>
    static bool is_at(const address_part& part, Same same) {
        const held_address* const address = static_cast<const keyed_part&>(part).address;
        return address != nullptr && same(*address);
    }

    class while_comparing {
    public:
        explicit while_comparing(const address_book& of) noexcept : of_(of) {
            if constexpr (checked_build) {
                of_.comparing_ = true;
            }
        }
        while_comparing(const while_comparing&) = delete;
        while_comparing& operator=(const while_comparing&) = delete;
        ~while_comparing() {
            if constexpr (checked_build) {
                of_.comparing_ = false;
            }
        }

    private:
        const address_book& of_;
    };

    [[nodiscard]] std::size_t place_of(const address_part& part) const noexcept;
    [[nodiscard]] address_cell& cell_for(const address_request& at) noexcept;
    static void link_in(address_part& part, address_part*& first) noexcept;
    static void unlink_end(address_part& part, address_part*& first) noexcept;
    static void note_alone(address_cell& cell) noexcept;
    void free_cells() noexcept;
    void close_gap(std::size_t gap) noexcept;
    void rehash(std::size_t capacity);
    void try_rehash(std::size_t capacity) noexcept;

    address_cell none_{}; ///< the only cell of an empty book
    address_cell* cells_ = &none_;
    std::size_t mask_ = 0; ///< capacity - 1
    unsigned shift_ = 63;  ///< from a code to a place
    addressing how_;
    std::size_t used_ = 0;
    address_part* listeners_ = nullptr;
    std::uint64_t vacant_ = 0;
    std::source_location last_vacant_;
    std::vector<address_part*> work_area_;
    mutable bool comparing_ = false;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
