// The keeper on the opening watch, and the tide tables to steer by.
#pragma once

#include "barges.hpp"
#include "crew.hpp"
#include "night_log.hpp"
#include "orders.hpp"
#include "payloads.hpp"
#include "watch.hpp"
#include "wyrms.hpp"

#include <courier/channel.hpp>
#include <courier/sequence.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>

#include <optional>
#include <string_view>

namespace reef {

class keeper {
public:
    keeper(const barges& fleet, const watch& hours, const crew& hands, const wyrms& out_there, const orders& cargo,
           courier::timetable& time, night_log& log);

private:
    /// The night as the keeper tells it, from the first sail to dawn.
    courier::sequence<> opening_watch();

    /// The harbour office sends a table in fair weather only.
    courier::sequence<> office();
    courier::sequence<std::optional<std::string_view>> table_from_office();
    courier::sequence<std::optional<std::string_view>> table_on_disk();
    courier::sequence<std::string_view> shipped_table();

    const barges& fleet_;
    const watch& hours_;
    const crew& hands_;
    const wyrms& out_there_;
    courier::timetable& time_;
    night_log& log_;
    courier::channel<TableAsked> table_asked_{"keeper.table_asked"};
    courier::channel<TableSent> table_sent_{"office.table_sent"};
    courier::subscriber in_{"keeper"};
};

} // namespace reef
