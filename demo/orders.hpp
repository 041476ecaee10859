// The harbour ledger-keeper: fills cargo orders as crates come in.
#pragma once

#include "barges.hpp"
#include "night_log.hpp"
#include "payloads.hpp"

#include <courier/channel.hpp>
#include <courier/subscriber.hpp>

#include <cstddef>
#include <string_view>
#include <vector>

namespace reef {

class orders {
public:
    orders(const barges& convoy, night_log& log);

    [[nodiscard]] const courier::channel<OrderFilled>& filled() const { return filled_; }
    [[nodiscard]] std::size_t open() const { return waiting_.size(); }

private:
    struct order {
        std::string_view buyer;
        int crates;
    };

    void on_moored(const Moored& arrival);

    night_log& log_;
    std::vector<order> waiting_;
    int in_store_ = 0;
    courier::channel<OrderFilled> filled_{"orders.filled"};
    courier::subscriber in_{"orders"};
};

} // namespace reef
