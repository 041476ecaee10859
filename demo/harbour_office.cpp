// The harbour office: sees all reefs, and answers for the water.
#include "lighthouse.hpp"
#include "passage.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/ferry/ferry.hpp>
#include <courier/ledger.hpp>
#include <courier/query.hpp>
#include <courier/recording/recorder.hpp>
#include <courier/subscriber.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <thread>
#include <utility>

namespace reef {

namespace {

class office {
public:
    office(const reefs_options& options, const lighthouse_control& control,
           const std::function<void(const std::string&)>& line)
        : options_(options), control_(control), line_(line), boat_({.process = "office",
                                                                    .port = options.port,
                                                                    .processes_topic = "gannet/processes",
                                                                    .absence = std::chrono::seconds(1)}) {
        boat_.receive(boards_, "gannet/reef/+/board");
        boat_.receive(under_way_, "gannet/barges/+", {.guarantee = courier::guarantee::exactly_once});
        boat_.send(reminders_, "gannet/barges/+", {.guarantee = courier::guarantee::exactly_once});
        boat_.answer(water_, "gannet/office/water");
        in_.subscribe(boat_.peers(), [this](const courier::peer_changed& p) { note(p); });
        in_.subscribe(boat_.lost(), [this](const courier::payloads_lost& l) { note(l); });
        in_.subscribe(boards_, [this](const std::string* reef, const ReefBoard& b) { note(reef, b); });
        in_.subscribe(under_way_, [this](const std::string* to, const BargeSails& s) { note(to, s); });
        in_.answer(water_, [](const WaterAsked& q) { return Water{4 + (q.hour * q.hour + 1) % 5}; });
    }

    [[nodiscard]] bool is_done() const { return result_.home == options_.reefs * options_.barges; }

    void step() {
        boat_.take_in();
        const auto now = std::chrono::steady_clock::now();
        if (killed_ == 0 && to_be_killed_ && options_.reefs > 1) {
            killed_ = 2;
            back_at_ = now + std::chrono::milliseconds(3500);
            say("reef-2 is killed");
            control_.kill(killed_);
        }
        if (killed_ != 0 && !is_back_ && now >= back_at_) {
            is_back_ = true;
            say("reef-2 is started again");
            control_.start_again(killed_);
        }
    }

    [[nodiscard]] office_result result() {
        result_.of = options_.reefs * options_.barges;
        result_.is_whole = is_done();
        result_.payloads = boat_.report().arrived;
        result_.missing = boat_.report().of(courier::ferry_code::missing);
        for (const auto& [reef, b] : shown_) {
            result_.board += fmt::format("  {:<8} {:<6} {:>8} {:>8} {:>8} {:>8}   {}\n", reef, b.hour, b.afloat,
                                         b.sailed, b.lost, b.fathoms, lives_[reef]);
        }
        return result_;
    }

private:
    void say(const std::string& what) {
        const auto since = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun_).count();
        line_(fmt::format("{:6.2f} s  {}", since, what));
    }

    void note(const courier::peer_changed& p) {
        const bool came = p.news == courier::peer_news::came;
        const bool came_back = came && lives_.contains(p.process);
        lives_[p.process] = came                                 ? (came_back ? "came back" : "is there")
                            : p.news == courier::peer_news::left ? "left"
                                                                 : "died";
        say(fmt::format("{} {}", p.process, came_back ? "comes back" : came ? "comes" : lives_[p.process]));
        if (came_back) { // it may have had barges when it died
            for (const auto& [barge, way] : where_) {
                if (way.first == p.process) {
                    ++result_.told_again;
                    reminders_.publish_to(p.process, way.second);
                }
            }
        }
    }
    void note(const courier::payloads_lost& l) {
        say(fmt::format("{} payloads on {} did not cross: {} {}", l.times, l.topic, id_of(l.code), l.what));
    }
    void note(const std::string* reef, const ReefBoard& b) {
        if (reef != nullptr) {
            shown_[*reef] = b;
        }
    }
    void note(const std::string* to, const BargeSails& s) {
        if (to == nullptr) {
            return;
        }
        if (!legs_.insert({s.barge, s.from}).second) {
            ++result_.twice;
            return;
        }
        where_[s.barge] = {*to, s};
        own_of_two_ += s.from == "reef-2" && s.calls == 1 ? 1 : 0;
        const bool has_guests =
            std::any_of(where_.begin(), where_.end(), [](const auto& one) { return one.second.first == "reef-2"; });
        to_be_killed_ = to_be_killed_ || (has_guests && own_of_two_ == options_.barges);
        say(fmt::format("barge {} sails from {} to {} with {} crates", s.barge, s.from, *to, s.crates));
        if (*to == "office") {
            ++result_.home;
            result_.crates += s.crates;
            result_.lost += s.lost;
        }
    }

    const reefs_options& options_;
    const lighthouse_control& control_;
    const std::function<void(const std::string&)>& line_;
    const std::chrono::steady_clock::time_point begun_ = std::chrono::steady_clock::now();
    courier::ferry boat_;
    courier::addressed_channel<ReefBoard, std::string> boards_{"office.boards"};
    courier::addressed_channel<BargeSails, std::string> under_way_{"office.under_way"};
    courier::addressed_channel<BargeSails, std::string> reminders_{"office.reminders"};
    courier::query<WaterAsked> water_{"office.water"};
    std::map<std::string, std::string> lives_;
    std::map<std::string, ReefBoard> shown_;
    std::map<std::string, std::pair<std::string, BargeSails>> where_; ///< barges: where to, and with what
    std::set<std::pair<std::string, std::string>> legs_;
    int own_of_two_ = 0; ///< barges that set out from there
    bool to_be_killed_ = false;
    int killed_ = 0;
    bool is_back_ = false;
    std::chrono::steady_clock::time_point back_at_;
    office_result result_;
    courier::subscriber in_{"office"};
};

} // namespace

office_result run_office(const reefs_options& options, const lighthouse_control& control, const std::atomic<bool>& over,
                         const std::function<void(const std::string&)>& line) {
    courier::ledger overseer("office");
    std::optional<courier::recorder> to_file;
    if (!options.record.empty()) {
        to_file.emplace(overseer, options.record, courier::recorder_options{.facts = {{"program", "courier demo"}}});
    }
    overseer.attach_everything();
    office all(options, control, line);
    const auto until = std::chrono::steady_clock::now() + std::chrono::seconds(60);
    while (!over && !all.is_done() && std::chrono::steady_clock::now() < until) {
        all.step();
        overseer.end_frame();
        std::this_thread::sleep_for(std::chrono::milliseconds(10));
    }
    return all.result();
}

} // namespace reef
