// Where the members of an event lie, for the page, which reads numbers there.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/recording/run.hpp>

#include <cstddef>
#include <cstdint>
#include <string>

struct layout_field {
    std::string name;
    std::uint32_t offset;
    std::uint32_t size;
};

#define FIELD(name)                                                                                                    \
    layout_field {                                                                                                     \
        #name, offsetof(courier::recorded_event, name), sizeof(courier::recorded_event::name)                          \
    }
