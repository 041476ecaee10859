#include <courier/detail/address_book.hpp>

#include <bit>
#include <new>

namespace courier::inline WIRED_COURIER_ABI::detail {

address_book::~address_book() {
    delete[] cells_;
}

std::size_t address_book::bytes() const noexcept {
    const std::size_t cells = cells_ != nullptr ? (mask_ + 1) * sizeof(cell) : 0;
    return sizeof(address_book) + cells + work_area_.capacity() * sizeof(address_part*);
}

void address_book::make_room() {
    if (cells_ == nullptr) {
        rehash(smallest);
    } else if ((used_ + 1) * 4 > (mask_ + 1) * 3) {
        rehash((mask_ + 1) * 2);
    }
}

void address_book::rehash(std::size_t capacity) {
    cell* const fresh = new cell[capacity]{};
    const std::size_t mask = capacity - 1;
    const auto shift = static_cast<unsigned>(64 - std::countr_zero(capacity));
    for (std::size_t from = 0; cells_ != nullptr && from <= mask_; ++from) {
        if (cells_[from].first != nullptr) {
            std::size_t to = cells_[from].code >> shift;
            while (fresh[to].first != nullptr) {
                to = (to + 1) & mask;
            }
            fresh[to] = cells_[from];
        }
    }
    delete[] cells_;
    cells_ = fresh;
    mask_ = mask;
    shift_ = shift;
}

address_part*& address_book::head_at(const address_request& at) noexcept {
    std::size_t i = at.code >> shift_;
    for (; cells_[i].first != nullptr; i = (i + 1) & mask_) {
        if (cells_[i].code == at.code &&
            (at.address == nullptr ||
             is_at(*cells_[i].first, [&at](const held_address& a) { return at.same(a, *at.address); }))) {
            return cells_[i].first;
        }
    }
    cells_[i].code = at.code;
    ++used_;
    return cells_[i].first;
}

void address_book::link(address_part& part, const address_request* at) noexcept {
    address_part*& first = at != nullptr ? head_at(*at) : listeners_;
    part.code = at != nullptr ? at->code : 0;
    if (first == nullptr) {
        part.next = nullptr;
        part.previous = &part;
        first = &part;
        return;
    }
    // Behind everybody of the same or an earlier stage; most often the last.
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

void address_book::unlink(address_part& part) noexcept {
    const bool is_first = part.previous->next == nullptr;
    const bool is_last = part.next == nullptr;
    const std::size_t place = (is_first || is_last) && !part.self->to_all ? place_of(part) : 0;
    address_part*& first = part.self->to_all ? listeners_ : cells_[place].first;
    if (!is_last) {
        part.next->previous = part.previous;
    } else if (!is_first) {
        first->previous = part.previous;
    }
    if (!is_first) {
        part.previous->next = part.next;
    } else {
        first = part.next;
        if (is_last && !part.self->to_all) {
            close_gap(place);
        }
    }
    part.self = nullptr;
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
        delete[] std::exchange(cells_, nullptr);
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

} // namespace courier::inline WIRED_COURIER_ABI::detail
