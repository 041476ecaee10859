#include "support.hpp"

namespace {

class barge {
public:
    barge(std::string name, courier::lifecycle_channels<barge>& channels)
        : name_(std::move(name)), life_(*this, channels) {}

    [[nodiscard]] const std::string& name() const { return name_; }
    void launch() { life_.wake(); }
    void lay_up() { life_.sleep(); }

private:
    std::string name_;
    courier::lifecycle<barge> life_; // last
};

struct listener {
    explicit listener(const courier::lifecycle_channels<barge>& barges) {
        in.subscribe(barges.appeared(), [this](const courier::appeared<barge>& e) { note("+", e.object); });
        in.subscribe(barges.woke(), [this](const courier::woke<barge>& e) { note("on ", e.object); });
        in.subscribe(barges.slept(), [this](const courier::slept<barge>& e) { note("off ", e.object); });
        in.subscribe(barges.gone(), [this](const courier::gone<barge>& e) { note("-", e.object); });
    }
    void note(const std::string& what, const barge& who) { heard.push_back(what + who.name()); }

    std::vector<std::string> heard;
    courier::subscriber in{"listener"};
};

} // namespace

TEST_CASE("an object's life is announced with the object, each part once") {
    courier::lifecycle_channels<barge> channels{"barge"};
    CHECK(channels.appeared().name() == "barge.appeared");
    listener l{channels};
    {
        barge anna{"Anna", channels};
        anna.lay_up(); // it is
        anna.launch();
        anna.launch();
        barge bela{"Bela", channels};
        bela.launch();
        bela.lay_up();
    }
    CHECK(l.heard ==
          std::vector<std::string>{"+Anna", "on Anna", "+Bela", "on Bela", "off Bela", "-Bela", "off Anna", "-Anna"});
}

TEST_CASE("the channels may end first, and a listener that throws is reported") {
    auto channels = std::make_unique<courier::lifecycle_channels<barge>>("barge");
    barge anna{"Anna", *channels};
    {
        const test::fault_catcher faults;
        const courier::subscription s = channels->gone().subscribe([] { throw std::runtime_error("sunk"); });
        { const barge bela{"Bela", *channels}; }
        CHECK(faults.told_once({"[courier.failure-lost]", "'barge.gone' threw an exception ('sunk')"}));
    }
    channels.reset();
    anna.launch();
}
