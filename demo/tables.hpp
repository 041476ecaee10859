// Tide tables: the copy on disk, which may be out of date, and the one that ships.
#pragma once

#include "payloads.hpp"

#include <courier/query.hpp>
#include <courier/subscriber.hpp>

namespace reef {

class tables {
public:
    explicit tables(courier::query<DepthAsked>& depth);

private:
    courier::subscriber in_{"tide tables"};
};

} // namespace reef
