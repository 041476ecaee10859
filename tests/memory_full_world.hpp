// Some of everything, for the test that lets each allocation fail.
#pragma once

#include "support.hpp"

namespace memory_full {

using namespace std::chrono_literals;

struct Tide {
    int height = 0;
};
struct Hail {
    using address = std::string;
    std::string from;
    int boat = 0;
};
struct DepthAsked {
    using answer = int;
    static constexpr auto answered = courier::answering::in_order;
    int hour = 0;
};

enum class watch { calm, storm };
struct squall {
    void update() {}
};
struct vane {
    explicit vane(squall& wind) { static_cast<void>(wind); }
    void update() {}
};

inline const std::string long_name(100, 'n');

/// Some of everything, with something subscribed to each.
struct world {
    explicit world(bool with_ledger) {
        if (with_ledger) {
            books.emplace("night", courier::ledger_options{.time_every = 2});
            books->attach_everything();
        }
        tide.emplace(long_name);
        hails.emplace("hails");
        later.emplace("later");
        hours.emplace(*later);
        depth.emplace("depth", 0);
        marks.emplace("marks");
        berths.emplace("berths");
        deep.emplace("deep", [this] { return depth->read() > 3; });
        convoy.emplace("convoy");
        ready.emplace("ready");
        arrivals.emplace(*later, "arrivals");
        asked.emplace("depth asked", 7);
        in.emplace(long_name);
        in->subscribe(*tide, [this, text = std::string(60, 'x')](const Tide& t) { heard += t.height != 0 ? 1 : 0; });
        in->subscribe(hails->at("north"), [this](const Hail&) { ++heard; });
        in->subscribe(*depth, [this](const courier::change<int>&) { ++told; });
        in->subscribe(*deep, [this](const courier::change<bool>&) { ++told; });
        in->subscribe(*marks, [this](const courier::list_change<std::string>&) { ++told; });
        in->subscribe(*berths, [this](const courier::map_change<int, std::string>&) { ++told; });
        in->keep_current([this] { shown = depth->read(); });
        in->keep_current(*later, [this] { shown_later = depth->read(); });
        in->subscribe(convoy->joined(), [this] { ++told; });
        in->subscribe(ready->completed(), [this] { ++told; });
        to.emplace(*later, *tide);
        latest.emplace(*later, *hails, courier::posting_options<Hail>{.keep = courier::keep::one_per_address});
        few.emplace(*later, *hails,
                    courier::posting_options<Hail>{.limit = 2, .when_full = courier::when_full::drop_oldest});
        send.emplace(*arrivals, *to);
        frame.emplace();
        frame->take_in(*arrivals).advance(*hours).deliver(*later);
        later->deliver_until_quiet();
        told = 0;
    }

    /// What can be seen from outside.
    [[nodiscard]] std::vector<long> seen() const {
        const auto of = [](auto number) { return static_cast<long>(number); };
        return {of(tide->size()),
                of(hails->size()),
                of(hails->addresses()),
                of(in->size()),
                of(later->waiting()),
                of(hours->waiting()),
                of(arrivals->waiting()),
                of(depth->glance()),
                of(depth->size()),
                of(deep->size()),
                of(marks->glance().size()),
                of(berths->glance().size()),
                of(convoy->size()),
                of(ready->expected()),
                of(ready->reported()),
                of(asked->size()),
                of(courier::list_refreshers().size()),
                of(courier::list_sequences().size()),
                of(kept.size()),
                of(sequences)};
    }

    /// Everything once more, with memory.
    void work() {
        later->deliver_until_quiet();
        const int before = heard;
        CHECK(tide->publish({1}).served() >= 1);
        hails->publish_to("north", {"work", 1});
        CHECK(to->post({1}));
        latest->post_to("north", {"work", 2});
        hours->after(1ms, *tide, {1}).release();
        CHECK(send->send({1}));
        frame->run(2ms);
        later->deliver_until_quiet();
        CHECK(heard - before >= 6);
        const int told_before = told;
        const int now = depth->glance() + 10;
        depth->set(now);
        later->deliver();
        CHECK(shown == now);
        CHECK(shown_later == now);
        CHECK(told - told_before >= 1);
        depth->set(0);
        depth->set(9);
        CHECK(told - told_before >= 4); // the formula's, too
        CHECK(deep->read());
        const int told_later = told;
        marks->add("work");
        berths->set(77, "work");
        auto joined = convoy->join(99);
        CHECK(told - told_later == 3);
        CHECK(asked->ask({1}).value_or(0) != 0);
        if (books && books->working()) {
            for (const auto& s : books->read().subscriptions) {
                for (std::size_t k = 0; k < courier::turn_kinds; ++k) {
                    REQUIRE(s.turns[static_cast<courier::turn>(k)] < 1'000'000);
                }
            }
        }
    }

    std::optional<courier::ledger> books;
    std::optional<courier::channel<Tide>> tide;
    std::optional<courier::addressed_channel<Hail, std::string>> hails;
    std::optional<courier::outbox> later;
    std::optional<courier::timetable> hours;
    std::optional<courier::state<int>> depth;
    std::optional<courier::announced_list<std::string>> marks;
    std::optional<courier::announced_map<int, std::string>> berths;
    std::optional<courier::formula<bool>> deep;
    std::optional<courier::group<int>> convoy;
    std::optional<courier::tally<int>> ready;
    std::optional<courier::inbox> arrivals;
    std::optional<courier::query<DepthAsked>> asked;
    std::optional<courier::poster<Tide>> to;
    std::optional<courier::addressed_poster<Hail>> latest;
    std::optional<courier::addressed_poster<Hail>> few;
    std::optional<courier::inlet<Tide>> send;
    std::optional<courier::frame_driver> frame;
    std::optional<courier::subscriber> in;
    std::vector<std::shared_ptr<void>> kept; ///< what an operation has made
    int heard = 0;
    int told = 0;
    int shown = -1;
    int shown_later = -1;
    int sequences = 0; ///< that went on
};

template <class T, class... Arguments>
void make(world& w, Arguments&&... arguments) {
    w.kept.reserve(8);
    w.kept.push_back(std::make_shared<T>(std::forward<Arguments>(arguments)...));
}

inline courier::sequence<> waits(world& w) {
    co_await courier::when_any(courier::next(*w.tide), courier::elapsed(*w.hours, 5ms));
    ++w.sequences;
}

} // namespace memory_full
