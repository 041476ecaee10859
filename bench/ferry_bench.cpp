// What a ferry costs the game, and how fast it is against libmosquitto used by hand, through a broker that this starts.
// Senders and receivers are processes of their own. Usage: ferry_bench [SECONDS [throughput | game]]
// for each part; prints a line for each figure.
#include "../demo/local_broker.hpp"
#include "game.hpp"

#include <courier/channel.hpp>
#include <courier/ferry/ferry.hpp>

#include <mosquitto.h>
#include <mqtt_protocol.h>

#include <atomic>
#include <chrono>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <functional>
#include <memory>
#include <string>
#include <string_view>
#include <thread>
#include <vector>

#include <sys/wait.h>
#include <unistd.h>

namespace {

using bench::clock_type;
using bench::elsewhere;
using bench::Moved;
using bench::pin;
using bench::wait_until;
using namespace std::chrono_literals;
using courier::guarantee;

/// As a barge makes fast: demo/payloads.hpp has it so, too.
struct Moored {
    int barge = 0;
    int berth = 0;
    int crates = 0;
    int lost = 0;
    int frame = 0;
};

Moored moored(int i) {
    return {i % 9, i % 12, 40 - i % 7, i % 7, i};
}

courier::ferry_options at(const reef::local_broker& broker, const std::string& process) {
    courier::ferry_options made;
    made.process = process;
    made.port = broker.port();
    return made;
}

void wait_for(courier::ferry& one) {
    wait_until("the broker", [&] {
        one.take_in();
        return one.link().glance().is == courier::link_phase::connected;
    });
}

/// A process that receives, and says when it is ready and when it has all.
class receiver {
public:
    explicit receiver(const std::function<void(const std::function<void()>& ready)>& until_all) {
        if (::pipe(pipe_) != 0) {
            std::exit(1);
        }
        process_ = ::fork();
        if (process_ == 0) {
            until_all([this] { say('r'); });
            say('d');
            ::_exit(0);
        }
        ::close(pipe_[1]); // so that a process that ends before its time is noticed
    }
    receiver(const receiver&) = delete;
    receiver& operator=(const receiver&) = delete;
    ~receiver() {
        ::waitpid(process_, nullptr, 0);
        ::close(pipe_[0]);
    }
    void wait() const {
        char said = 0;
        if (::read(pipe_[0], &said, 1) != 1) {
            std::fprintf(stderr, "the process that receives ended before its time\n");
            std::exit(1);
        }
    }

private:
    void say(char what) const { static_cast<void>(::write(pipe_[1], &what, 1) == 1); }

    int pipe_[2]{};
    pid_t process_ = -1;
};

double ferried(const reef::local_broker& broker, guarantee promised, courier::encoding as, int count) {
    const receiver there([&](const std::function<void()>& ready) {
        courier::channel<Moored> in("in");
        courier::ferry far(at(broker, "far"));
        far.receive(in, "bench/moored", {.guarantee = promised});
        int got = 0;
        const auto heard = in.subscribe([&](const Moored&) { ++got; });
        wait_for(far);
        ready();
        wait_until(
            "what a ferry sent",
            [&] {
                far.take_in();
                return got >= count;
            },
            200us);
    });
    courier::channel<Moored> out("out");
    courier::ferry near(at(broker, "near"));
    near.send(out, "bench/moored", {.guarantee = promised, .encoding = as});
    wait_for(near);
    there.wait();
    const auto begun = clock_type::now();
    for (int i = 0; i < count; ++i) {
        out.publish(moored(i));
        if (i % 200 == 199) {
            near.take_in();
            wait_until(
                "a ferry to send", [&] { return static_cast<std::uint64_t>(i) <= near.report().sent + 5000; }, 200us);
        }
    }
    near.take_in();
    there.wait();
    return std::chrono::duration<double>(clock_type::now() - begun).count();
}

/// The same by hand: the bytes of the payload, and what a CloudEvent has beside it.
class by_hand {
public:
    by_hand(const reef::local_broker& broker, const char* name) : client_(mosquitto_new(name, true, this)) {
        mosquitto_int_option(client_, MOSQ_OPT_PROTOCOL_VERSION, MQTT_PROTOCOL_V5);
        mosquitto_int_option(client_, MOSQ_OPT_SEND_MAXIMUM, 100);
        mosquitto_int_option(client_, MOSQ_OPT_TCP_NODELAY, 1);
        mosquitto_message_v5_callback_set(
            client_, [](mosquitto*, void* self, const mosquitto_message*, const mosquitto_property*) {
                static_cast<by_hand*>(self)->got.fetch_add(1, std::memory_order_release);
            });
        mosquitto_connect(client_, "127.0.0.1", broker.port(), 60);
        mosquitto_loop_start(client_);
    }
    by_hand(const by_hand&) = delete;
    by_hand& operator=(const by_hand&) = delete;
    ~by_hand() {
        mosquitto_disconnect(client_);
        mosquitto_loop_stop(client_, true);
        mosquitto_destroy(client_);
    }
    void subscribe(int qos) { mosquitto_subscribe(client_, nullptr, "bench/by-hand", qos); }
    void send(int number, int qos) {
        const Moored what = moored(number);
        char payload[128];
        const int size =
            std::snprintf(payload, sizeof payload, R"({"barge":%d,"berth":%d,"crates":%d,"lost":%d,"frame":%d})",
                          what.barge, what.berth, what.crates, what.lost, what.frame);
        char id[64];
        std::snprintf(id, sizeof id, "0123456789abcdef-n0-%d-0", number + 1);
        mosquitto_property* properties = nullptr;
        mosquitto_property_add_string(&properties, MQTT_PROP_CONTENT_TYPE, "application/json");
        mosquitto_property_add_string_pair(&properties, MQTT_PROP_USER_PROPERTY, "specversion", "1.0");
        mosquitto_property_add_string_pair(&properties, MQTT_PROP_USER_PROPERTY, "id", id);
        mosquitto_property_add_string_pair(&properties, MQTT_PROP_USER_PROPERTY, "source", "near");
        mosquitto_property_add_string_pair(&properties, MQTT_PROP_USER_PROPERTY, "type", "wired-courier.payload");
        mosquitto_publish_v5(client_, nullptr, "bench/by-hand", size, payload, qos, false, properties);
        mosquitto_property_free_all(&properties);
    }
    std::atomic<int> got{0};

private:
    mosquitto* client_;
};

double handed(const reef::local_broker& broker, int qos, int count) {
    const receiver there([&](const std::function<void()>& ready) {
        by_hand far(broker, "far-by-hand");
        far.subscribe(qos);
        std::this_thread::sleep_for(50ms);
        ready();
        wait_until(
            "what was sent by hand", [&] { return far.got.load(std::memory_order_acquire) >= count; }, 200us);
    });
    by_hand near(broker, "near-by-hand");
    there.wait();
    std::this_thread::sleep_for(20ms);
    const auto begun = clock_type::now();
    for (int i = 0; i < count; ++i) {
        near.send(i, qos);
    }
    there.wait();
    return std::chrono::duration<double>(clock_type::now() - begun).count();
}

void throughput(const reef::local_broker& broker, double seconds) {
    struct way {
        const char* name;
        courier::guarantee guarantee;
        courier::encoding as;
        int qos;
        int count; ///< in a round; many short rounds, since other programs have a part in each
    };
    for (const way& one : {way{"at least once, JSON", guarantee::at_least_once, courier::encoding::json, 1, 3000},
                           way{"at most once, JSON", guarantee::at_most_once, courier::encoding::json, 0, 12000},
                           way{"exactly once, JSON", guarantee::exactly_once, courier::encoding::json, 1, 3000},
                           way{"at least once, CBOR", guarantee::at_least_once, courier::encoding::cbor, 1, 3000}}) {
        std::vector<double> ratios;
        std::vector<double> rates;
        const auto until = clock_type::now() + std::chrono::duration<double>(seconds);
        do {
            const double ours = ferried(broker, one.guarantee, one.as, one.count);
            ratios.push_back(handed(broker, one.qos, one.count) / ours);
            rates.push_back(one.count / ours);
        } while (clock_type::now() < until);
        std::printf(
            "payloads a second, %s, against libmosquitto by hand: %.2f (limit 0.8; %zu rounds; %.0f a second)\n",
            one.name, bench::median(ratios), ratios.size(), bench::median(rates));
        std::fflush(stdout);
    }
}

void cost_of_a_publish(const reef::local_broker& broker, double seconds, courier::encoding as) {
    constexpr int a_frame = 100;
    courier::channel<Moved> carried{"barges.carried"};
    const auto over = elsewhere([&] { return std::make_unique<courier::ferry>(at(broker, "near")); });
    over->send(carried, "bench/moved", {.guarantee = guarantee::at_most_once, .encoding = as});
    wait_for(*over);
    const bench::measured_frames cost = bench::against_recording(
        carried, [&] { over->take_in(); }, {.publishes = a_frame, .pause = 4ms}, seconds);
    std::printf(
        "a publish that is carried as %s, against recording the same: %.2f (limit 1.2; %zu frames of %d; %llu of %llu "
        "had no room)\n",
        as == courier::encoding::json ? "JSON" : "CBOR", cost.median, cost.count, a_frame,
        static_cast<unsigned long long>(over->report().of(courier::ferry_code::no_room)),
        static_cast<unsigned long long>(cost.count * a_frame));
}

void frame_times(double seconds) {
    const auto broker = elsewhere([] { return std::make_unique<reef::local_broker>(); });
    courier::channel<Moved> moved{"barges.moved"};
    const auto over = elsewhere([&] { return std::make_unique<courier::ferry>(at(*broker, "near")); });
    over->send(moved, "bench/moved");
    const auto frames = [&](double how_long) {
        return bench::frame_time(
            moved, [&] { over->take_in(); }, {.publishes = 20, .work = 10000, .pause = 2ms}, how_long);
    };
    std::vector<double> ratios;
    for (int round = 0; round < 9; ++round) {
        wait_for(*over);
        frames(0.3);
        const double there = frames(seconds / 18);
        broker->kill();
        frames(0.1);
        ratios.push_back(frames(seconds / 18) / there);
        elsewhere([&] {
            broker->start();
            return 0;
        });
    }
    std::printf(
        "frame time while the broker is away, against while it is there: %.3f (limit 1.02; it was killed %zu times)\n",
        bench::median(ratios), ratios.size());
}

/// The bytes of a payload as CBOR, against its size here; the mean of many.
template <class Payload>
void sizes(const reef::local_broker& broker, const char* name, const std::function<Payload(int)>& make) {
    constexpr int count = 200;
    std::atomic<int> got{0};
    std::atomic<std::uint64_t> bytes{0};
    struct sums {
        std::atomic<int>& got;
        std::atomic<std::uint64_t>& bytes;
    } all{got, bytes};
    mosquitto* const looks = mosquitto_new("looks", true, &all);
    mosquitto_message_callback_set(looks, [](mosquitto*, void* self, const mosquitto_message* what) {
        auto& to = *static_cast<sums*>(self);
        to.bytes += static_cast<std::uint64_t>(what->payloadlen);
        ++to.got;
    });
    mosquitto_connect(looks, "127.0.0.1", broker.port(), 60);
    mosquitto_subscribe(looks, nullptr, "bench/size", 1);
    mosquitto_loop_start(looks);
    std::this_thread::sleep_for(50ms);
    {
        courier::channel<Payload> out("out");
        courier::ferry near(at(broker, "near"));
        near.send(out, "bench/size", {.encoding = courier::encoding::cbor});
        wait_for(near);
        for (int i = 0; i < count; ++i) {
            out.publish(make(i));
        }
        wait_until("what is measured", [&] {
            near.take_in();
            return got >= count;
        });
    }
    mosquitto_disconnect(looks);
    mosquitto_loop_stop(looks, true);
    mosquitto_destroy(looks);
    const double mean = static_cast<double>(bytes) / count;
    std::printf("bytes of %s as CBOR: %.1f, %.2f of its %zu here (limit 3)\n", name, mean,
                mean / static_cast<double>(sizeof(Payload)), sizeof(Payload));
}

} // namespace

int main(int argc, char** argv) {
    const double seconds = argc > 1 ? std::atof(argv[1]) : 5;
    const std::string_view part = argc > 2 ? argv[2] : "";
    mosquitto_lib_init();
    if (part != "game") {
        throughput(reef::local_broker(), seconds);
    }
    if (part == "throughput") {
        return 0;
    }
    pin(0);
    const auto broker = elsewhere([] { return std::make_unique<reef::local_broker>(); });
    cost_of_a_publish(*broker, seconds, courier::encoding::json);
    cost_of_a_publish(*broker, seconds, courier::encoding::cbor);
    sizes<Moored>(*broker, "Moored, five whole numbers", moored);
    sizes<Moved>(*broker, "Moved, five fields", [](int i) {
        return Moved{i, 100 - i, 1.5F * static_cast<float>(i), 0.1F * static_cast<float>(i), true};
    });
    frame_times(3 * seconds);
    return 0;
}
