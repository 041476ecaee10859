// A game that records its runs.
#include <courier/channel.hpp>
#include <courier/ledger.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/recording/recorder.hpp>

struct Moored {
    int barge;
};

int main() {
    {
        courier::ledger night{"night"};
        const courier::recorder to_file{night, "consumer.jsonl"};
        night.attach_everything();
        courier::channel<Moored> moored{"moored"};
        moored.publish({.barge = 3});
    }
    const courier::run read = courier::read_run("consumer.jsonl");
    return read.events.size() == 1 && read.payload_of(read.events[0]) == R"({"barge":3})" ? 0 : 1;
}
