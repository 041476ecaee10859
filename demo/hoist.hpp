// The signal hoist at the harbour mouth. It knows neither who raises flags, nor which
// signal is wanted, nor what comes of it: the wiring does.
#pragma once

#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>
#include <courier/wiring/wiring.hpp>

#include <string>

namespace reef {

struct Raise {
    flag shown;
};
struct Read {
    std::string as; ///< the flags from the top, "gull whale"
};
class hoist {
public:
    hoist(courier::wiring& wires, night_log& log);

    [[nodiscard]] const courier::channel<FlagRaised>& raised() const { return raised_; }

private:
    courier::channel<FlagRaised> raised_{"hoist.raised"};
    std::string signal_;
    int up_ = 0;
    courier::subscriber in_{"hoist"};
};

/// The chain across the harbour mouth.
class boom {
public:
    boom(courier::wiring& wires, night_log& log) {
        wires.action(in_, "boom.lower", [&log] { log.react("boom", "is lowered"); });
    }

private:
    courier::subscriber in_{"boom"};
};

} // namespace reef
