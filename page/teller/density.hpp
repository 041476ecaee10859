// How much happened in each column of a picture of some frames.
// SPDX-License-Identifier: MIT
#pragma once

#include "shown.hpp"

#include <courier/recording/run.hpp>
#include <courier/recording/run_filter.hpp>

#include <algorithm>
#include <cstddef>
#include <cstdint>

struct density_question {
    courier::run_filter filter;
    double first = 0; ///< frame
    double last = 0;  ///< frame; where the picture ends
    std::uint32_t columns = 0;
};

inline shown_density density_of(const courier::run& run, const density_question& asked) {
    shown_density made;
    made.all.resize(asked.columns);
    made.passing.resize(asked.columns);
    made.failed.resize(asked.columns);
    const courier::run_selection selected(run, asked.filter);
    const double scale = asked.columns / std::max(asked.last - asked.first, 1e-9);
    for (const courier::recorded_event& one : run.events) {
        const double place = (one.frame - asked.first) * scale;
        if (one.is_post || place < 0 || place >= asked.columns) {
            continue;
        }
        const auto column = static_cast<std::size_t>(place);
        ++made.all[column];
        made.passing[column] += !asked.filter.narrow() || selected(one) ? 1U : 0U;
        made.failed[column] += one.failed;
    }
    return made;
}
