// Bells and the foghorn.
#pragma once

#include "barges.hpp"
#include "night_log.hpp"
#include "watch.hpp"
#include "wyrms.hpp"

#include <courier/subscriber.hpp>

#include <string>

namespace reef {

/// Rings for wyrms, for barges that come alongside, and for dawn.
class bell {
public:
    bell(std::string name, const barges& convoy, const wyrms& out_there, const watch& hours, night_log& log);

private:
    std::string name_;
    courier::subscriber in_;
};

/// Sounds for bites and for the storm.
class horn {
public:
    horn(const barges& convoy, const watch& hours, night_log& log);

private:
    courier::subscriber in_{"horn"};
};

} // namespace reef
