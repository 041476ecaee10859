// An audit that is clean: what is as it should be is accepted, with a reason, next to what it is about.
#include <courier/accept_finding.hpp>
#include <courier/audit.hpp>
#include <courier/channel.hpp>
#include <courier/ledger.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <string>

struct Wounded {
    int wyrm;
};
struct GullCried {};

struct Fight {
    Fight() {
        courier::accept_finding(
            {.code = courier::finding_code::every_frame, .channel = "wyrms.wounded", .reason = "each wound is drawn"});
    }
    courier::channel<Wounded> wounded{"wyrms.wounded"};
};
struct Gulls {
    Gulls() {
        courier::accept_finding(
            {.code = courier::finding_code::unheard, .channel = "gulls.cried", .reason = "the sound comes later"});
    }
    courier::channel<GullCried> cried{"gulls.cried"};
};

int main() {
    courier::ledger night{"the night"};
    night.attach_everything();
    Fight fight;
    Gulls gulls;
    courier::subscriber painter{"painter"};
    courier::subscriber ear{"ear"};
    painter.subscribe(fight.wounded, [] {});
    ear.subscribe(gulls.cried, [] {}); // since somebody wrote the sound
    for (int frame = 0; frame < 100; ++frame) {
        fight.wounded.publish({.wyrm = frame % 3});
        if (frame % 10 == 0) {
            gulls.cried.publish();
        }
        night.end_frame();
    }

    const courier::audit_report report = courier::audit(night.read());
    for (const courier::acceptance_met& one : report.accepted) {
        std::printf("accepted: %s (%s)\n", one.found.what.c_str(), one.reason.c_str());
    }
    for (const courier::finding& one : report.findings) { // an acceptance that has had its day
        std::printf("%s: %s\n", std::string(id_of(one.code)).c_str(), one.what.c_str());
    }
}
