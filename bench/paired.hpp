// Two ways of doing the same, measured side by side: short slices of one and
// of the other take turns, and the figure is the median of the ratios of
// neighbouring slices. Whatever slows the machine down slows both.
#pragma once

#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>
#include <string>
#include <utility>
#include <vector>

namespace bench {

/// Keeps the compiler from seeing through what was written to memory.
inline void barrier() {
    asm volatile("" ::: "memory");
}

template <class Work>
double nanoseconds_each(Work& work, long times) {
    const auto begin = std::chrono::steady_clock::now();
    for (long i = 0; i < times; ++i) {
        work();
        barrier();
    }
    const std::chrono::duration<double, std::nano> taken = std::chrono::steady_clock::now() - begin;
    return taken.count() / static_cast<double>(times);
}

/// What `part` of them, from 0 to 1, are not above.
inline double quantile(std::vector<double> values, double part) {
    const auto at = values.begin() + static_cast<std::ptrdiff_t>(static_cast<double>(values.size()) * part);
    std::nth_element(values.begin(), at, values.end());
    return *at;
}

inline double median(std::vector<double> values) {
    return quantile(std::move(values), 0.5);
}

/// What most comparisons are made of.
template <class Baseline, class Ours>
struct both {
    Baseline baseline;
    Ours ours;
};

/// Registers a benchmark whose counters are the medians of both sides and of
/// their ratio. `make` returns a pair of sides, baseline first; `measure` says
/// how many nanoseconds one slice of a side took.
template <class Make, class Measure>
void compare_measured(const std::string& name, long slices, Make make, Measure measure) {
    benchmark::RegisterBenchmark(name.c_str(),
                                 [make, measure](benchmark::State& state) {
                                     auto both = make();
                                     std::vector<double> baseline;
                                     std::vector<double> ours;
                                     std::vector<double> ratio;
                                     measure(both->baseline);
                                     measure(both->ours);
                                     for ([[maybe_unused]] auto unused : state) {
                                         baseline.push_back(measure(both->baseline));
                                         ours.push_back(measure(both->ours));
                                         ratio.push_back(ours.back() / baseline.back());
                                     }
                                     state.counters["baseline_ns"] = median(baseline);
                                     state.counters["ours_ns"] = median(ours);
                                     state.counters["ratio"] = median(ratio);
                                     // Of the quick ones of each side: without what the processor foresaw wrongly.
                                     state.counters["quick_ratio"] = quantile(ours, 0.1) / quantile(baseline, 0.1);
                                 })
        ->Iterations(slices)
        ->Unit(benchmark::kMicrosecond);
}

/// Each side is called `times` in one slice.
template <class Make>
void compare_times(const std::string& name, long times, long slices, Make make) {
    compare_measured(name, slices, std::move(make), [times](auto& side) { return nanoseconds_each(side, times); });
}

/// Each side says itself how many nanoseconds of its work count.
template <class Make>
void compare_own_times(const std::string& name, long slices, Make make) {
    compare_measured(name, slices, std::move(make), [](auto& side) { return side(); });
}

/// The same with as many slices as most comparisons need.
template <class Make>
void compare(const std::string& name, long times, Make make) {
    compare_times(name, times, 400, std::move(make));
}

} // namespace bench
