// Payloads as words for a log, as JSON for a file, and back, with every mistake at once.
#include <courier/channel.hpp>
#include <courier/data/in_words.hpp>
#include <courier/data/json.hpp>
#include <courier/state.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <limits>
#include <optional>
#include <string>
#include <vector>

enum class flag { whale, gull, anchor };

struct Mark {
    double fathoms;
    std::string on; // what the lead brought up
};

struct Moored {
    int barge;
    flag shown = flag::anchor; // an initializer: it may be left out
    std::optional<int> berth;  // so may this
    std::vector<Mark> soundings;
};

int main() {
    courier::channel<Moored> moored{"barges.moored"};
    courier::state<flag> hoisted{"hoist.shown", flag::gull};
    courier::subscriber log{"night log"};
    log.subscribe(moored, [](const Moored& e) { std::printf("moored: %s\n", courier::in_words(e).c_str()); });

    moored.publish({.barge = 3, .berth = 1, .soundings = {{2.5, "sand"}, {4, "mud"}}});
    std::printf("hoisted: %s\n", courier::in_words(hoisted).c_str());

    // To a file, and back. JSON has no number for "no bottom found"; the text "Infinity" stands for it.
    const Moored deep{.barge = 4, .berth = {}, .soundings = {{std::numeric_limits<double>::infinity(), "nothing"}}};
    const std::string saved = courier::to_json(deep);
    std::printf("saved: %s\n", saved.c_str());
    Moored again{};
    if (courier::from_json(saved, again).empty()) {
        moored.publish(again);
    }

    // A text from elsewhere: all that is wrong, each with its place; `again` stays as it was.
    for (const courier::json_fault& fault :
         courier::from_json(R"({"barg":5,"shown":"gul","soundings":[{"fathoms":"deep","on":"mud"}]})", again)) {
        std::printf("wrong: %s\n", fault.text().c_str());
    }
    std::printf("still: %s\n", courier::in_words(again).c_str());
}
