// Payloads for the files beside this one.
#pragma once

// In the order in which they need one another, so that the compiler's list of who included whom is as short as
// in a game.
// clang-format off
#include <courier/channel.hpp>
#include <courier/addressed_channel.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>
#include <courier/poster.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>
#include <courier/query.hpp>
#include <courier/asker.hpp>
#include <courier/frame_driver.hpp>
#include <courier/hub.hpp>
#include <courier/lifecycle.hpp>
#include <courier/relay.hpp>
#include <courier/tally.hpp>
// clang-format on

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
