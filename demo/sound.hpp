// Bells and the foghorn: what they can do. When they do it, the wiring says.
#pragma once

#include "night_log.hpp"

#include <courier/subscriber.hpp>
#include <courier/wiring/wiring.hpp>

#include <string>
#include <string_view>

namespace reef {

/// Which one.
enum class bell { south, north };

struct Ring {
    int strokes;
};
struct RingOut {
    std::string what;
};

/// One bell of the harbour, known by its name while it is manned.
class bell_ringer {
public:
    bell_ringer(bell which, courier::wiring& wires, night_log& log);

private:
    void ring(std::string_view how);

    std::string name_;
    night_log& log_;
    courier::subscriber in_;
    courier::named_target called_;
};

enum class blast { brief, drawn_out };

struct Sound {
    blast how;
};
struct Answer {
    std::string whom;
};

class horn {
public:
    horn(courier::wiring& wires, night_log& log);

private:
    void sound(std::string_view how);

    night_log& log_;
    courier::subscriber in_{"horn"};
};

} // namespace reef
