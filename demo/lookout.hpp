// The lookout: makes one kind of danger of what the weather and the wyrms do.
#pragma once

#include "payloads.hpp"
#include "weather.hpp"
#include "wyrms.hpp"

#include <courier/channel.hpp>
#include <courier/relay.hpp>

namespace reef {

class lookout {
public:
    lookout(const weather& above, const wyrms& out_there);

    [[nodiscard]] const courier::channel<DangerSeen>& danger() const { return danger_; }

private:
    courier::channel<DangerSeen> danger_{"lookout.danger"};
    courier::relay lightning_;
    courier::relay wyrms_;
};

} // namespace reef
