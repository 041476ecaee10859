// The world that is under test.
#pragma once

#include "program.hpp"
#include "world.hpp"

#include <courier/addressed_channel.hpp>
#include <courier/channel.hpp>
#include <courier/group.hpp>
#include <courier/outbox.hpp>
#include <courier/relay.hpp>
#include <courier/subscriber.hpp>

#include <memory>
#include <vector>

namespace model {

struct Signal {
    int value;
};

class library final : public world {
public:
    explicit library(program& p);

    void subscribe(const behaviour& b) override;
    void end(int number) override;
    void pause(int number, bool on) override;
    void pause_owner(int owner, bool on) override;
    void clear_owner(int owner) override;
    void leave(int owner, int channel) override;
    void remake_owner(int owner) override;
    void remake_channel(int channel) override;
    void tidy(int channel) override;
    outcome publish(int channel, int address, int value) override;
    void toggle_member(int address) override;
    void post(int channel, int address, int value) override;
    outcome deliver() override;
    [[nodiscard]] bool live(int number) const override;
    [[nodiscard]] int size_of_channel(int channel) const override;
    [[nodiscard]] int size_of_owner(int owner) const override;

    /// Captured states that have not been destroyed, in all worlds so far.
    static long states_alive();

private:
    struct record {
        behaviour how;
        courier::subscription alone;
        courier::subscription_key owned;
        courier::relay forwards;
        program* script = nullptr;
    };

    template <class Handler>
    void attach(record& r, Handler handler);
    void attach_in_some_shape(record& r);

    program& program_;
    std::vector<std::unique_ptr<record>> records_;
    [[nodiscard]] courier::addressed_channel<Signal, int>& addressed(int channel) const;
    void make_relay(record& r);
    void post_as_many(int channel, int address, int value);

    std::unique_ptr<courier::channel<Signal>> plain_;
    std::unique_ptr<courier::addressed_channel<Signal, int>> addressed_[channels]; ///< all but the first
    courier::channel<Signal>* channels_[channels];
    courier::group<int> group_{"group"};
    courier::outbox later_;
    courier::membership<int> members_[addresses];
    std::unique_ptr<courier::subscriber> owners_[owners];
};

} // namespace model
