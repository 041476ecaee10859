// Payloads of one channel on their way through an outbox.
#pragma once

#include <courier/detail/address_code.hpp>
#include <courier/detail/address_text.hpp>
#include <courier/detail/channel_core.hpp>
#include <courier/posting.hpp>

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <optional>
#include <source_location>
#include <type_traits>
#include <utility>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI::detail {

struct outbox_core;

/// What an outbox knows of a lane.
class lane_base {
public:
    lane_base(outbox_core& through, channel_core& to);
    lane_base(const lane_base&) = delete;
    lane_base& operator=(const lane_base&) = delete;
    virtual ~lane_base();

    /// Moves everything that waits into the round.
    virtual void begin_round() = 0;

    /// Delivers some of the round, `most` at most; returns how many.
    virtual std::size_t deliver(std::size_t most) = 0;

    /// The round is over for this lane; what was delivered is destroyed.
    virtual void end_round() noexcept = 0;

    /// How many of the round are left.
    [[nodiscard]] virtual std::size_t left() const noexcept = 0;
    [[nodiscard]] virtual std::size_t waiting() const noexcept = 0;

    /// Forgets everything.
    virtual void drop() noexcept = 0;

    /// Posts a payload that slept until its time, or a copy of it.
    virtual void wake(std::uint32_t sleeper, bool copy) = 0;
    virtual void forget(std::uint32_t sleeper) noexcept = 0;

    /// Notes what becomes of a post, for the ledger of this thread; the mark is
    /// kept for `place` among those that wait, if that is given.
    void note(const void* payload, posting_outcome outcome);
    void note_at(std::size_t place, const void* payload, posting_outcome outcome);

    std::vector<post_mark> marks;       ///< of those that wait, or of the first few of them
    std::vector<post_mark> round_marks; ///< of those in the round: all, or none
    outbox_core* box;                   ///< its refs keep this lane alive, too
    channel_core* target;               ///< holds a reference
    std::source_location where;         ///< of the newest post
    std::uint32_t users = 0;            ///< posters, senders and sleepers
    bool queued = false;                ///< something waits
    bool box_closed = false;            ///< as the outbox says; one look less for whoever posts
    bool in_round = false;
    bool implicit = false; ///< made by outbox::post(), for whoever posts on that channel
    std::uint64_t refused = 0;
    std::uint64_t delivered = 0;
    std::uint64_t told_refused = 0; ///< as of the newest frame's report
    std::uint64_t told_delivered = 0;
};

/// Notes that something waits in `lane` from now on.
void queue(lane_base& lane);

/// Payloads that wait for their time.
template <class Payload>
class sleepers {
public:
    std::uint32_t add(Payload&& payload, std::source_location where) {
        const post_mark mark = overseen() ? note_sleep(where) : post_mark{{}, where};
        if (free_ == none) {
            places_.push_back({std::move(payload), none, mark});
            return static_cast<std::uint32_t>(places_.size() - 1);
        }
        const std::uint32_t at = free_;
        free_ = places_[at].next;
        places_[at].payload.emplace(std::move(payload));
        places_[at].mark = mark;
        return at;
    }
    [[nodiscard]] Payload& at(std::uint32_t sleeper) { return *places_[sleeper].payload; }
    [[nodiscard]] const post_mark& mark_of(std::uint32_t sleeper) const noexcept { return places_[sleeper].mark; }
    Payload take(std::uint32_t sleeper) {
        Payload own = std::move(*places_[sleeper].payload);
        remove(sleeper);
        return own;
    }
    void remove(std::uint32_t sleeper) noexcept {
        places_[sleeper].payload.reset();
        places_[sleeper].next = free_;
        free_ = sleeper;
    }

private:
    static constexpr std::uint32_t none = std::numeric_limits<std::uint32_t>::max();
    struct place {
        std::optional<Payload> payload;
        std::uint32_t next;
        post_mark mark;
    };
    std::vector<place> places_;
    std::uint32_t free_ = none;
};

/// Where each address' payload waits; emptied in one step.
class address_index {
public:
    /// The place noted for `code`, where `same(place)` holds; null if there is none.
    template <class Same>
    std::uint32_t* find(std::uint64_t code, Same same) {
        for (std::size_t i = code & mask_; !cells_.empty() && cells_[i].round == round_; i = (i + 1) & mask_) {
            if (cells_[i].code == code && same(cells_[i].place)) {
                return &cells_[i].place;
            }
        }
        return nullptr;
    }
    void add(std::uint64_t code, std::uint32_t place);
    void clear() noexcept {
        ++round_;
        used_ = 0;
    }

private:
    struct cell {
        std::uint64_t code;
        std::uint64_t round; ///< cells of other rounds are empty
        std::uint32_t place;
    };
    void put(std::uint64_t code, std::uint32_t place) noexcept;

    std::vector<cell> cells_;
    std::size_t mask_ = 0;
    std::size_t used_ = 0;
    std::uint64_t round_ = 1;
};

/// The part of a lane that does not depend on whether there are addresses.
/// `Item` is what waits.
template <class Payload, class Item>
class lane_of : public lane_base {
public:
    lane_of(outbox_core& to, channel_core& on, posting<Payload>&& how) : lane_base(to, on), how_(std::move(how)) {
        if (how_.merge && how_.waiting == keep::all) {
            how_.waiting = keep::one; // there is nothing else that it could mean
        }
        takes_all_ = how_.waiting == keep::all && how_.most == 0;
    }

    void begin_round() override {
        erase_dropped();
        erased_ = 0;
        waiting_.swap(round_);
        marks.swap(round_marks);
        if (!round_marks.empty()) [[unlikely]] {
            round_marks.resize(round_.size());
        }
    }
    void end_round() noexcept override {
        round_.clear();
        round_marks.clear();
        done_ = 0;
    }
    [[nodiscard]] std::size_t left() const noexcept override { return round_.size() - done_; }
    [[nodiscard]] std::size_t waiting() const noexcept override { return waiting_.size() - dropped_; }
    void drop() noexcept override {
        waiting_.clear();
        round_.clear();
        marks.clear();
        round_marks.clear();
        dropped_ = 0;
        done_ = 0;
    }

    /// Room for so many more, so that posting them takes no memory for itself.
    void make_room(std::size_t more) {
        if (waiting_.capacity() - waiting_.size() < more) [[unlikely]] {
            const std::size_t enough = waiting_.size() + more;
            waiting_.reserve(enough < 2 * waiting_.capacity() ? 2 * waiting_.capacity() : enough);
        }
    }
    /// Whether posting one more is nothing but putting it behind the others.
    [[nodiscard]] bool takes_plainly() const noexcept { return takes_all_ && queued && !overseen(); }
    void append(const Item& item) noexcept { waiting_.push_back(item); } // there is room

protected:
    /// For a note; with the address, where there is one.
    static const void* payload_in(const Item& item) noexcept {
        if constexpr (std::is_same_v<Item, Payload>) {
            return &item;
        } else {
            if (item.to) {
                this_oversight.to = label_of(*item.to);
            }
            return &item.payload;
        }
    }
    [[nodiscard]] const post_mark* marks_from(std::size_t place) const noexcept {
        return place < round_marks.size() ? &round_marks[place] : nullptr;
    }

    /// Takes one more; false when it is refused.
    bool take(Item&& item) {
        if (how_.most != 0 && waiting() >= how_.most) [[unlikely]] {
            ++refused;
            if (how_.full == when_full::refuse) {
                if (overseen()) {
                    note(payload_in(item), posting_outcome::turned_away);
                }
                return false;
            }
            drop_oldest();
        }
        push(std::move(item));
        return true;
    }

    void push(Item&& item) {
        waiting_.push_back(std::move(item));
        if (!queued) [[unlikely]] {
            queue(*this);
        }
        if (overseen()) [[unlikely]] {
            note_at(waiting_.size() - 1, payload_in(waiting_.back()), posting_outcome::waits);
        }
    }

    void combine(Item& into, Payload& kept, Payload&& newer) {
        if (overseen()) [[unlikely]] {
            static_cast<void>(payload_in(into));
            note_at(static_cast<std::size_t>(&into - waiting_.data()), &newer, posting_outcome::merged);
        }
        if (how_.merge) {
            how_.merge(kept, newer);
        } else if constexpr (std::is_move_assignable_v<Payload>) {
            kept = std::move(newer);
        } else {
            kept.~Payload(); // such as one with const members
            ::new (&kept) Payload(std::move(newer));
        }
    }

    /// The place of the next `count` of the round, which count as delivered
    /// from now on, whatever their handlers throw.
    std::size_t advance(std::size_t count) noexcept {
        delivered += count;
        return std::exchange(done_, done_ + count);
    }

    posting<Payload> how_;
    bool takes_all_ = false; ///< without a bound
    std::vector<Item> waiting_;
    std::vector<Item> round_;
    std::size_t dropped_ = 0; ///< of `waiting_`, from its beginning
    std::size_t erased_ = 0;  ///< dropped before those
    std::size_t done_ = 0;    ///< of `round_`
    sleepers<Item> asleep_;

private:
    void drop_oldest() {
        ++dropped_;
        if (dropped_ >= how_.most) {
            erased_ += dropped_;
            erase_dropped();
        }
    }
    void erase_dropped() {
        const auto count = static_cast<std::ptrdiff_t>(dropped_);
        waiting_.erase(waiting_.begin(), waiting_.begin() + count);
        if (!marks.empty()) [[unlikely]] {
            marks.erase(marks.begin(), dropped_ < marks.size() ? marks.begin() + count : marks.end());
        }
        dropped_ = 0;
    }
};

template <class Payload>
class plain_lane final : public lane_of<Payload, Payload> {
public:
    using lane_of<Payload, Payload>::lane_of;

    bool post_item(Payload&& payload) { return post(std::move(payload)); }
    bool post(Payload&& payload) {
        if (this->takes_plainly()) [[likely]] { // small enough to be inlined
            this->waiting_.push_back(std::move(payload));
            return true;
        }
        return post_with_care(std::move(payload));
    }

    std::size_t deliver(std::size_t most) override {
        const std::size_t count = most < this->left() ? most : this->left();
        const std::size_t from = this->advance(count);
        publish_all(*this->target, this->round_.data() + from, count, sizeof(Payload), this->where,
                    this->marks_from(from));
        return count;
    }

    std::uint32_t sleep(Payload&& payload, std::source_location at) {
        return this->asleep_.add(std::move(payload), at);
    }
    void wake(std::uint32_t sleeper, bool copy) override {
        const as_marked now(this->asleep_.mark_of(sleeper));
        this->where = this->asleep_.mark_of(sleeper).where;
        if constexpr (std::copy_constructible<Payload>) {
            if (copy) {
                post(Payload(this->asleep_.at(sleeper)));
                return;
            }
        }
        post(this->asleep_.take(sleeper));
    }
    void forget(std::uint32_t sleeper) noexcept override { this->asleep_.remove(sleeper); }

private:
#if defined(__GNUC__)
    __attribute__((noinline))
#endif
    bool
    post_with_care(Payload&& payload) {
        if (this->how_.waiting == keep::all || this->waiting() == 0) {
            return this->take(std::move(payload));
        }
        this->combine(this->waiting_.back(), this->waiting_.back(), std::move(payload));
        return true;
    }
};

template <class Payload, class Address>
struct addressed_item {
    std::optional<Address> to; ///< nobody in particular: everyone
    Payload payload;
};

template <class Payload, class Address>
class addressed_lane final : public lane_of<Payload, addressed_item<Payload, Address>> {
public:
    using item = addressed_item<Payload, Address>;
    using lane_of<Payload, item>::lane_of;

    bool post(Payload&& payload) { return post_item({std::nullopt, std::move(payload)}); }
    bool post_to(const Address& to, Payload&& payload) { return post_item({to, std::move(payload)}); }

    void begin_round() override {
        lane_of<Payload, item>::begin_round();
        places_.clear();
        everyone_ = none;
    }

    std::size_t deliver(std::size_t most) override;

    std::uint32_t sleep(item&& one, std::source_location at) { return this->asleep_.add(std::move(one), at); }
    void wake(std::uint32_t sleeper, bool copy) override {
        const as_marked now(this->asleep_.mark_of(sleeper));
        this->where = this->asleep_.mark_of(sleeper).where;
        if constexpr (std::copy_constructible<Payload>) {
            if (copy) {
                post_item(item(this->asleep_.at(sleeper)));
                return;
            }
        }
        post_item(this->asleep_.take(sleeper));
    }
    void forget(std::uint32_t sleeper) noexcept override { this->asleep_.remove(sleeper); }

    bool post_item(item&& one) {
        switch (this->how_.waiting) {
        case keep::all:
            return this->take(std::move(one));
        case keep::one:
            if (this->waiting() == 0) {
                return this->take(std::move(one));
            }
            this->waiting_.back().to = std::move(one.to);
            this->combine(this->waiting_.back(), this->waiting_.back().payload, std::move(one.payload));
            return true;
        default:
            return post_per_address(std::move(one));
        }
    }

private:
    static constexpr std::uint32_t none = std::numeric_limits<std::uint32_t>::max();

    // Places are counted from the beginning of the round, so that they stay
    // the same when the oldest are dropped.
    [[nodiscard]] item* at(std::uint32_t place) noexcept {
        return place >= this->erased_ + this->dropped_ ? &this->waiting_[place - this->erased_] : nullptr;
    }

    item* find_waiting(const std::optional<Address>& to, std::uint64_t code) {
        if (!to) {
            return everyone_ != none ? at(everyone_) : nullptr;
        }
        const std::uint32_t* const place = places_.find(code, [&](std::uint32_t candidate) {
            const item* const one = at(candidate);
            return one != nullptr && one->to && address_equal{}(*one->to, *to);
        });
        return place != nullptr ? at(*place) : nullptr;
    }

    bool post_per_address(item&& one) {
        const bool addressed = one.to.has_value();
        const std::uint64_t code = addressed ? code_of(*one.to) : 0;
        if (item* const there = find_waiting(one.to, code); there != nullptr) {
            this->combine(*there, there->payload, std::move(one.payload));
            return true;
        }
        if (!this->take(std::move(one))) {
            return false;
        }
        const auto last = static_cast<std::uint32_t>(this->erased_ + this->waiting_.size() - 1);
        if (addressed) {
            places_.add(code, last);
        } else {
            everyone_ = last;
        }
        return true;
    }

    address_index places_;
    std::uint32_t everyone_ = none;
};

template <class Payload, class Address>
std::size_t addressed_lane<Payload, Address>::deliver(std::size_t most) {
    std::size_t count = 0;
    while (count < most && this->left() != 0) {
        const std::size_t place = this->advance(1);
        const item& one = this->round_[place];
        ++count;
        if (this->target->closed) {
            continue;
        }
        const post_mark* const mark = this->marks_from(place);
        if (!one.to) {
            publish_all(*this->target, &one.payload, 1, sizeof(Payload), this->where, mark);
        } else if (mark != nullptr) {
            const as_marked now(*mark);
            this_oversight.to = label_of(*one.to);
            deliver_at(*this->target, find_at(*this->target->book, *one.to), &one.payload,
                       mark->is_set ? mark->where : this->where);
            this_oversight.to = {};
        } else {
            deliver_at(*this->target, find_at(*this->target->book, *one.to), &one.payload, this->where);
        }
    }
    return count;
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
