// A ledger keeps the books: who told whom, why something happened, and what is
// wrong, or soon will be.
#include <courier/audit.hpp>
#include <courier/channel.hpp>
#include <courier/ledger.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>

#include <cstdio>
#include <memory>

struct WyrmSighted {
    int bearing;
};
struct LampTurned {
    int bearing;
};
struct HornSounded {};

int main() {
    courier::ledger night{"the night"};
    night.attach_everything(); // or a hub, or single channels

    courier::channel<WyrmSighted> sighted{"wyrms.sighted"};
    courier::channel<LampTurned> turned{"lamp.turned"};
    courier::channel<HornSounded> sounded{"horn.sounded"};
    const courier::publisher<WyrmSighted> lookout{sighted, "lookout"};
    courier::subscriber lamp{"lamp"};
    courier::subscriber horn{"horn"};
    lamp.subscribe(sighted, [&](const WyrmSighted& e) { turned.publish({.bearing = e.bearing}); });
    horn.subscribe(turned, [&] { sounded.publish(); });
    lookout.publish({.bearing = 120});

    std::puts("why did the horn sound?");
    for (const courier::chain_link& link : night.chain(night.latest_on("horn.sounded"))) {
        std::printf("  %s, by %s\n", link.channel.c_str(),
                    link.publisher.empty() ? link.in_handler.c_str() : link.publisher.c_str());
    }

    const courier::books books = night.read();
    for (const courier::channel_books& c : books.channels) {
        std::printf("%s: %d published, %d delivered\n", c.name.c_str(), static_cast<int>(c.published),
                    static_cast<int>(c.deliveries));
    }
    for (const courier::finding& f : courier::audit(books).findings) {
        std::printf("%s: %s\n", std::string(id_of(f.code)).c_str(), f.what.c_str());
    }

    // A test can assert that a scope leaves nothing behind.
    const auto tell = [](const auto& left) { std::printf("left behind: %s\n", left[0].channel.c_str()); };
    auto diver = std::make_unique<courier::subscriber>("diver");
    {
        const courier::ends_with_scope here(night, tell);
        diver->subscribe(sighted, [] {});
    }
}
