// What the tests of ledgers share.
#pragma once

#include "support.hpp"

namespace reef_books {
struct Hailed {
    int order = 0;
};
struct DepthAsked {
    using answer = int;
    int hour = 0;
};
} // namespace reef_books

namespace ledger_scene {

using courier::channel;
using courier::ledger;
using courier::turn;
using reef_books::DepthAsked;
using reef_books::Hailed;
using test::Dawn;
using test::Moored;

inline const courier::channel_books& on(const courier::books& all, const std::string& name) {
    for (const courier::channel_books& c : all.channels) {
        if (c.name == name) {
            return c;
        }
    }
    throw std::out_of_range(name);
}

inline const courier::subscription_books& of(const courier::books& all, const std::string& subscriber) {
    for (const courier::subscription_books& s : all.subscriptions) {
        if (s.subscriber == subscriber) {
            return s;
        }
    }
    throw std::out_of_range(subscriber);
}

} // namespace ledger_scene
