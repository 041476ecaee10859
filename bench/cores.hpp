// One core for the game's thread, the other for everything else.
#pragma once

#include <pthread.h>
#include <sched.h>
#include <time.h>

namespace bench {

inline void pin(int core) {
    cpu_set_t only;
    CPU_ZERO(&only);
    CPU_SET(core, &only);
    pthread_setaffinity_np(pthread_self(), sizeof only, &only);
}

/// Made with all its threads on the second core.
template <class Make>
auto elsewhere(Make make) {
    pin(1);
    auto made = make();
    pin(0);
    return made;
}

inline double thread_seconds() {
    timespec now{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
    return static_cast<double>(now.tv_sec) + static_cast<double>(now.tv_nsec) / 1e9;
}

} // namespace bench
