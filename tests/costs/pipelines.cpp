// A file as a game has it that is full of pipelines; for what it costs to compile.
#include <courier/channel.hpp>
#include <courier/outbox.hpp>
#include <courier/pipeline.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>
#include <courier/timetable.hpp>

#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

struct Bitten {
    int barge;
    int crates;
};

struct Hailed {
    int barge;
    std::string words;
};

struct Squall {
    double strength;
};

class watch_tower {
public:
    watch_tower(const courier::channel<Bitten>& bitten, const courier::channel<Hailed>& hailed,
                const courier::channel<Squall>& squalls, const courier::state<int>& tide, courier::timetable& hours) {
        using namespace std::chrono;
        in_.subscribe(bitten | courier::filter([](const Bitten& b) { return b.crates > 2; }) |
                          courier::transform(&Bitten::barge),
                      [this](int barge) { worst_ = barge; });
        in_.subscribe(bitten | courier::transform(&Bitten::crates) | courier::accumulate(0, std::plus<>()),
                      [this](int lost) { lost_ = lost; });
        in_.subscribe(bitten | courier::drop(3) | courier::take(10), [this] { ++some_; });
        in_.subscribe(hailed | courier::transform(&Hailed::words) | courier::only_changes(),
                      [this](const std::string& words) { last_words_ = words; });
        in_.subscribe(bitten | courier::transform(&Bitten::crates) | courier::slide(3),
                      [this](std::span<const int> three) { lately_ = three[0] + three[1] + three[2]; });
        in_.subscribe(squalls | courier::at_most_every(hours, seconds(1)) | courier::transform(&Squall::strength),
                      [this](double strength) { strength_ = strength; });
        in_.subscribe(hailed | courier::quiet_for(hours, milliseconds(300)),
                      [this](const Hailed& h) { quiet_after_ = h.barge; });
        in_.subscribe(
            courier::merge(bitten | courier::transform(&Bitten::barge), hailed | courier::transform(&Hailed::barge)),
            [this](int barge) { seen_.push_back(barge); });
        in_.subscribe(bitten | courier::beside(squalls), [this](const std::pair<Bitten, Squall>& both) {
            weighted_ += both.first.crates * both.second.strength;
        });
        in_.subscribe(tide | courier::take_while([](const courier::change<int>& c) { return c.after() > 0; }),
                      [this](const courier::change<int>& c) { depth_ = c.after(); });
    }

    [[nodiscard]] double gloom() const { return weighted_ + lost_ + lately_ + strength_; }

private:
    int worst_ = 0;
    int lost_ = 0;
    int some_ = 0;
    int lately_ = 0;
    int quiet_after_ = 0;
    int depth_ = 0;
    double strength_ = 0;
    double weighted_ = 0;
    std::string last_words_;
    std::vector<int> seen_;
    courier::subscriber in_{"watch tower"};
};

int main() {
    courier::channel<Bitten> bitten{"barges.bitten"};
    courier::channel<Hailed> hailed{"barges.hailed"};
    courier::channel<Squall> squalls{"weather.squalls"};
    courier::state<int> tide{"tides.depth", 4};
    courier::outbox later{"later"};
    courier::timetable hours{later};
    const watch_tower tower(bitten, hailed, squalls, tide, hours);
    bitten.publish({.barge = 3, .crates = 4});
    squalls.publish({.strength = 0.5});
    hailed.publish({.barge = 2, .words = "ahoy"});
    tide.set(0);
    return tower.gloom() > 100 ? 1 : 0;
}
