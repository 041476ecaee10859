// courier demo: a night at Gannet Reef.
#pragma once

#include <night.hpp>

namespace tool {

struct demo_request {
    reef::night_options night;
    bool quiet = false; ///< the summary only
};

/// Prints the night; returns the exit code.
int run_demo(const demo_request& request);

} // namespace tool
