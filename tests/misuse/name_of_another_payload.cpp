// expect: (courier: this channel carries another payload type|could not convert|no matching|no viable|cannot convert)
#include "reef.hpp"

#include <courier/hub.hpp>

inline constexpr courier::channel_name<Moored> north_quay{"north quay"};

int main() {
    courier::hub match{"match"};
    match.channel(north_quay).publish(Bitten{.barge = 3});
}
