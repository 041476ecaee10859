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
        : most(bound), wake(std::move(hook)), name(inbox_name), reader(messages) {
        static std::atomic<std::uint64_t> source{0};
        number = source.fetch_add(1, std::memory_order_relaxed) + 1;
    }

    std::uint64_t number; ///< of no other inbox, ever
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

namespace {

/// A thread's own place in an inbox, where it keeps its order: one for all its
/// senders, for as long as the thread runs.
class thread_place {
public:
    explicit thread_place(const std::shared_ptr<inbox_core>& core) : core_(core), number_(core->number) {
        ::new (token_) moodycamel::ProducerToken(core->messages);
    }
    thread_place(const thread_place&) = delete;
    thread_place& operator=(const thread_place&) = delete;
    ~thread_place() {
        if (const std::shared_ptr<inbox_core> core = core_.lock()) {
            token().~ProducerToken(); // else it went with the queue
        }
    }

    [[nodiscard]] bool is_in(std::uint64_t number) const noexcept { return number_ == number; }
    [[nodiscard]] bool is_left_over() const noexcept { return core_.expired(); }
    [[nodiscard]] moodycamel::ProducerToken& token() noexcept {
        return *std::launder(reinterpret_cast<moodycamel::ProducerToken*>(token_));
    }

private:
    std::weak_ptr<inbox_core> core_;
    std::uint64_t number_;
    alignas(moodycamel::ProducerToken) std::byte token_[sizeof(moodycamel::ProducerToken)];
};

/// All places of one thread.
struct thread_places {
    std::vector<std::unique_ptr<thread_place>> all;
    thread_place* newest = nullptr;

    thread_place& in(const std::shared_ptr<inbox_core>& core) {
        if (newest != nullptr && newest->is_in(core->number)) [[likely]] {
            return *newest;
        }
        newest = nullptr;
        std::erase_if(all, [](const auto& place) { return place->is_left_over(); });
        const auto found =
            std::find_if(all.begin(), all.end(), [&](const auto& place) { return place->is_in(core->number); });
        newest = found != all.end() ? found->get() : all.emplace_back(std::make_unique<thread_place>(core)).get();
        return *newest;
    }
};

thread_local thread_places places;

} // namespace

bool send(const std::shared_ptr<inbox_core>& to, message&& one) {
    inbox_core& core = *to;
    if (core.most != 0 && core.on_their_way.fetch_add(1, std::memory_order_relaxed) >= core.most) {
        core.on_their_way.fetch_sub(1, std::memory_order_relaxed);
        core.refused.fetch_add(1, std::memory_order_relaxed);
        return false;
    }
    core.messages.enqueue(places.in(to).token(), std::move(one));
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
            failed_->run([&one] { one.route->arrive(*one.route->lane.get(), one.stored); });
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
