// The groups of benchmarks.
#pragma once

namespace bench {

void register_publish();
void register_nested();
void register_subscribe();
void register_routing();
void register_deferred();
void register_entities();
void register_coming();
void register_values();
void register_ledgers();
void register_recording();
void register_systems();
void register_wiring();

} // namespace bench
