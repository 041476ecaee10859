// What the wiring component's tests share: a small harbour.
#pragma once

#include "../support.hpp"

#include <courier/wiring/wiring.hpp>

namespace wired {

enum class flag { none, whale, gull, anchor };
enum class bell : std::uint8_t { north = 1, south = 2 };
enum class lamp : std::uint8_t { big, small };
enum class watch { dusk, storm, dawn };

struct place {
    int x;
    double y;
};
struct Sighted {
    int wyrm;
    int distance;
    place at;
    std::optional<int> depth;
    std::string what;
    flag shown;
    bool near;
    std::uint8_t heads;
    std::chrono::milliseconds since;
};
struct Hailed {
    using address = bell;
    int order;
};
struct Ring {
    int strokes;
};
struct Steered {
    using address = bell;
    int course;
};
struct Line {
    std::string text;
};
struct Numbers {
    int whole;
    std::uint8_t small;
    double real;
    std::chrono::milliseconds time;
    flag shown;
    bool yes;
    std::optional<int> perhaps;
};
struct Judged {
    flag shown;
};
struct Named {
    std::string name;
};

/// What has been done, in its order.
class harbour {
public:
    harbour();
    harbour(const harbour&) = delete;
    harbour& operator=(const harbour&) = delete;
    ~harbour();
    void done(std::string what) { log.push_back(std::move(what)); }
    [[nodiscard]] std::string said() {
        std::string all;
        for (const std::string& one : log) {
            all += (all.empty() ? "" : " | ") + one;
        }
        log.clear();
        return all;
    }
    /// Loads a text; what is wrong with it, or nothing.
    std::string load(const std::string& text);
    void pass(std::chrono::milliseconds by) {
        time.advance(by);
        later.deliver();
    }
    static Sighted wyrm(int number, int distance) {
        return {number, distance, {1, 2.5}, {}, "wyrm", flag::gull, false, 3, std::chrono::milliseconds(1500)};
    }

    courier::channel<Sighted> sighted{"wyrms.sighted"};
    courier::channel<Judged> raised{"hoist.raised"};
    courier::addressed_channel<Hailed, bell> hailed{"bells.hailed"};
    courier::state<int> tide{"tide.level", 4};
    courier::phases<watch> hours{"watch", watch::dusk};
    courier::outbox later{"later"};
    courier::timetable time{later};
    std::vector<std::string> log;
    std::optional<Numbers> numbers;
    courier::wiring_change change;
    courier::subscriber in{"harbour"};
    courier::wiring wires{"harbour"};
};

} // namespace wired
