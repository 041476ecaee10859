// SPDX-License-Identifier: MIT
#include <courier/detail/delivery/address_book.hpp>

#include <bit>
#include <new>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

address_book::~address_book() {
    free_cells();
}

void address_book::free_cells() noexcept {
    if (cells_ != &none_) {
        delete[] cells_;
    }
    cells_ = &none_;
    mask_ = 0;
}

std::size_t address_book::bytes() const noexcept {
    const std::size_t cells = cells_ != &none_ ? (mask_ + 1) * sizeof(address_cell) : 0;
    return sizeof(address_book) + cells + work_area_.capacity() * sizeof(address_part*);
}

void address_book::make_room() {
    if (cells_ == &none_) {
        rehash(smallest);
    } else if ((used_ + 1) * 4 > (mask_ + 1) * 3) {
        rehash((mask_ + 1) * 2);
    }
}

void address_book::rehash(std::size_t capacity) {
    auto* const fresh = new address_cell[capacity]{};
    const std::size_t mask = capacity - 1;
    const auto shift = static_cast<unsigned>(64 - std::countr_zero(capacity));
    for (std::size_t from = 0; from <= mask_; ++from) {
        if (cells_[from].first != nullptr) {
            std::size_t to = cells_[from].code >> shift;
            while (fresh[to].first != nullptr) {
                to = (to + 1) & mask;
            }
            fresh[to] = cells_[from];
        }
    }
    free_cells();
    cells_ = fresh;
    mask_ = mask;
    shift_ = shift;
}

address_cell& address_book::cell_for(const address_request& at) noexcept {
    const while_comparing now(*this);
    std::size_t i = at.code >> shift_;
    for (; cells_[i].first != nullptr; i = (i + 1) & mask_) {
        if (cells_[i].code == at.code &&
            (at.address == nullptr ||
             is_at(*cells_[i].first, [&at](const held_address& a) { return at.same(a, *at.address); }))) {
            return cells_[i];
        }
    }
    cells_[i].code = at.code;
    ++used_;
    return cells_[i];
}

void address_book::note_alone(address_cell& cell) noexcept {
    cell.alone = cell.first->next == nullptr ? cell.first->hot : entry{nullptr, nullptr};
}

void address_book::link(address_part& part, const address_request* at) noexcept {
    if (at == nullptr) {
        part.code = 0;
        link_in(part, listeners_);
        return;
    }
    part.code = at->code;
    address_cell& cell = cell_for(*at);
    link_in(part, cell.first);
    note_alone(cell);
}

// Behind everybody of the same or an earlier stage; most often the last.
void address_book::link_in(address_part& part, address_part*& first) noexcept {
    if (first == nullptr) {
        part.next = nullptr;
        part.previous = &part;
        first = &part;
        return;
    }
    address_part* const last = first->previous;
    address_part* before = last;
    const stage place = part.self->list->place;
    while (before != nullptr && place < before->self->list->place) {
        before = before == first ? nullptr : before->previous;
    }
    if (before == nullptr) {
        part.next = first;
        part.previous = last;
        first->previous = &part;
        first = &part;
        return;
    }
    part.next = before->next;
    part.previous = before;
    (part.next != nullptr ? part.next : first)->previous = &part;
    before->next = &part;
}

// The place of the list that begins or ends with `part`.
std::size_t address_book::place_of(const address_part& part) const noexcept {
    std::size_t i = part.code >> shift_;
    while (cells_[i].first != &part && cells_[i].first->previous != &part) {
        i = (i + 1) & mask_;
    }
    return i;
}

void address_book::set_run(address_part& part, invoke_fn run) noexcept {
    part.hot.run = run;
    const bool alone = part.previous == &part && part.next == nullptr;
    if (alone && !part.self->to_all) {
        cells_[place_of(part)].alone.run = run;
    }
}

void address_book::unlink(address_part& part) noexcept {
    const bool is_first = part.previous->next == nullptr;
    const bool is_last = part.next == nullptr;
    if (!is_first && !is_last) {
        part.previous->next = part.next;
        part.next->previous = part.previous;
    } else if (part.self->to_all) {
        unlink_end(part, listeners_);
    } else {
        const std::size_t place = place_of(part);
        unlink_end(part, cells_[place].first);
        if (cells_[place].first == nullptr) {
            close_gap(place);
        } else {
            note_alone(cells_[place]);
        }
    }
    part.self = nullptr;
}

// Takes out the first or the last of a list, or both in one.
void address_book::unlink_end(address_part& part, address_part*& first) noexcept {
    if (&part == first) {
        first = part.next;
        if (first != nullptr) {
            first->previous = part.previous;
        }
    } else {
        part.previous->next = nullptr;
        first->previous = part.previous;
    }
}

// Moves what stands behind an emptied cell forward, so that every list is
// found from its own place on without a gap in between (Knuth, "The Art of
// Computer Programming", volume 3, 6.4, algorithm R).
void address_book::close_gap(std::size_t gap) noexcept {
    for (std::size_t i = (gap + 1) & mask_; cells_[i].first != nullptr; i = (i + 1) & mask_) {
        const std::size_t home = cells_[i].code >> shift_;
        if (((i - home) & mask_) >= ((i - gap) & mask_)) {
            cells_[gap] = cells_[i];
            gap = i;
        }
    }
    cells_[gap].first = nullptr;
    --used_;
    if (mask_ + 1 > smallest && used_ * 8 < mask_ + 1) {
        try_rehash((mask_ + 1) / 4);
    }
}

void address_book::try_rehash(std::size_t capacity) noexcept {
#if WIRED_COURIER_EXCEPTIONS
    try {
        rehash(capacity);
    } catch (...) { // a smaller table is a favour, no more
    }
#else
    rehash(capacity);
#endif
}

void address_book::shrink() noexcept {
    work_area_ = {};
    if (used_ == 0) {
        free_cells();
        return;
    }
    std::size_t wanted = smallest;
    while (used_ * 4 > wanted * 3) {
        wanted *= 2;
    }
    if (wanted < mask_ + 1) {
        try_rehash(wanted);
    }
}

void address_book::give_back(std::vector<address_part*>&& area) noexcept {
    if (area.capacity() > work_area_.capacity()) {
        work_area_ = std::move(area);
    }
    work_area_.clear();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
