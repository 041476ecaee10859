#include <courier/detail/inbox_core.hpp>

#include <courier/detail/first_failure.hpp>

#include <concurrentqueue/concurrentqueue.h>

#include <algorithm>
#include <iterator>
#include <vector>

namespace courier::inline WIRED_COURIER_ABI::detail {

namespace {

constexpr std::size_t piece = 256;

} // namespace

struct inbox_core {
    inbox_core(std::string_view inbox_name, std::size_t bound, std::function<void()> hook)
        : most(bound), wake(std::move(hook)), name(inbox_name), reader(messages) {}

    std::size_t most;
    std::function<void()> wake;
    std::string name;
    std::atomic<bool> closed{false};
    std::atomic<bool> idle{false}; ///< the owner has found nothing
    std::atomic<std::size_t> on_their_way{0};
    std::atomic<std::uint64_t> refused{0};
    // Before the queue, whose messages need them to the last.
    std::vector<std::unique_ptr<inbox_route>> routes;
    moodycamel::ConcurrentQueue<message> messages;
    moodycamel::ConsumerToken reader;
};

std::shared_ptr<inbox_core> open_inbox(std::string_view name, std::size_t most, std::function<void()> wake) {
    return std::make_shared<inbox_core>(name, most, std::move(wake));
}

inbox_route& enter_route(inbox_core& core, std::unique_ptr<inbox_route> route) {
    core.routes.push_back(std::move(route));
    return *core.routes.back();
}

bool is_closed(const inbox_core& core) noexcept {
    return core.closed.load(std::memory_order_relaxed);
}

const std::string& name_of(const inbox_core& core) noexcept {
    return core.name;
}

std::size_t waiting_in(const inbox_core& core) noexcept {
    return core.messages.size_approx();
}

std::uint64_t refused_by(const inbox_core& core) noexcept {
    return core.refused.load(std::memory_order_relaxed);
}

// The queue keeps the order of each thread by itself.
bool send(inbox_core& core, message&& one) {
    if (core.most != 0 && core.on_their_way.fetch_add(1, std::memory_order_relaxed) >= core.most) {
        core.on_their_way.fetch_sub(1, std::memory_order_relaxed);
        core.refused.fetch_add(1, std::memory_order_relaxed);
        return false;
    }
    core.messages.enqueue(std::move(one));
    if (core.wake) {
        // Either this thread sees that the owner has gone idle, or the owner,
        // which looks once more after saying so, sees the message.
        std::atomic_thread_fence(std::memory_order_seq_cst);
        if (core.idle.load(std::memory_order_relaxed) && core.idle.exchange(false)) {
            core.wake();
        }
    }
    return true;
}

namespace {

/// Where the queue puts what it gives out: straight into the lanes.
class into_lanes {
public:
    using iterator_category = std::output_iterator_tag;
    using value_type = void;
    using difference_type = std::ptrdiff_t;
    using pointer = void;
    using reference = void;

    explicit into_lanes(first_failure& failed) noexcept : failed_(&failed) {}
    into_lanes& operator*() noexcept { return *this; }
    into_lanes& operator++() noexcept { return *this; }
    into_lanes operator++(int) noexcept { return *this; }

    into_lanes& operator=(message&& one) noexcept {
        if (one.route->lane.open()) {
            failed_->run([&one] {
                const caused_by by({unpacked_cause(one.cause), 0});
                const bool by_itself = is_from_here(one.cause); // as it would be without any other thread
                const meanwhile<bool> outside(this_oversight.outside, !by_itself);
                one.route->arrive(*one.route->lane.get(), one.stored);
            });
        }
        return *this; // the queue destroys what is left of it
    }

private:
    first_failure* failed_;
};

std::size_t take_piece(inbox_core& core, std::size_t most, first_failure& failed) {
    const std::size_t count = core.messages.try_dequeue_bulk(core.reader, into_lanes(failed), std::min(most, piece));
    if (core.most != 0 && count != 0) {
        core.on_their_way.fetch_sub(count, std::memory_order_relaxed);
    }
    return count;
}

// Everything, but not for ever while others go on sending.
std::size_t take_pieces(inbox_core& core, bool& emptied, first_failure& failed) {
    const std::size_t enough = core.messages.size_approx() + piece;
    std::size_t sum = 0;
    emptied = false;
    while (sum < enough) {
        const std::size_t count = take_piece(core, enough - sum, failed);
        if (count == 0) {
            emptied = true;
            break;
        }
        sum += count;
    }
    return sum;
}

} // namespace

std::size_t take_in(inbox_core& core) {
    std::vector<inbox_route*> left; // by all their senders, before what follows is looked at
    for (const auto& route : core.routes) {
        if (route->senders.load(std::memory_order_acquire) == 0) {
            left.push_back(route.get());
        }
    }
    bool emptied = false;
    first_failure failed;
    std::size_t sum = take_pieces(core, emptied, failed);
    if (emptied && core.wake) {
        core.idle.store(true, std::memory_order_relaxed);
        std::atomic_thread_fence(std::memory_order_seq_cst);
        sum += take_pieces(core, emptied, failed);
    }
    if (emptied && !left.empty()) {
        std::erase_if(core.routes, [&left](const auto& route) {
            return std::find(left.begin(), left.end(), route.get()) != left.end();
        });
    }
    failed.rethrow();
    return sum;
}

// What is sent from now on, or just now, stays in the queue and goes with the
// last sender.
void close_inbox(inbox_core& core) noexcept {
    core.closed.store(true);
    for (message one; core.messages.try_dequeue(core.reader, one);) {
        one.reset();
    }
    for (const auto& route : core.routes) {
        route->lane = {}; // here, on the thread of the outbox
    }
}

} // namespace courier::inline WIRED_COURIER_ABI::detail
