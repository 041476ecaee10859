// The order in which the systems of the reef are served.
#pragma once

#include <courier/stage.hpp>

namespace reef {

/// Those who may forbid: the tide tables.
inline constexpr courier::stage rules = courier::before(courier::ordinary, "rules");

/// Those who only show what has been decided: boards, bells, the horn.
inline constexpr courier::stage presentation = courier::after(courier::ordinary, "presentation");

} // namespace reef
