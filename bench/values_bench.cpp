// Pipelines, values and sequences.
#include "baselines.hpp"
#include "paired.hpp"
#include "registrations.hpp"

#include <courier/channel.hpp>
#include <courier/formula.hpp>
#include <courier/pipeline.hpp>
#include <courier/sequence.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>
#include <courier/wait.hpp>

#include <cstddef>
#include <functional>
#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace bench {

namespace {

constexpr std::size_t fan_width = 10000;

/// Subscriptions that filter and change what comes, by hand or as a pipeline.
template <bool Piped>
struct filter_side {
    explicit filter_side(std::size_t listeners) : barges(listeners) {
        for (Barge& barge : barges) {
            Barge* const b = &barge;
            if constexpr (Piped) {
                in.subscribe(bitten | courier::filter([](const Bitten& e) { return e.barge != 3; }) |
                                 courier::transform([](const Bitten& e) { return e.crates * 2; }),
                             [b](int crates) { b->lost += crates; });
            } else {
                in.subscribe(bitten, [b](const Bitten& e) {
                    if (e.barge != 3) {
                        b->lost += e.crates * 2;
                    }
                });
            }
        }
    }
    void operator()() {
        bitten.publish({.barge = ++next % 8, .crates = 2});
        barrier();
    }

    std::vector<Barge> barges;
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::subscriber in{"barges"};
    int next = 0;
};

/// A value that calls functions when it changes; they may add some meanwhile.
struct cell_with_functions {
    explicit cell_with_functions(std::size_t listeners) : barges(listeners) {
        for (Barge& barge : barges) {
            told.emplace_back([b = &barge](int before, int after) { b->lost += after - before; });
        }
    }
    void operator()() {
        const int after = ++next;
        if (after != value) {
            const int before = std::exchange(value, after);
            for (std::size_t i = 0, count = told.size(); i < count; ++i) {
                told[i](before, value);
            }
        }
        barrier();
    }

    std::vector<Barge> barges;
    std::vector<std::function<void(int, int)>> told;
    int value = 0;
    int next = 0;
};

struct state_with_handlers {
    explicit state_with_handlers(std::size_t listeners) : barges(listeners) {
        for (Barge& barge : barges) {
            in.subscribe(*depth, [b = &barge](const courier::change<int>& c) { b->lost += c.after() - c.before(); });
        }
    }
    void operator()() {
        depth->set(++next);
        barrier();
    }

    std::vector<Barge> barges;
    std::unique_ptr<courier::state<int>> depth = std::make_unique<courier::state<int>>("tide.depth");
    courier::subscriber in{"barges"};
    int next = 0;
};

/// A value that follows from others, as one writes it by hand: it knows what it reads and who reads it, is computed
/// when somebody asks for it, and only if something that it reads has another value.
struct cell {
    std::function<int()> compute; ///< none: it is set
    std::vector<cell*> sources = {};
    std::vector<cell*> readers = {};
    int value = 0;
    bool stale = true;
    unsigned changed = 1; ///< in which step
    unsigned looked = 0;

    void mark() {
        for (cell* const reader : readers) {
            if (!std::exchange(reader->stale, true)) {
                reader->mark();
            }
        }
    }
    void set(int to, unsigned step) {
        if (to != value) {
            value = to;
            changed = step;
            mark();
        }
    }
    int read(unsigned step) {
        if (compute && std::exchange(stale, false)) {
            bool differs = looked == 0;
            for (cell* const source : sources) {
                source->read(step);
                differs = differs || source->changed > looked;
            }
            looked = step;
            if (differs) {
                const int next = compute();
                changed = std::exchange(value, next) != next ? step : changed;
            }
        }
        return value;
    }
};

/// A chain of them, and a function that is called when the last may have changed.
struct cell_chain {
    explicit cell_chain(std::size_t length) : cells(length + 1) {
        for (std::size_t i = 1; i <= length; ++i) {
            cells[i].compute = [this, before = &cells[i - 1]] { return before->value + added; };
            cells[i].sources.push_back(&cells[i - 1]);
            cells[i - 1].readers.push_back(&cells[i]);
        }
        shown = [this] { last = cells.back().read(step); };
        shown();
    }
    void operator()() {
        ++step;
        cells.front().set(cells.front().value + 1, step);
        if (cells.back().stale) {
            shown();
        }
        barrier();
    }

    int added = 1;
    int last = 0;
    unsigned step = 1;
    std::vector<cell> cells;
    std::function<void()> shown;
};

/// The same as formulas, each reading the one before, and a refresher of the last.
struct formula_chain {
    explicit formula_chain(std::size_t length) {
        steps.push_back(std::make_unique<courier::formula<int>>("step", [this] { return first.read() + added; }));
        while (steps.size() < length) {
            const courier::formula<int>* const before = steps.back().get();
            steps.push_back(
                std::make_unique<courier::formula<int>>("step", [this, before] { return before->read() + added; }));
        }
        in.keep_current([this] { last = steps.back()->read(); });
    }
    void operator()() {
        first.set(first.glance() + 1);
        barrier();
    }

    int added = 1;
    int last = 0;
    courier::state<int> first{"first"};
    std::vector<std::unique_ptr<courier::formula<int>>> steps;
    courier::subscriber in{"refresher"};
};

/// Those who are told of one payload.
struct plain_listener {
    explicit plain_listener(std::size_t listeners) : barges(listeners) {
        for (Barge& barge : barges) {
            in.subscribe(bitten, [b = &barge](const Bitten& e) { b->on_bitten(e); });
        }
    }
    void operator()() {
        bitten.publish({.barge = 1, .crates = 2});
        barrier();
    }

    std::vector<Barge> barges;
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::subscriber in{"barges"};
};

/// Ten thousand refreshers of one state.
struct view_fan {
    view_fan() : barges(fan_width) {
        for (Barge& barge : barges) {
            in.keep_current([b = &barge, this] { b->lost += crates.read(); });
        }
    }
    void operator()() {
        crates.set(crates.glance() + 1);
        barrier();
    }

    std::vector<Barge> barges;
    courier::state<int> crates{"crates"};
    courier::subscriber in{"barges"};
};

courier::sequence<> keeps_waiting(const courier::channel<Bitten>& bitten, Barge& barge) {
    for (;;) {
        barge.on_bitten(co_await courier::next(bitten));
    }
}

struct waiting_sequence {
    explicit waiting_sequence(std::size_t listeners) : barges(listeners) {
        for (Barge& barge : barges) {
            in.start(keeps_waiting(*bitten, barge));
        }
    }
    void operator()() {
        bitten->publish({.barge = 1, .crates = 2});
        barrier();
    }

    std::vector<Barge> barges;
    std::unique_ptr<courier::channel<Bitten>> bitten = std::make_unique<courier::channel<Bitten>>("barges.bitten");
    courier::subscriber in{"barges"};
};

} // namespace

void register_values() {
    for (const std::size_t listeners : {1U, 8U, 1000U}) {
        compare("filter and transform/one lambda/" + std::to_string(listeners), listeners == 1000 ? 20 : 1000, [=] {
            return std::unique_ptr<both<filter_side<false>, filter_side<true>>>(
                new both<filter_side<false>, filter_side<true>>{filter_side<false>(listeners),
                                                                filter_side<true>(listeners)});
        });
    }
    for (const std::size_t listeners : {0U, 1U, 8U}) {
        compare("setting a state/a cell with std::functions/" + std::to_string(listeners), 1000, [=] {
            return std::unique_ptr<both<cell_with_functions, state_with_handlers>>(
                new both<cell_with_functions, state_with_handlers>{cell_with_functions(listeners),
                                                                   state_with_handlers(listeners)});
        });
    }
    for (const std::size_t length : {1U, 1000U}) {
        compare("formulas in a chain/cells by hand/" + std::to_string(length), length == 1 ? 1000 : 10, [=] {
            return std::unique_ptr<both<cell_chain, formula_chain>>(
                new both<cell_chain, formula_chain>{cell_chain(length), formula_chain(length)});
        });
    }
    compare("refreshers of one state/plain deliveries/10000", 2, [] {
        return std::unique_ptr<both<plain_listener, view_fan>>(
            new both<plain_listener, view_fan>{plain_listener(fan_width), {}});
    });
    for (const std::size_t listeners : {1U, 1000U}) {
        compare("waiting for the next/plain delivery/" + std::to_string(listeners), listeners == 1000 ? 5 : 1000, [=] {
            return std::unique_ptr<both<plain_listener, waiting_sequence>>(
                new both<plain_listener, waiting_sequence>{plain_listener(listeners), waiting_sequence(listeners)});
        });
    }
}

} // namespace bench
