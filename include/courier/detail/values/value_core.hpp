// What states, formulas and refreshers have in common; compiled once.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/forward.hpp>
#include <courier/detail/base/hold_back.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/channel_core.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct reader_node;
struct source_node;

/// That a reader has read a source.
struct dependency {
    source_node* source;
    reader_node* reader;
    std::uint64_t seen;          ///< the source's version when it was read
    dependency* next_source;     ///< of the reader, in the order of reading
    dependency** back_to_source; ///< what points to this one among those
    std::uint64_t read_in;       ///< which of the reader's runs noted it out of its order
    dependency* next_reader;     ///< of the source
    dependency** back_to_reader; ///< what points to this one among the source's
};

/// How the kinds of sources differ.
struct source_ops {
    /// Tells subscribers what has changed since they were told last.
    void (*announce)(source_node& node);
    /// Whether anybody would be told.
    bool (*is_watched)(const source_node& node) noexcept;
    /// Of what was changed together: takes its old version back if its value is the old one.
    void (*compare)(source_node& node);
    std::string (*describe)(const source_node& node);
};

/// What can be read: a state, a key of a map, the result of a formula. What is
/// looked at for every change lies in front.
struct source_node {
    static constexpr std::uint32_t not_noted = UINT32_MAX;

    const source_ops* ops;
    bool told = false;            ///< has a channel, so that somebody may be subscribed
    bool in_use = false;          ///< its values are being compared, copied or moved; of a formula its status says so
    const bool is_computed;       ///< by a formula, which it is part of
    bool readers_in_order = true; ///< of when they were made
    std::uint32_t other_readers = 0; ///< formulas, and refreshers that are run once per round
    std::uint32_t newest_reader = 0; ///< when the newest in the list was made
    std::uint32_t noted = not_noted; ///< its place in the list of what has changed
    std::uint32_t thread = 0;
    std::uint32_t end_watch = 0; ///< its number in the thread's graph; 0: nobody waits for its end
    std::uint64_t version = 1;
    dependency* latest_read = nullptr; ///< that was noted out of its order
    dependency* readers = nullptr;
    dependency** readers_end = &readers; ///< for linking at the end

    explicit source_node(const source_ops& how, bool computed = false) noexcept : ops(&how), is_computed(computed) {}
    source_node(const source_node&) = delete;
    source_node& operator=(const source_node&) = delete;
};

/// How the kinds of readers differ.
struct reader_ops {
    /// Computes a formula anew, which raises its version if that changes its value, or runs a refresher.
    void (*renew)(reader_node& node);
    std::string (*describe)(const reader_node& node);
};

/// What holds of a reader; any of it at a time.
class reader_status {
public:
    enum fact : std::uint8_t {
        stale = 1,    ///< something it read may have changed
        queued = 2,   ///< will be looked at before things are settled
        asleep = 4,   ///< a refresher whose subscriber is paused, or that has ended
        climbing = 8, ///< is being brought up to date, or waits for what it reads to be
        running = 16, ///< its function is being called
        in_use = 32,  ///< a formula whose values are being compared, copied or moved
    };

    [[nodiscard]] bool is(unsigned any_of) const noexcept { return (facts_ & any_of) != 0; }
    void add(fact one) noexcept { facts_ |= one; }
    void drop(unsigned some) noexcept { facts_ &= ~some; }
    void set(fact one, bool holds) noexcept { facts_ = holds ? facts_ | one : facts_ & ~unsigned{one}; }
    /// Whether it was not yet.
    bool becomes_stale() noexcept {
        const bool was_fresh = !is(stale);
        add(stale);
        return was_fresh;
    }

private:
    unsigned facts_ = 0;
};

/// Something holds of a reader for a while, and then no longer.
class status_while {
public:
    status_while(reader_status& status, reader_status::fact one) noexcept : status_(status), one_(one) {
        status.add(one);
    }
    status_while(const status_while&) = delete;
    status_while& operator=(const status_while&) = delete;
    ~status_while() { status_.drop(one_); }

private:
    reader_status& status_;
    reader_status::fact one_;
};

enum class reader_kind : std::uint8_t {
    formula,
    refresher,
    paced_refresher, ///< that is run once per round of an outbox
};

/// What reads: a formula or a refresher.
struct reader_node {
    const reader_ops* does;
    reader_status status;
    reader_kind kind;
    std::uint32_t born = 0;
    std::uint32_t place = 0; ///< while queued
    dependency* sources = nullptr;
    dependency** cursor = &sources;       ///< while running: where the next read should be
    std::uint64_t runs = 0;               ///< of its function
    const source_node* because = nullptr; ///< what made it run last
    dependency first{};                   ///< most read few things; in use when it has a source
    reader_node* outer = nullptr;         ///< while running: whose function asked for this one
    reader_node* up = nullptr;            ///< while climbing: who waits for this one; also links nodes to be marked
    dependency* walk = nullptr;           ///< while climbing: the source to look at next

    reader_node(const reader_ops& how, reader_kind which) noexcept : does(&how), kind(which) {}
    reader_node(const reader_node&) = delete;
    reader_node& operator=(const reader_node&) = delete;
};

/// What reads and can be read.
struct formula_node : reader_node, source_node {
    formula_node(const reader_ops& reads, const source_ops& is_read) noexcept
        : reader_node(reads, reader_kind::formula), source_node(is_read, true) {
        status.add(reader_status::stale);
    }
};

/// Of a source that is computed.
[[nodiscard]] inline formula_node& formula_of(source_node& result) noexcept {
    return static_cast<formula_node&>(result);
}
/// Of a reader that is a formula.
[[nodiscard]] inline formula_node& formula_of(reader_node& reader) noexcept {
    return static_cast<formula_node&>(reader);
}

/// What the nodes of one thread share.
struct value_graph;

/// Plain, so that it is read without a guard.
struct value_thread {
    reader_node* reader = nullptr; ///< whose function is running, and not looking away
    value_graph* graph = nullptr;  ///< there while the thread has nodes
    std::uint64_t newest_version = 1;
    std::uint8_t work = 0; ///< `settling` and `waiting`

    static constexpr std::uint8_t settling = 1; ///< something is being announced or rerun, and nothing else meanwhile
    static constexpr std::uint8_t waiting = 2;  ///< something waits for that, or did until it ended
};

#if defined(__GNUC__)
__attribute__((tls_model("initial-exec")))
#endif
extern thread_local constinit value_thread this_values;

/// The thread's graph is there meanwhile.
class graph_kept {
public:
    graph_kept();
    graph_kept(const graph_kept&) = delete;
    graph_kept& operator=(const graph_kept&) = delete;
    ~graph_kept();
};

/// Nothing has changed when memory is full.
void enter_graph(source_node& node);
void enter_graph(reader_node& node);
void enter_graph(formula_node& node);
/// Nothing reads it any more.
void leave_graph(source_node& node) noexcept;
/// It reads nothing any more.
void leave_graph(reader_node& node) noexcept;
void leave_graph(formula_node& node) noexcept;
/// So that noting one more change needs no memory.
void make_room_for_change();

/// Brings a stale reader up to date, with everything that it depends on.
void refresh(reader_node& top);

/// Notes a read that is not the expected one.
void note_other_read(reader_node& reader, source_node& source);

/// Reports use from a foreign thread; then false. Called in checked builds only.
bool check_use(const source_node& node, const char* what, std::source_location where);

inline void note_read(source_node& source) {
    if constexpr (checked_build) {
        check_use(source, "read", std::source_location{});
    }
    if (reader_node* const reader = this_values.reader; reader != nullptr) {
        dependency* const expected = *reader->cursor;
        if (expected != nullptr && expected->source == &source) [[likely]] {
            expected->seen = source.version;
            reader->cursor = &expected->next_source;
        } else {
            note_other_read(*reader, source);
        }
    }
}

/// Raises `changed_in_use`, which ends the program unless a fault handler goes
/// on at its own risk: `node` is being destroyed by its own function.
[[gnu::cold]] void report_ended_in_use(const source_node& node) noexcept;

/// Whether a state may be changed now; if not, that has been reported.
[[nodiscard]] bool may_change_meanwhile(const source_node& state, std::source_location where);
[[nodiscard]] inline bool may_change(const source_node& state, std::source_location where) {
    return (!checked_build && !state.in_use && this_values.reader == nullptr) || may_change_meanwhile(state, where);
}

/// A formula has changed in the middle of changes made together.
void note_changed(source_node& node);

/// A state has changed: what depends on it is stale from now on.
void touch(source_node& state);

/// Whether a state that changes now needs no place among what is to be announced: nothing reads it, and nothing else is
/// changing, held back or being announced.
[[nodiscard]] inline bool changes_alone(const source_node& state) noexcept {
    return state.readers == nullptr && this_values.work == 0 && this_values.reader == nullptr && this_hold.holds == 0 &&
           !state.in_use;
}
/// The same where nobody can be told, whatever else is going on.
[[nodiscard]] inline bool changes_unseen(const source_node& state) noexcept {
    return state.readers == nullptr && !state.told && this_hold.holds == 0;
}

/// Announces what has changed while one state was announced alone.
void settle_after_one();
#if WIRED_COURIER_EXCEPTIONS
/// The same inside the clause that has caught the exception of a handler, which is thrown on.
[[noreturn]] void settle_after_failure();
#endif

/// Announces a state that has changed alone, at once. Changes that are made meanwhile are announced afterwards.
template <class Announce>
void announce_alone(Announce announce) {
    this_values.work = value_thread::settling;
#if WIRED_COURIER_EXCEPTIONS
    try {
        announce();
    } catch (...) {
        settle_after_failure();
    }
#else
    announce();
#endif
    this_values.work &= value_thread::waiting;
    if (this_values.work != 0) [[unlikely]] {
        settle_after_one();
    }
}

/// Versions only rise, so that none is ever taken for another.
[[nodiscard]] inline std::uint64_t next_version() noexcept {
    return ++this_values.newest_version;
}

/// Announces and reruns, unless that is under way or several changes are made together.
void settle();

/// The same when changes made together are over; throws nothing when something is on its way already.
void settle_at_end(bool thrown);

/// Forgets what was read beyond the last read of this run.
void drop_unread(reader_node& reader) noexcept;

/// Around the function of a formula or refresher.
class reading {
public:
    explicit reading(reader_node& reader) noexcept : reader_(reader) {
        reader.status.add(reader_status::running);
        reader.cursor = &reader.sources;
        reader.outer = this_values.reader;
        this_values.reader = &reader;
    }
    reading(const reading&) = delete;
    reading& operator=(const reading&) = delete;
    ~reading() {
        this_values.reader = reader_.outer;
        reader_.status.drop(reader_status::running);
        if (*reader_.cursor != nullptr) {
            drop_unread(reader_);
        }
    }

private:
    reader_node& reader_;
};

/// Nothing that is read meanwhile becomes a dependency.
class looking_away {
public:
    looking_away() noexcept : reader_(this_values.reader) { this_values.reader = nullptr; }
    looking_away(const looking_away&) = delete;
    looking_away& operator=(const looking_away&) = delete;
    ~looking_away() { this_values.reader = reader_; }

private:
    reader_node* reader_;
};

/// Reports a formula that reads itself, with the way around; it is running.
void report_circle(const reader_node& formula);

/// What a refresher was given, before its type is forgotten.
struct refresher_node : reader_node {
    slot* self = nullptr;
    std::size_t listed = 0;    ///< its place among all refreshers
    held<outbox_core> through; ///< of one that is run once per round

    explicit refresher_node(const reader_ops& how) noexcept : reader_node(how, reader_kind::refresher) {}
    ~refresher_node();
};

/// The channel that all refreshers of this thread are kept on; they are never
/// published to, but end, pause and are counted as other subscriptions.
channel_core& refreshers_core();

/// A refresher has got its subscription. Nothing has changed when memory is full.
void enter_refresher(refresher_node& refresher, slot& self);

/// Runs a new refresher for the first time.
void begin_refresher(refresher_node& refresher);

/// Its subscription was paused, resumed or ended.
void tell_refresher(refresher_node& refresher, bool blocked) noexcept;

} // namespace detail
WIRED_COURIER_NAMESPACE_END
