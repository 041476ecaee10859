// The slow and obviously right world: one list, copied at each publish.
#pragma once

#include "program.hpp"
#include "world.hpp"

#include <memory>
#include <vector>

namespace model {

class reference final : public world {
public:
    explicit reference(program& p) : program_(p) {}

    void subscribe(const behaviour& b) override;
    void end(int number) override;
    void pause(int number, bool on) override;
    void pause_owner(int owner, bool on) override;
    void clear_owner(int owner) override;
    void leave(int owner, int channel) override;
    void remake_owner(int owner) override;
    void remake_channel(int channel) override;
    void tidy(int) override {}
    outcome publish(int channel, int address, int value) override;
    void toggle_member(int address) override;
    void post(int channel, int address, int value) override;
    outcome deliver() override;
    [[nodiscard]] bool live(int number) const override;
    [[nodiscard]] int size_of_channel(int channel) const override;
    [[nodiscard]] int size_of_owner(int owner) const override;

private:
    struct entry {
        behaviour how;
        unsigned left = 0;
        bool live = true;
        bool paused = false;
        int relay_generation = 0; ///< of the target, when it was made
    };
    using entry_ptr = std::shared_ptr<entry>;

    [[nodiscard]] std::vector<entry_ptr> in_order(int channel) const;
    [[nodiscard]] bool is_for(const behaviour& b, int address) const;
    [[nodiscard]] bool anybody_at(int channel, int address) const;
    [[nodiscard]] bool relays_lead(int from, int to) const;
    bool serve(entry& e, int value, outcome& result);
    template <class Matches>
    void end_all(Matches matches);

    program& program_;
    std::vector<entry_ptr> all_; ///< in order of subscription
    int generation_[channels] = {};
    bool owner_paused_[owners] = {};
    bool member_[addresses] = {};

    struct posted {
        int address;
        int value;
    };
    struct backlog {
        int channel;
        int generation;
        std::vector<posted> waiting;
    };
    std::vector<backlog> backlogs_; ///< with something in them, in the order in which that came
    bool delivering_ = false;
};

} // namespace model
