// Bells and the foghorn.
#pragma once

#include "barges.hpp"
#include "night_log.hpp"
#include "watch.hpp"
#include "weather.hpp"
#include "wyrms.hpp"

#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>

#include <string>
#include <string_view>

namespace reef {

/// Rings for wyrms, for barges that come alongside, and for dawn.
class bell {
public:
    bell(std::string name, const barges& convoy, const wyrms& out_there, const watch& hours, courier::timetable& time,
         night_log& log);

private:
    void ring(std::string_view how);

    std::string name_;
    night_log& log_;
    courier::subscriber in_;
};

/// Sounds for bites, for the storm, and for thunder close by.
class horn {
public:
    horn(const barges& convoy, const watch& hours, const weather& above, night_log& log);

private:
    void sound(std::string_view how);

    night_log& log_;
    courier::subscriber in_{"horn"};
};

} // namespace reef
