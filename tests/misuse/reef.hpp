// Payloads for the files beside this one.
#pragma once

#include <courier/asker.hpp>
#include <courier/frame_driver.hpp>
#include <courier/hub.hpp>
#include <courier/lifecycle.hpp>
#include <courier/relay.hpp>
#include <courier/tally.hpp>

struct Moored {
    int boat;
};
struct Bitten {
    int barge;
};
struct Dawn {};
struct Hailed {
    using address = int;
    int hand;
};
struct DepthAsked {
    using answer = int;
    int hour;
};
