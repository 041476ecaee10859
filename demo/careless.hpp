// Everything that should not be done, once each: what an audit has to find.
#pragma once

#include "barges.hpp"
#include "payloads.hpp"
#include "wyrms.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/hub.hpp>
#include <courier/keep_current.hpp>
#include <courier/outbox.hpp>
#include <courier/sequence.hpp>
#include <courier/subscriber.hpp>
#include <courier/tally.hpp>
#include <courier/timetable.hpp>

#include <memory>
#include <vector>

namespace reef {

struct GullsCounted {
    int gulls;
};

struct LampTurned {
    int bearing; ///< degrees
};

struct Rumour {
    int told; ///< times
};

/// The wreck on the bar is cleared away in mid-night.
struct WreckSeen {};

class careless {
public:
    careless(const barges& convoy, const wyrms& out_there, courier::hub& reef, courier::outbox& later);

    void step(int frame);

private:
    void count_gulls();
    void turn_lamp(int frame);
    void pass_on_rumours(int frame);
    void hail_the_sunk(int frame);
    void write_home(int frame);
    courier::sequence<> wait_for_relief();

    const barges& convoy_;
    courier::outbox& later_;
    courier::channel<GullsCounted> counted_{"careless.gulls"};
    std::vector<courier::subscription> counters_; ///< grow
    std::unique_ptr<courier::channel<WreckSeen>> wreck_ =
        std::make_unique<courier::channel<WreckSeen>>("careless.wreck");
    courier::subscriber diver_{"diver"};                         ///< outlives the wreck
    courier::subscriber deaf_bell_{"deaf bell"};                 ///< is never served
    courier::channel<WreckSeen> whispered_{"careless.whisper"};  ///< nobody hears
    courier::channel<WreckSeen> silence_{"careless.silence"};    ///< nobody publishes
    courier::subscriber eavesdropper_{"eavesdropper"};           ///< listens to that
    courier::addressed_channel<Hailed> hails_{"careless.hails"}; ///< for the sunk
    courier::subscriber watchman_{"watchman"};                   ///< listens to all hails
    courier::subscriber twice_{"lamp boy"};                      ///< has one handler twice
    courier::channel<LampTurned> turned_{"careless.lamp"};       ///< comes every frame
    courier::subscriber slow_{"painter"};                        ///< is over its budget
    courier::channel<LampTurned> painted_{"careless.painted"};
    courier::channel<Rumour> heard_{"careless.rumour_heard"}; ///< goes round
    courier::channel<Rumour> told_{"careless.rumour_told"};
    courier::subscriber fishwives_{"fishwives"};
    courier::channel<WreckSeen> relief_{"careless.relief"};       ///< never comes
    courier::subscriber stranded_{"stranded hand"};               ///< waits for it
    courier::channel<GullsCounted> rationed_{"careless.rations"}; ///< whose order matters
    courier::subscriber cook_{"cook"};
    courier::subscriber mate_{"second mate"};
    bool cook_is_cross_ = false;
    courier::hub& reef_;
    courier::subscriber clerk_{"clerk"}; ///< the only one who hears a hub's channel
    courier::outbox never_delivered_{"careless.letters"};
    courier::channel<Rumour> letters_{"careless.letter"};
    courier::subscriber postman_{"postman"};               ///< waits for that
    courier::channel<Rumour> mustered_{"careless.muster"}; ///< by one who is not of the crew
    courier::tally<int> present_{"careless.muster", {1, 2, 3}};
    courier::subscriber sign_painter_{"sign painter"}; ///< keeps a sign that depends on nothing
    int sign_ = 0;
    courier::timetable hours_{later_};
    courier::subscriber forgetful_{"forgetful mate"}; ///< asks for one more call in each frame
};

} // namespace reef
