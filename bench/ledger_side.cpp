// Compiled twice; see ledger_side.hpp.
#include "ledger_side.hpp"

#include "baselines.hpp"
#include "paired.hpp"

#include <courier/channel.hpp>
#include <courier/ledger.hpp>
#include <courier/subscriber.hpp>

#include <optional>
#include <vector>

namespace bench {

namespace {

class side final : public published_side {
public:
    explicit side(std::size_t subscribers) : barges_(subscribers) {
        for (Barge& barge : barges_) {
            in_.subscribe(bitten_, [b = &barge](const Bitten& e) { b->on_bitten(e); });
        }
    }
    void publish(long times) override {
        for (long i = 0; i < times; ++i) {
            bitten_.publish(payload_);
            barrier();
        }
    }
    void attach() override {
        ledger_.emplace("bench", courier::ledger_options{});
        ledger_->attach(bitten_);
    }
    [[nodiscard]] long long sum() const override {
        long long all = 0;
        for (const Barge& barge : barges_) {
            all += barge.lost;
        }
        return all;
    }

private:
    std::vector<Barge> barges_;
    Bitten payload_{.barge = 1, .crates = 2};
    std::optional<courier::ledger> ledger_;
    courier::channel<Bitten> bitten_{"barges.bitten"};
    courier::subscriber in_{"barges"};
};

} // namespace

std::unique_ptr<published_side> BENCH_SIDE(std::size_t subscribers) {
    return std::make_unique<side>(subscribers);
}

} // namespace bench
