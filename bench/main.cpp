#include "registrations.hpp"

#include <benchmark/benchmark.h>

int main(int argc, char** argv) {
    bench::register_publish();
    bench::register_nested();
    bench::register_subscribe();
    bench::register_routing();
    bench::register_deferred();
    bench::register_entities();
    bench::register_coming();
    bench::register_values();
    bench::register_ledgers();
    bench::register_recording();
    bench::register_systems();
    bench::register_wiring();
    benchmark::Initialize(&argc, argv);
    if (benchmark::ReportUnrecognizedArguments(argc, argv)) {
        return 1;
    }
    benchmark::RunSpecifiedBenchmarks();
    benchmark::Shutdown();
    return 0;
}
