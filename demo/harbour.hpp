// The harbour: keeps the register of barges, hails them, and answers for the tide.
#pragma once

#include "barges.hpp"
#include "night_log.hpp"
#include "watch.hpp"

#include <courier/addressed_publisher.hpp>
#include <courier/hub.hpp>
#include <courier/subscriber.hpp>

namespace reef {

class harbour {
public:
    harbour(const barges& fleet, const watch& hours, courier::hub& reef, night_log& log);

    /// Calls a barge that never came.
    void hail_the_overdue();

private:
    void keep_register();
    void hail(int barge, Hailed what);
    void hail_convoy(Hailed what);
    void show_others(const std::vector<int>& addressed);

    const barges& fleet_;
    night_log& log_;
    courier::addressed_publisher<Hailed> hails_;
    courier::subscriber in_{"harbour"};
};

} // namespace reef
