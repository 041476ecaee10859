// What is posted now and delivered later, in batches, or from other threads.
#include "baselines.hpp"
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/channel.hpp>
#include <courier/inbox.hpp>
#include <courier/inlet.hpp>
#include <courier/outbox.hpp>
#include <courier/poster.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>

#include <pthread.h>
#include <sched.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cstddef>
#include <memory>
#include <mutex>
#include <random>
#include <span>
#include <string>
#include <thread>
#include <utility>
#include <vector>

namespace bench {

namespace {

constexpr int round_size = 1000;

/// A vector of payloads, filled and looped over; listeners are called by hand.
struct vector_side {
    explicit vector_side(std::size_t listeners) : barges(listeners) {
        for (Barge& barge : barges) {
            raw.push_back(raw_listener(barge));
        }
    }
    void operator()() {
        for (int i = 0; i < round_size; ++i) {
            waiting.push_back({.barge = i, .crates = 2});
            barrier();
        }
        waiting.swap(round);
        for (const Bitten& payload : round) {
            for (const raw_entry& e : raw) {
                e.call(e.object, payload);
            }
        }
        round.clear();
    }

    std::vector<Barge> barges;
    std::vector<raw_entry> raw;
    std::vector<Bitten> waiting;
    std::vector<Bitten> round;
};

struct outbox_side {
    explicit outbox_side(std::size_t listeners) : barges(listeners) {
        for (Barge& barge : barges) {
            in.subscribe(bitten, [b = &barge](const Bitten& e) { b->on_bitten(e); });
        }
    }
    void operator()() {
        for (int i = 0; i < round_size; ++i) {
            out.post({.barge = i, .crates = 2});
            barrier();
        }
        later.deliver();
    }

    std::vector<Barge> barges;
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::outbox later{"later"};
    courier::poster<Bitten> out{later, bitten};
    courier::subscriber in{"barges"};
};

/// A thousand payloads to so many handlers, one by one or as a span.
template <bool Spans>
struct batch_side {
    explicit batch_side(std::size_t listeners) : barges(listeners), payloads(round_size, Bitten{1, 2}) {
        for (Barge& barge : barges) {
            if constexpr (Spans) {
                in.subscribe(bitten, [b = &barge](std::span<const Bitten> all) {
                    long sum = 0;
                    for (const Bitten& e : all) {
                        sum += e.crates;
                    }
                    b->lost += sum;
                });
            } else {
                in.subscribe(bitten, [b = &barge](const Bitten& e) { b->on_bitten(e); });
            }
        }
    }
    void operator()() { bitten.publish_all(payloads); }

    std::vector<Barge> barges;
    std::vector<Bitten> payloads;
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::subscriber in{"barges"};
};

/// Keeps the calling thread on one core. Where owner and senders happen to run
/// decides most of the time of both sides, so both are placed alike: the owner
/// on the first core, the senders in turns from the second on.
void stay_on(unsigned core) {
    cpu_set_t one;
    CPU_ZERO(&one);
    CPU_SET(core % std::max(1U, std::thread::hardware_concurrency()), &one);
    pthread_setaffinity_np(pthread_self(), sizeof one, &one);
}

/// The owner stays on the first core for as long as this lives.
class owner_in_place {
public:
    owner_in_place() {
        pthread_getaffinity_np(pthread_self(), sizeof before_, &before_);
        stay_on(0);
    }
    owner_in_place(const owner_in_place&) = delete;
    owner_in_place& operator=(const owner_in_place&) = delete;
    ~owner_in_place() { pthread_setaffinity_np(pthread_self(), sizeof before_, &before_); }

private:
    cpu_set_t before_;
};

/// Threads that send when they are told to, so that starting them is not measured.
class crew {
public:
    template <class Send>
    crew(int count, long each, Send send) {
        for (int t = 0; t < count; ++t) {
            threads_.emplace_back([this, each, send, t] {
                stay_on(static_cast<unsigned>(t) + 1);
                for (long seen = 0;;) {
                    while (go_.load(std::memory_order_acquire) == seen) {
                        std::this_thread::yield();
                    }
                    seen = go_.load(std::memory_order_acquire);
                    if (seen < 0) {
                        return;
                    }
                    for (long i = 0; i < each; ++i) {
                        send(Bitten{.barge = static_cast<int>(i), .crates = 1});
                    }
                }
            });
        }
    }
    crew(const crew&) = delete;
    crew& operator=(const crew&) = delete;
    ~crew() {
        go_.store(-1, std::memory_order_release);
        for (std::thread& t : threads_) {
            t.join();
        }
    }
    void go() { go_.fetch_add(1, std::memory_order_release); }

private:
    std::atomic<long> go_{0};
    std::vector<std::thread> threads_;
};

constexpr long sent_in_all = 40000;

/// A mutex and a vector that the owner swaps.
struct mutex_side {
    explicit mutex_side(int senders)
        : raw(raw_listener(barge)), others(senders, sent_in_all / senders, [this](const Bitten& b) {
              const std::lock_guard lock(guard);
              waiting.push_back(b);
          }) {}
    void operator()() {
        others.go();
        long arrived = 0;
        while (arrived < sent_in_all) {
            {
                const std::lock_guard lock(guard);
                waiting.swap(round);
            }
            for (const Bitten& payload : round) {
                raw.call(raw.object, payload);
            }
            arrived += static_cast<long>(round.size());
            if (round.empty()) {
                std::this_thread::yield();
            }
            round.clear();
        }
    }

    owner_in_place here;
    Barge barge;
    raw_entry raw;
    std::mutex guard;
    std::vector<Bitten> waiting;
    std::vector<Bitten> round;
    crew others; // last, so that it ends first
};

struct inbox_side {
    explicit inbox_side(int senders)
        : in(bitten.subscribe([b = &barge](const Bitten& e) { b->on_bitten(e); })),
          others(senders, sent_in_all / senders,
                 [out = courier::inlet<Bitten>{arrivals, bitten}](const Bitten& b) { out.send(b); }) {}
    void operator()() {
        others.go();
        long arrived = 0;
        while (arrived < sent_in_all) {
            const std::size_t count = arrivals.take_in();
            arrived += static_cast<long>(count);
            if (count == 0) {
                std::this_thread::yield();
            }
            later.deliver();
        }
    }

    owner_in_place here;
    Barge barge;
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::outbox later{"later"};
    courier::inbox arrivals{later, "arrivals"};
    courier::subscription in;
    crew others;
};

/// How long it takes to hand over a thousand while nobody else does anything.
struct mutex_sending_side {
    double operator()() {
        const std::chrono::duration<double, std::nano> taken = time([this](const Bitten& b) {
            const std::lock_guard lock(guard);
            waiting.push_back(b);
        });
        waiting.clear();
        return taken.count();
    }
    template <class Send>
    static std::chrono::duration<double, std::nano> time(Send send) {
        const auto begin = std::chrono::steady_clock::now();
        for (int i = 0; i < round_size; ++i) {
            send(Bitten{.barge = i, .crates = 2});
            barrier();
        }
        return std::chrono::steady_clock::now() - begin;
    }

    std::mutex guard;
    std::vector<Bitten> waiting;
};

struct inbox_sending_side {
    double operator()() {
        const auto taken = mutex_sending_side::time([this](const Bitten& b) { out.send(b); });
        arrivals.take_in();
        later.deliver();
        return taken.count();
    }

    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::outbox later{"later"};
    courier::inbox arrivals{later, "arrivals"};
    courier::inlet<Bitten> out{arrivals, bitten};
};

/// One falls due and is asked for again, in a population of a fixed size with
/// delays at random; as time passes, about one for each step.
class timer_side {
public:
    explicit timer_side(std::size_t population) : population_(static_cast<long>(population)) {
        in_ = bitten_.subscribe([this](const Bitten& b) {
            barge_.on_bitten(b);
            ask();
        });
        for (std::size_t i = 0; i < population; ++i) {
            ask();
        }
    }
    void operator()() {
        hours_.advance(courier::game_time(1000));
        later_.deliver();
    }

private:
    void ask() {
        hours_
            .after(courier::game_time(1 + random_() % (2000UL * static_cast<unsigned long>(population_))), out_, {1, 2})
            .release();
    }

    long population_;
    Barge barge_;
    std::minstd_rand random_{7};
    courier::channel<Bitten> bitten_{"barges.bitten"};
    courier::outbox later_{"later"};
    courier::poster<Bitten> out_{later_, bitten_};
    courier::timetable hours_{later_};
    courier::subscription in_;
};

} // namespace

void register_deferred() {
    for (const std::size_t listeners : {0, 1, 8}) {
        compare("outbox/vector filled and looped/" + std::to_string(listeners), 5, [=] {
            return std::unique_ptr<both<vector_side, outbox_side>>(
                new both<vector_side, outbox_side>{vector_side(listeners), outbox_side(listeners)});
        });
    }
    compare("spans/one payload each/8", 5, [] {
        return std::unique_ptr<both<batch_side<false>, batch_side<true>>>(
            new both<batch_side<false>, batch_side<true>>{batch_side<false>(8), batch_side<true>(8)});
    });
    for (const int senders : {1, 2, 4}) {
        compare_times("inbox/mutex and vector/" + std::to_string(senders), 1, 60, [=] {
            return std::unique_ptr<both<mutex_side, inbox_side>>(
                new both<mutex_side, inbox_side>{mutex_side(senders), inbox_side(senders)});
        });
    }
    compare_own_times("sending/lock, push, unlock", 400,
                      [] { return std::make_unique<both<mutex_sending_side, inbox_sending_side>>(); });
    compare("timers, growth/itself at 1000/1000000", 2000, [] {
        return std::unique_ptr<both<timer_side, timer_side>>(
            new both<timer_side, timer_side>{timer_side(1000), timer_side(1000000)});
    });
}

} // namespace bench
