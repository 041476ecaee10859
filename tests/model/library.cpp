#include "library.hpp"

#include <courier/stage.hpp>
#include <courier/verdict.hpp>

#include <array>
#include <string>
#include <utility>

namespace model {

namespace {

constexpr courier::stage first = courier::before(courier::ordinary, "first");
constexpr courier::stage last = courier::after(courier::ordinary, "last");
constexpr courier::stage places[] = {first, courier::ordinary, last};

long alive = 0;

/// A capture that is counted.
struct counted {
    counted() { ++alive; }
    counted(const counted&) { ++alive; }
    counted& operator=(const counted&) = default;
    ~counted() { --alive; }
};

struct failed {
    int number;
};

void do_deliver(const behaviour& how, program& script, int value) {
    const behaviour copy = how;
    script.delivered(copy.number, copy.channel, value);
    if (copy.throws != 0 && value % copy.throws == 0) {
        throw failed{copy.number};
    }
}

courier::verdict verdict_of(const behaviour& how, int value) {
    if (how.stops == 0 || value % how.stops != 0) {
        return courier::verdict::go_on;
    }
    return how.whole_stage ? courier::verdict::finish_stage : courier::verdict::stop;
}

} // namespace

library::library(program& p)
    : program_(p),
      later_("later", {p.keeps_order() ? courier::round_order::as_posted : courier::round_order::by_channel}) {
    for (int c = 0; c < channels; ++c) {
        remake_channel(c);
    }
    for (int o = 0; o < owners; ++o) {
        remake_owner(o);
    }
}

long library::states_alive() {
    return alive;
}

template <class Handler>
void library::attach(record& r, Handler handler) {
    const behaviour& b = r.how;
    courier::delivery_options<Signal> options{.stage = places[b.stage], .times = b.times};
    if (b.condition != 0) {
        options.condition = [n = b.condition](const Signal& s) { return s.value % n != 0; };
    }
    if (b.address != everyone && b.owner != nobody) {
        r.owned = owners_[b.owner]->subscribe(addressed(b.channel).at(b.address), std::move(handler), options);
    } else if (b.address != everyone) {
        r.alone = addressed(b.channel).at(b.address).subscribe(std::move(handler), options);
    } else if (b.owner != nobody) {
        r.owned = owners_[b.owner]->subscribe(*channels_[b.channel], std::move(handler), std::move(options));
    } else {
        r.alone = channels_[b.channel]->subscribe(std::move(handler), std::move(options));
    }
}

// Every way in which a handler can be stored has its turn: one word, inside
// the slot, on the heap; with and without a verdict.
void library::attach_in_some_shape(record& r) {
    record* const at = &r;
    const int shape = r.how.number % 3;
    if (r.how.stops != 0) {
        attach(r, [at, c = counted{}](const Signal& s) {
            const behaviour how = at->how;
            do_deliver(how, *at->script, s.value);
            return verdict_of(how, s.value);
        });
    } else if (shape == 0) {
        attach(r, [at](const Signal& s) { do_deliver(at->how, *at->script, s.value); });
    } else if (shape == 1) {
        attach(r, [how = std::make_shared<behaviour>(r.how), script = r.script, c = counted{}](const Signal& s) {
            do_deliver(*how, *script, s.value);
        });
    } else {
        attach(r, [how = r.how, script = r.script, c = counted{}, filler = std::array<int, 20>{}](const Signal& s) {
            do_deliver(how, *script, s.value + filler[7]);
        });
    }
}

void library::subscribe(const behaviour& b) {
    records_.push_back(std::make_unique<record>());
    record& r = *records_.back();
    r.how = b;
    r.script = &program_;
    b.relay_to != nobody ? make_relay(r) : attach_in_some_shape(r);
}

courier::addressed_channel<Signal, int>& library::addressed(int channel) const {
    return *addressed_[channel];
}

void library::make_relay(record& r) {
    courier::channel<Signal>& to = *channels_[r.how.relay_to];
    if (r.how.address != everyone) {
        r.forwards = courier::relay{addressed(r.how.channel).at(r.how.address), to};
    } else {
        r.forwards = courier::relay{*channels_[r.how.channel], to};
    }
}

void library::post(int channel, int address, int value) {
    if (address == the_group) {
        courier::poster<Signal>{later_, addressed(channel), group_}.post({.value = value});
    } else if (program_.keeps_order() && value % 2 == 0) { // whichever way it takes
        post_as_many(channel, address, value);
    } else if (channel == 0) {
        later_.post(*plain_, {.value = value});
    } else if (address == everyone) {
        later_.post(addressed(channel), {.value = value});
    } else {
        later_.post_to(addressed(channel), address, {.value = value});
    }
}

void library::post_as_many(int channel, int address, int value) {
    const Signal one{.value = value};
    if (channel == 0) {
        later_.post_all(*plain_, {&one, 1});
    } else if (address != everyone) {
        courier::poster<Signal>{later_, addressed(channel), address}.post_all({&one, 1});
    } else {
        const courier::addressed_payload<Signal, int> to_all{std::nullopt, one};
        later_.post_all(addressed(channel), {&to_all, 1});
    }
}

// A throw takes the report along, so the numbers are taken from the outbox.
outcome library::deliver() {
    outcome result;
    const std::size_t before = later_.waiting();
    try {
        result.served = static_cast<unsigned>(later_.deliver().delivered);
    } catch (const failed& f) {
        result.served = static_cast<unsigned>(before);
        result.thrown = f.number;
    }
    return result;
}

void library::toggle_member(int address) {
    if (members_[address].live()) {
        members_[address].end();
    } else {
        members_[address] = group_.join(address);
    }
}

bool library::live(int number) const {
    const record& r = *records_[static_cast<std::size_t>(number)];
    if (r.how.relay_to != nobody) {
        return r.forwards.live();
    }
    return r.how.owner != nobody ? owners_[r.how.owner]->live(r.owned) : r.alone.live();
}

void library::end(int number) {
    record& r = *records_[static_cast<std::size_t>(number)];
    r.forwards.end();
    if (r.how.owner != nobody) {
        owners_[r.how.owner]->end(r.owned);
    } else if (number % 2 == 0) {
        r.alone.end();
    } else {
        const courier::subscription gone = std::move(r.alone);
    }
}

void library::pause(int number, bool on) {
    record& r = *records_[static_cast<std::size_t>(number)];
    on ? r.alone.pause() : r.alone.resume();
    on ? r.forwards.pause() : r.forwards.resume();
}

void library::pause_owner(int owner, bool on) {
    on ? owners_[owner]->pause() : owners_[owner]->resume();
}

void library::clear_owner(int owner) {
    owners_[owner]->clear();
}

void library::leave(int owner, int channel) {
    owners_[owner]->leave(*channels_[channel]);
}

void library::remake_owner(int owner) {
    owners_[owner] = std::make_unique<courier::subscriber>("owner " + std::to_string(owner));
}

void library::remake_channel(int channel) {
    const std::string name = "channel " + std::to_string(channel);
    if (channel == 0) {
        plain_ = std::make_unique<courier::channel<Signal>>(name);
        channels_[channel] = plain_.get();
    } else {
        addressed_[channel] = std::make_unique<courier::addressed_channel<Signal, int>>(name);
        channels_[channel] = addressed_[channel].get();
    }
}

void library::tidy(int channel) {
    channels_[channel]->shrink();
    if (records_.size() % 2 == 0) {
        channels_[channel]->reserve(3);
    }
}

outcome library::publish(int channel, int address, int value) {
    outcome result;
    try {
        const courier::receipt r = address == everyone    ? channels_[channel]->publish({.value = value})
                                   : address == the_group ? addressed(channel).publish_to(group_, {.value = value})
                                                          : addressed(channel).publish_to(address, {.value = value});
        result = {.served = r.served(), .stopped = r.stopped(), .closed = r.closed(), .vacant = r.vacant()};
        if (r.stopped() && !r.closed()) {
            result.stopped_by = r.stopped_by().empty() ? "nobody" : std::string{r.stopped_by()};
        }
    } catch (const failed& f) {
        result.thrown = f.number;
    }
    return result;
}

int library::size_of_channel(int channel) const {
    return static_cast<int>(channels_[channel]->size());
}

int library::size_of_owner(int owner) const {
    return static_cast<int>(owners_[owner]->size());
}

} // namespace model
