#include "reference.hpp"

#include <algorithm>
#include <string>

namespace model {

void reference::subscribe(const behaviour& b) {
    all_.push_back(std::make_shared<entry>(entry{b, b.times}));
    if (b.relay_to != nobody) {
        all_.back()->relay_generation = generation_[b.relay_to];
        all_.back()->live = false; // does not lead anywhere itself yet
        all_.back()->live = !relays_lead(b.relay_to, b.channel);
    }
}

bool reference::live(int number) const {
    const entry& e = *all_[static_cast<std::size_t>(number)];
    return e.live && (e.how.relay_to == nobody || e.relay_generation == generation_[e.how.relay_to]);
}

void reference::end(int number) {
    all_[static_cast<std::size_t>(number)]->live = false;
}

void reference::pause(int number, bool on) {
    entry& e = *all_[static_cast<std::size_t>(number)];
    if (e.how.owner == nobody) {
        e.paused = on;
    }
}

void reference::pause_owner(int owner, bool on) {
    owner_paused_[owner] = on;
}

template <class Matches>
void reference::end_all(Matches matches) {
    for (const entry_ptr& e : all_) {
        if (matches(e->how)) {
            e->live = false;
        }
    }
}

void reference::clear_owner(int owner) {
    end_all([=](const behaviour& b) { return b.owner == owner; });
}

void reference::leave(int owner, int channel) {
    end_all([=](const behaviour& b) { return b.owner == owner && b.channel == channel; });
}

void reference::remake_owner(int owner) {
    clear_owner(owner);
    owner_paused_[owner] = false;
}

void reference::remake_channel(int channel) {
    end_all([=](const behaviour& b) { return b.channel == channel; });
    ++generation_[channel];
}

void reference::post(int channel, int address, int value) {
    const bool last_only = program_.keeps_order() && !backlogs_.empty();
    auto found =
        std::find_if(last_only ? backlogs_.end() - 1 : backlogs_.begin(), backlogs_.end(), [=, this](const backlog& l) {
            return l.channel == channel && l.generation == generation_[channel];
        });
    if (found == backlogs_.end()) {
        found = backlogs_.insert(backlogs_.end(), {channel, generation_[channel], {}});
    }
    found->waiting.push_back({address, value});
}

outcome reference::deliver() {
    outcome result;
    if (delivering_) {
        return result;
    }
    delivering_ = true;
    const std::vector<backlog> round = std::move(backlogs_);
    backlogs_.clear();
    for (const backlog& l : round) {
        result.served += static_cast<unsigned>(l.waiting.size());
        for (const posted& p : l.waiting) {
            if (l.generation == generation_[l.channel]) {
                const int thrown = publish(l.channel, p.address, p.value).thrown;
                result.thrown = result.thrown == nobody ? thrown : result.thrown;
            }
        }
    }
    delivering_ = false;
    return result;
}

void reference::toggle_member(int address) {
    member_[address] = !member_[address];
}

// Whether `b` hears what is published to `address`.
bool reference::is_for(const behaviour& b, int address) const {
    return address == everyone || b.address == everyone || b.address == address ||
           (address == the_group && member_[b.address]);
}

bool reference::anybody_at(int channel, int address) const {
    return std::any_of(all_.begin(), all_.end(), [=, this](const entry_ptr& e) {
        return e->live && e->how.channel == channel && e->how.address != everyone && is_for(e->how, address);
    });
}

bool reference::relays_lead(int from, int to) const {
    return from == to || std::any_of(all_.begin(), all_.end(), [=, this](const entry_ptr& e) {
               return e->live && e->how.relay_to != nobody && e->how.channel == from &&
                      e->relay_generation == generation_[e->how.relay_to] && relays_lead(e->how.relay_to, to);
           });
}

std::vector<reference::entry_ptr> reference::in_order(int channel) const {
    std::vector<entry_ptr> list;
    for (const entry_ptr& e : all_) {
        if (e->live && e->how.channel == channel) {
            list.push_back(e);
        }
    }
    std::stable_sort(list.begin(), list.end(),
                     [](const entry_ptr& a, const entry_ptr& b) { return a->how.stage < b->how.stage; });
    return list;
}

// Calls one handler; false when nobody after it may be served.
bool reference::serve(entry& e, int value, outcome& result) {
    ++result.served;
    if (e.left != 0 && --e.left == 0) {
        e.live = false;
    }
    if (e.how.relay_to != nobody) {
        if (e.relay_generation == generation_[e.how.relay_to]) {
            const int thrown = publish(e.how.relay_to, everyone, value).thrown;
            result.thrown = result.thrown == nobody ? thrown : result.thrown;
        }
        return true;
    }
    program_.delivered(e.how.number, e.how.channel, value);
    if (e.how.throws != 0 && value % e.how.throws == 0) {
        result.thrown = result.thrown == nobody ? e.how.number : result.thrown;
        return true;
    }
    if (e.how.stops != 0 && value % e.how.stops == 0) {
        if (result.stopped) {
            return e.how.whole_stage; // the first verdict is the one that counts
        }
        result.stopped = true;
        result.stopped_by = e.how.owner == nobody ? "nobody" : "owner " + std::to_string(e.how.owner);
        return e.how.whole_stage;
    }
    return true;
}

outcome reference::publish(int channel, int address, int value) {
    outcome result;
    result.vacant = address != everyone && !anybody_at(channel, address);
    const int generation = generation_[channel];
    std::vector<entry_ptr> list = in_order(channel);
    std::erase_if(list, [=, this](const entry_ptr& e) { return !is_for(e->how, address); });
    for (std::size_t i = 0; i < list.size(); ++i) {
        entry& e = *list[i];
        if (result.stopped && i != 0 && list[i - 1]->how.stage != e.how.stage) {
            break;
        }
        const bool paused = e.paused || (e.how.owner != nobody && owner_paused_[e.how.owner]);
        const bool holds = e.how.condition == 0 || value % e.how.condition != 0;
        if (!e.live || paused || !holds) {
            continue;
        }
        const bool go_on = serve(e, value, result);
        if (generation_[channel] != generation) {
            result.closed = true;
            break;
        }
        if (!go_on) {
            break;
        }
    }
    if (result.thrown != nobody) { // no receipt reaches the publisher
        return {.thrown = result.thrown};
    }
    if (result.closed) {
        result.stopped_by.clear();
    }
    return result;
}

int reference::size_of_channel(int channel) const {
    return static_cast<int>(in_order(channel).size());
}

int reference::size_of_owner(int owner) const {
    return static_cast<int>(
        std::count_if(all_.begin(), all_.end(), [=](const entry_ptr& e) { return e->live && e->how.owner == owner; }));
}

} // namespace model
