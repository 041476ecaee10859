// The part of a channel that does not depend on its payload; compiled once.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/address_book.hpp>
#include <courier/detail/delivery/batch.hpp>
#include <courier/detail/delivery/oversight.hpp>
#include <courier/detail/delivery/party.hpp>
#include <courier/detail/delivery/payload_kind.hpp>
#include <courier/detail/delivery/slot_pool.hpp>
#include <courier/detail/delivery/stage_list.hpp>
#include <courier/failure.hpp>
#include <courier/receipt.hpp>
#include <courier/stage.hpp>
#include <courier/verdict.hpp>

#include <cstddef>
#include <cstdint>
#include <source_location>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

struct account;
class hub_core;
class flight;
struct relay_link;

struct saving_access; ///< the component data's

/// How one part of the library comes to what another one keeps to itself.
struct access {
    /// What a channel, publisher or query stands for.
    template <class Source>
    static channel_core* core(const Source& source) noexcept {
        return source.core_;
    }

    /// A channel of a core, whose reference it takes.
    template <class Channel>
    static Channel channel_on(channel_core& core) {
        return Channel(core);
    }

    /// Makes the channel of what has one only when it is needed.
    template <class Source>
    static void open(const Source& source) {
        if constexpr (requires { source.open(); }) {
            source.open();
        }
    }

    template <class Ledger>
    static auto& ledger_of(Ledger& of) noexcept {
        return *of.core_;
    }

    /// Those who sleep, wake and end with something.
    template <class Leader>
    static auto& followers_of(Leader& whom) {
        return whom.followers();
    }
    template <class Subscriber>
    static auto& party_of(Subscriber& of) noexcept {
        return *of.party_;
    }

    /// A hub without its types.
    template <class Hub>
    static auto& hub_of(Hub& of) noexcept {
        return of.core();
    }

    /// What a wiring, an inbox or a group stands for, which may go first.
    template <class Owner>
    static const auto& kept_core(const Owner& of) noexcept {
        return of.core_;
    }

    template <class Systems>
    static auto& systems_of(Systems& of) noexcept {
        return *of.core_;
    }

    /// What a poster posts through.
    template <class Poster>
    static const auto& backlog(const Poster& poster) noexcept {
        return poster.backlog_;
    }

    /// What an outbox stands for.
    template <class Inbox>
    static auto& feeds(const Inbox& from) noexcept {
        return *from.box_;
    }
    template <class Outbox>
    static auto* outbox(const Outbox& box) noexcept {
        return box.core_;
    }

    /// Attaches a handler to whatever can be subscribed to.
    template <class Source, class Handler, class Options>
    static slot* attach(const Source& source, Handler& handler, Options& options, std::source_location where,
                        ownership whose) {
        return source.attach(handler, options, where, whose);
    }
    /// The same for one that is described by its operations.
    template <class Source>
    static slot* attach_ops(const Source& source, const handler_ops* ops, void* handler, stage place,
                            std::source_location where, ownership whose) {
        return source.attach_ops(ops, handler, place, where, whose);
    }
    /// Serves what a source has itself, if it has something; false: it has a channel's.
    template <class Source>
    static bool serve_current(const Source& source, slot* s, std::source_location where) {
        if constexpr (requires { source.serve_current(s, where); }) {
            source.serve_current(s, where);
            return true;
        } else {
            return false;
        }
    }

    /// What a subscription stands for; null when it is not live.
    template <class Subscription>
    static slot* slot_of(const Subscription& of) noexcept {
        return of.slot_;
    }

    /// What a timetable stands for, and the outbox it posts through.
    template <class Timetable>
    static auto& hours(const Timetable& of) noexcept {
        return *of.core_;
    }
    template <class Timetable>
    static auto& box_of(const Timetable& of) noexcept {
        return *of.box_;
    }

    /// What phases stand for.
    template <class Phases>
    static auto& phases(const Phases& of) noexcept {
        return *of.core_;
    }

    /// A handle that owns `s`, which may be null.
    template <class Subscription>
    static Subscription own(slot* s) noexcept {
        return Subscription{s};
    }
};

/// What a publish has to look at; 0 means that there is nothing to do at all.
enum work_flag : std::uint32_t {
    work_none = 0,
    work_entries = 1,   ///< some list is not empty
    work_stages = 2,    ///< there is more than one stage list
    work_compact = 4,   ///< so many entries are dead that closing the gaps pays
    work_closed = 8,    ///< the channel is gone; the only flag then
    work_keeps = 16,    ///< what is published is kept for late joiners
    work_noted = 32,    ///< a ledger has its books
    work_verdicts = 64, ///< some handler may give a verdict, or might have
    work_tells = 128,   ///< some handler takes the address, or did
};

/// Everything a subscription is made from, apart from the handler itself.
struct attach_request {
    const handler_ops* ops;
    void* handler; ///< moved from, or copied when it is one word
    stage place;
    std::source_location where;
    ownership whose;
    const address_request* at = nullptr; ///< null: at no address
    slot_guard* guard = nullptr;         ///< moved from; null: served whatever is published
};

/// One payload that is kept, and when that was.
struct kept_place {
    std::uint64_t order;
    const void* payload;
    const void* address; ///< null: for everyone
};

class served_late;
/// Serves them to one who comes late, the oldest first; of an address's and
/// everyone's only the newest to one who listens at an address.
void serve_by_order(channel_core& core, slot& s, std::vector<kept_place>& places, const served_late& late,
                    std::source_location where);

/// What a channel keeps for late joiners.
class kept_payloads : public counted<kept_payloads> { // by the channel, and those that serve it
public:
    kept_payloads() = default;
    kept_payloads(const kept_payloads&) = delete;
    kept_payloads& operator=(const kept_payloads&) = delete;
    virtual ~kept_payloads() = default;

    /// Copies what is published for everyone, or for one address.
    virtual void keep(const void* payload) = 0;
    virtual void keep_at(const void* address, const void* payload) = 0;

    /// Serves what is kept to one subscription.
    virtual void serve(channel_core& core, slot& s, std::source_location where) = 0;
    /// What is kept for everyone, or null.
    [[nodiscard]] virtual const void* latest() const noexcept = 0;

    bool is_quiet = false; ///< keeping runs no code of the user's
};

struct channel_core {
    std::uint32_t work = 0;
    stage_list base; ///< the only list while all subscriptions are in one stage

    std::uint32_t next_born = 0;   ///< number of the next subscription, wrapping; 0 before the first
    std::uint32_t births_left = 0; ///< numbers that are set aside from `next_born` on
    std::uint32_t live = 0;
    std::uint32_t spans = 0; ///< of these, handlers that take spans of payloads
    std::uint32_t posts = 0; ///< and those that take spans of payloads with their addresses
    std::uint32_t refs = 1;  ///< the channel, its publishers, and a publish it died in
    std::uint32_t thread;    ///< the only thread that may use it
    bool closed = false;
    stage_list* lists = &base; ///< in the order of their stages
    slot* limbo = nullptr;     ///< ended during a publish, freed when that is over
    slot_pool words;
    slot_pool fulls;
    stop_note* stop = nullptr;     ///< made with the first handler that gives verdicts; owned
    address_book* book = nullptr;  ///< of an addressed channel only; owned
    relay_link* relays = nullptr;  ///< that forward from here
    held<kept_payloads> kept;      ///< for late joiners
    account* books = nullptr;      ///< its page in a ledger
    std::uint64_t walks = 0;       ///< publishes to everyone since a ledger was attached
    std::uint64_t batch_walks = 0; ///< of these, those of single payloads of a batch
    batch* batches = nullptr;      ///< under way, the innermost first
    std::vector<stop_mark> stop_marks;
    failure_handler on_failure;
    const void* on_failure_module = nullptr;
    std::string name;
    const payload_kind* kind = nullptr; ///< null for what is internal, and once the module that made it is gone
    const hub_core* hub = nullptr;      ///< that made it
    const void* library;                ///< tells which copy of the library made it
    channel_core* registry_next = nullptr;
    channel_core** registry_back = nullptr;

    channel_core(std::string_view channel_name, const payload_kind* carries, addressing how);
    channel_core(const channel_core&) = delete;
    channel_core& operator=(const channel_core&) = delete;
    ~channel_core();
};

/// Makes a core with one reference.
/// `carries` may be null for what no ledger looks at.
channel_core* open_core(std::string_view name, const payload_kind* carries, addressing how = addressing::none,
                        const hub_core* by = nullptr);

/// What a publisher without a channel publishes on: a closed channel that any
/// thread may use, lives for ever and counts no references.
channel_core& nowhere() noexcept;

/// Ends all subscriptions and gives the channel's reference back.
void close_core(channel_core& core) noexcept;

inline void retain(channel_core& core) noexcept {
    ++core.refs;
}
void release(channel_core& core) noexcept;

/// Serves everybody who is subscribed, whatever the circumstances.
receipt deliver(channel_core& core, const void* payload, std::source_location where);
/// The same with more to say about it.
receipt deliver_as(channel_core& core, const void* payload, std::source_location where, const publish_note& note);

/// Serves those at one address, who may be nobody, and those who listen to all.
receipt deliver_at(channel_core& core, const address_cell& at, const void* payload, std::source_location where);
receipt deliver_at_as(channel_core& core, const address_cell& at, const void* payload, std::source_location where,
                      const publish_note& note);

/// Whether any of those at an address, of whom `first` is the first, is live.
[[nodiscard]] bool anybody_at(const channel_core& core, const address_part* first) noexcept;

/// A channel's work area for publishing to groups, for a while.
struct work_area {
    held<channel_core> core;
    std::vector<address_part*> list;

    explicit work_area(channel_core& of) noexcept;
    work_area(const work_area&) = delete;
    work_area& operator=(const work_area&) = delete;
    ~work_area();

    /// Those at one address, of whom this is the first.
    void add(address_part* first);
};

/// Serves everybody in `parts`, each once, and those who listen to all.
receipt deliver_to_many(channel_core& core, std::vector<address_part*>& parts, const void* payload,
                        std::source_location where, const publish_note& note);

/// Keeps what is published for late joiners; the payload's copying may give up
/// what is kept, and end the channel.
void keep_payload(channel_core& core, const void* payload);
void keep_at_address(channel_core& core, const void* address, const void* payload);

/// Serves `count` payloads that lie `stride` bytes apart: handlers that take
/// one payload as if each had been published, then those that take spans.
/// `marks`: where each comes from, if that is known.
receipt publish_all(channel_core& core, const void* first, std::size_t count, std::size_t stride,
                    std::source_location where, const post_mark* marks = nullptr,
                    const publish_note& note = nothing_to_say);

/// Serves several payloads to one subscription only, until it ends.
void deliver_to_one(channel_core& core, slot& s, const void* const* payloads, std::size_t count,
                    std::source_location where);

/// From now on what is published is kept in `by`, whose reference it takes, or
/// nowhere when that is null.
void keep_in(channel_core& core, kept_payloads* by) noexcept;

/// Makes a subscription; null when it was refused.
slot* attach(channel_core& core, const attach_request& request);

/// Ends a subscription at once; its memory stays while a publish needs it.
void detach(slot& s) noexcept;

/// Sets or clears one reason not to serve a subscription; takes effect at once.
void block(slot& s, slot_block reason) noexcept;
void unblock(slot& s, slot_block reason) noexcept;

/// Carries out what a handler returned.
void rule(verdict ruling, slot& s) noexcept;

void reserve(channel_core& core, std::size_t count);
void shrink(channel_core& core) noexcept;
[[nodiscard]] std::size_t bytes(const channel_core& core) noexcept;

/// Hands the channel to the calling thread.
void adopt(channel_core& core) noexcept;

/// Raises `wrong_thread` or `two_libraries` when the calling code may not use
/// this channel. Called in checked builds only.
void check_use(const channel_core& core, const char* what, std::source_location where);

} // namespace detail
WIRED_COURIER_NAMESPACE_END
