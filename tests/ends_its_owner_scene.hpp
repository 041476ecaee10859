// Functions of the user's that end the object that runs them (docs/design.md, "Code of the user's").
#pragma once

#include "in_use_scene.hpp"

namespace ends_its_owner {

using namespace in_use;
using courier::next;

struct Ping {
    int n = 0;
};

inline const std::string text = "a text that is long enough to be on the heap, so that its end is seen";

struct scene {
    const char* name;
    void (*play)();
};

/// Holds an owner, and a function that ends it and then looks at its own captures.
template <class Owner>
struct ended {
    std::unique_ptr<Owner> owner;

    auto end() {
        return [this, t = text] {
            owner.reset();
            CHECK(t == text);
        };
    }
    Owner& operator*() const { return *owner; }
    Owner* operator->() const { return owner.get(); }
};

template <class Owner, class... Arguments>
void make(ended<Owner>& e, Arguments&&... arguments) {
    e.owner = std::make_unique<Owner>(std::forward<Arguments>(arguments)...);
}

inline void play_all(std::span<const scene> scenes) {
    for (const scene& one : scenes) {
        CAPTURE(one.name);
        one.play();
    }
}

} // namespace ends_its_owner
