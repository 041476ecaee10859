#include "keeper.hpp"

#include <courier/wait.hpp>

#include <fmt/format.h>

#include <chrono>
#include <string>

namespace reef {

using namespace std::chrono_literals;

keeper::keeper(const barges& fleet, const watch& hours, const crew& hands, const wyrms& out_there, const orders& cargo,
               courier::timetable& time, night_log& log)
    : fleet_(fleet), hours_(hours), hands_(hands), out_there_(out_there), time_(time), log_(log) {
    in_.subscribe(out_there.driven_off(), [this](const WyrmDrivenOff& e) {
        log_.react("keeper", fmt::format("writes down that wyrm {} is gone", e.wyrm));
    });
    in_.subscribe(cargo.filled(), [this](const OrderFilled& e) {
        log_.react("keeper", fmt::format("strikes {} off the list", e.buyer));
    });
    in_.start(office());
    in_.start(opening_watch());
}

courier::sequence<> keeper::opening_watch() {
    const auto say = [this](std::string_view what) { log_.react("keeper", what); };
    const auto phase_is = [this](std::string_view phase) {
        return [this, phase] { return hours_.phase().read() == phase; };
    };
    const auto table = [this] {
        return courier::or_else(courier::or_else(table_from_office(), [this] { return table_on_disk(); }),
                                [this] { return shipped_table(); });
    };

    const BargeMoved first = co_await courier::next(fleet_.moved());
    say(fmt::format("opens the watch: barge {} is under way", first.barge));
    say(fmt::format("steers by the {}", co_await table()));
    const bool gulls = (co_await courier::within(time_, 8s, courier::next(hours_.gulls_settled()))).has_value();
    say(gulls ? "sees gulls settle: fair for now" : "sees no gulls: foul weather is coming");

    co_await courier::until(phase_is("storm"));
    if (!co_await courier::within(time_, 4s, courier::next(hands_.all_ready()))) {
        say("is tired of waiting for the hands, and goes up alone");
    }
    say(fmt::format("steers by the {}", co_await table()));
    const auto next = co_await courier::when_any(courier::next(out_there_.sighted()), courier::until(phase_is("dawn")));
    if (next.index() == 0) {
        say(fmt::format("logs the first wyrm, number {}", std::get<0>(next).wyrm));
    }
    co_await courier::until(phase_is("dawn"));
    say("closes the watch");
}

courier::sequence<> keeper::office() {
    for (;;) {
        co_await courier::next(table_asked_);
        co_await courier::elapsed(time_, 500ms);
        if (hours_.phase().glance() != "storm") { // the line is down while it storms
            log_.publish("office", table_sent_, {.source = "office's table"});
        }
    }
}

courier::sequence<std::optional<std::string_view>> keeper::table_from_office() {
    log_.publish("keeper", table_asked_, {});
    const auto sent = co_await courier::within(time_, 2s, courier::next(table_sent_));
    if (!sent) {
        log_.react("keeper", "hears nothing from the office");
        co_return std::nullopt;
    }
    co_return sent->source;
}

courier::sequence<std::optional<std::string_view>> keeper::table_on_disk() {
    co_await courier::elapsed(time_, 500ms); // it has to be found
    if (time_.now() > 20s) {
        log_.react("keeper", "finds last month's table on disk: no use");
        co_return std::nullopt;
    }
    co_return "copy on disk";
}

courier::sequence<std::string_view> keeper::shipped_table() {
    co_return "shipped table";
}

} // namespace reef
