// Two who take what a ledger tells while the model runs.
#pragma once

#include <courier/detail/ledger/ledger_core.hpp>
#include <courier/ledger.hpp>

#include <cstddef>
#include <cstdint>
#include <set>

namespace model {

/// Keeps what it was told of, and whether that fits together.
class taker : public courier::detail::event_sink {
public:
    /// Leaves in the middle of one event of so many, if that is not 0; and
    /// lets `wakes` come again with every event that is over.
    explicit taker(courier::detail::ledger_core& of, unsigned leaves_every = 0, taker* wakes = nullptr)
        : of_(of), leaves_every_(leaves_every), wakes_(wakes) {
        add_taker(of_, *this);
    }
    ~taker() override { leave(); }

    void leave() noexcept {
        if (there_) {
            remove_taker(of_, *this);
            there_ = false;
            under_way_ = 0;
        }
    }
    void come() {
        if (!there_) {
            add_taker(of_, *this);
            there_ = true;
            under_way_ = 0;
        }
    }

    [[nodiscard]] bool fits() const noexcept { return fits_; }
    [[nodiscard]] const std::multiset<std::uint64_t>& events() const noexcept { return events_; }

private:
    std::size_t begin(const courier::detail::payload_kind*, const void*) override {
        if (leaves_every_ != 0 && ++begun_ % leaves_every_ == 0) {
            leave();
        }
        return under_way_++;
    }
    void published(const courier::detail::event_facts& what) override {
        fits_ = fits_ && there_ && under_way_ != 0 && what.kept == --under_way_ && what.cause < what.id;
        events_.insert(what.id);
        if (wakes_ != nullptr) {
            wakes_->come();
        }
    }
    void posted(const courier::detail::post_facts& what) override { events_.insert(what.id); }
    void channel_opened(const courier::detail::account&) override {}
    void channel_closed(const courier::detail::account&) override {}
    void subscribed(const courier::detail::subscription_note&) override {}
    void ended(const courier::detail::subscription_note&, bool) override {}
    void paused(const courier::detail::subscription_note&, bool) override {}
    void party_ended(std::uint32_t) override {}
    void frame(std::uint64_t, std::int64_t) override {}
    void forget_kinds() noexcept override {}
    void over() noexcept override { there_ = false; }

    courier::detail::ledger_core& of_;
    unsigned leaves_every_;
    unsigned begun_ = 0;
    taker* wakes_;
    bool there_ = true;
    bool fits_ = true;
    std::size_t under_way_ = 0;
    std::multiset<std::uint64_t> events_;
};

class two_takers {
public:
    explicit two_takers(courier::ledger& of)
        : restless_(courier::detail::access::ledger_of(of), 7),
          stays_(courier::detail::access::ledger_of(of), 0, &restless_) {}

    /// One event each is told once, and who comes and goes is told nothing else.
    [[nodiscard]] bool agree() const {
        const std::multiset<std::uint64_t>& all = stays_.events();
        const bool once = std::set<std::uint64_t>(all.begin(), all.end()).size() == all.size();
        bool among = true;
        for (const std::uint64_t id : restless_.events()) {
            among = among && all.count(id) == 1;
        }
        return stays_.fits() && restless_.fits() && once && among;
    }

private:
    taker restless_;
    taker stays_;
};

} // namespace model
