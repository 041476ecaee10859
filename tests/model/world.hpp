// What a random program can do, so that two worlds can be put through the same one.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace model {

inline constexpr int channels = 3;
inline constexpr int owners = 3;
inline constexpr int stages = 3;
inline constexpr int addresses = 4;
inline constexpr int nobody = -1;
inline constexpr int everyone = -1; ///< in place of an address
inline constexpr int the_group = -2;

/// How one subscription behaves; its number tells it apart in the log.
struct behaviour {
    int number = 0;
    int channel = 0;
    int stage = 0;
    int owner = nobody;
    int address = everyone; ///< on the channels that have addresses, which is all but the first
    int relay_to = nobody;  ///< not a handler but a relay into that channel
    unsigned times = 0;
    int condition = 0;        ///< 0: none; n: serves only values that n does not divide
    int stops = 0;            ///< 0: gives no verdict; n: stops at values that n divides
    bool whole_stage = false; ///< its verdict lets the stage finish
    int throws = 0;           ///< 0: never; n: throws at values that n divides
};

struct outcome {
    unsigned served = 0;
    bool stopped = false;
    bool closed = false;
    bool vacant = false;
    int thrown = nobody; ///< number of the handler whose exception arrived
    std::string stopped_by;
};

class program;

/// Either the library or the reference. Numbers of subscriptions are never
/// used twice; channels and owners are remade in place.
class world {
public:
    virtual ~world() = default;

    virtual void subscribe(const behaviour& b) = 0;
    virtual void end(int number) = 0;
    virtual void pause(int number, bool on) = 0;
    virtual void pause_owner(int owner, bool on) = 0;
    virtual void clear_owner(int owner) = 0;
    virtual void leave(int owner, int channel) = 0;
    virtual void remake_owner(int owner) = 0;
    virtual void remake_channel(int channel) = 0;
    virtual void tidy(int channel) = 0;
    virtual outcome publish(int channel, int address, int value) = 0;
    virtual void toggle_member(int address) = 0;
    virtual void post(int channel, int address, int value) = 0;

    /// One round of what was posted; `served` is the number of payloads.
    virtual outcome deliver() = 0;
    [[nodiscard]] virtual bool live(int number) const = 0;
    [[nodiscard]] virtual int size_of_channel(int channel) const = 0;
    [[nodiscard]] virtual int size_of_owner(int owner) const = 0;
};

} // namespace model
