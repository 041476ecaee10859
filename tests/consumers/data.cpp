// A program that reads and writes payloads.
#include <courier/data/in_words.hpp>
#include <courier/data/json.hpp>

struct Moored {
    int barge;
    int berth = 1;
};

int main() {
    Moored moored{};
    const bool fits = courier::from_json(R"({"barge":3})", moored).empty();
    return fits && courier::to_json(moored) == R"({"barge":3,"berth":1})" &&
                   courier::in_words(moored) == "barge 3, berth 1"
               ? 0
               : 1;
}
