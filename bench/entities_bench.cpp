// Three hundred thousand payloads a frame for a hundred thousand objects, which one system keeps side by side.
#include "baselines.hpp"
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/addressed_payload.hpp>
#include <courier/addressed_poster.hpp>
#include <courier/outbox.hpp>
#include <courier/subscriber.hpp>

#include <chrono>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <random>
#include <span>
#include <vector>

namespace bench {

namespace {

using wyrm_id = std::uint32_t;
constexpr wyrm_id objects = 100'000;
constexpr std::size_t sent = 300'000;

struct Wound {
    float depth;
    float poison;
};

/// Whose turn it is next: the same on both sides.
const std::vector<wyrm_id>& targets() {
    static const std::vector<wyrm_id> all = [] {
        std::minstd_rand random(7);
        std::vector<wyrm_id> made(sent);
        for (wyrm_id& one : made) {
            one = static_cast<wyrm_id>(random() % objects);
        }
        return made;
    }();
    return all;
}

template <class Step>
double nanoseconds_of(Step step) {
    const auto begin = std::chrono::steady_clock::now();
    step();
    return std::chrono::duration<double, std::nano>(std::chrono::steady_clock::now() - begin).count();
}

/// Two vectors, of whom and of what; what comes while they are looped over waits in two more.
struct two_vectors {
    std::vector<float> health = std::vector<float>(objects, 100.0F);
    std::vector<wyrm_id> whom;
    std::vector<Wound> what;
    std::vector<wyrm_id> round_whom;
    std::vector<Wound> round_what;

    void post() {
        for (const wyrm_id one : targets()) {
            whom.push_back(one);
            what.push_back({.depth = 0.5F, .poison = 0.1F});
            barrier();
        }
    }
    void deliver() {
        whom.swap(round_whom);
        what.swap(round_what);
        for (std::size_t i = 0; i < round_whom.size(); ++i) {
            health[round_whom[i]] -= round_what[i].depth + round_what[i].poison;
        }
        round_whom.clear();
        round_what.clear();
    }
};

struct one_span {
    std::vector<float> health = std::vector<float>(objects, 100.0F);
    courier::addressed_channel<Wound, wyrm_id> wounded{"wyrms.wounded"};
    courier::outbox frame{"frame"};
    courier::addressed_poster<Wound, wyrm_id> out{frame, wounded};
    courier::subscriber in{"wyrms"};

    one_span() {
        in.subscribe(wounded, [this](std::span<const courier::addressed_payload<Wound, wyrm_id>> all) {
            for (const auto& [to, what] : all) {
                health[*to] -= what.depth + what.poison;
            }
        });
    }
    void post() {
        for (const wyrm_id one : targets()) {
            out.post_to(one, {.depth = 0.5F, .poison = 0.1F});
            barrier();
        }
    }
    void deliver() { frame.deliver(); }
};

/// A frame of which only one half counts.
template <class Side, bool Posting>
struct half {
    std::unique_ptr<Side> side = std::make_unique<Side>();

    double operator()() {
        const double posting = nanoseconds_of([this] { side->post(); });
        const double delivering = nanoseconds_of([this] { side->deliver(); });
        return Posting ? posting : delivering;
    }
};

template <bool Posting>
using halves = both<half<two_vectors, Posting>, half<one_span, Posting>>;

} // namespace

void register_entities() {
    compare_own_times("entities, posting/two vectors filled/300000", 60,
                      [] { return std::make_unique<halves<true>>(); });
    compare_own_times("entities, delivering/two vectors looped over/300000", 60,
                      [] { return std::make_unique<halves<false>>(); });
}

} // namespace bench
