// What changes values, and what ledgers look at.
#include "world.hpp"

namespace acts {

void world::change_value() {
    switch (roll(6)) {
    case 0:
        courier::together([&] {
            state().set(Load(number(5)));
            act();
            state().set(Load(number(5)));
        });
        break;
    case 1: {
        courier::announced_map<int, Load>& of = map();
        of.set(number(4), Load(number(4)));
        break;
    }
    case 2:
        map().remove(number(4));
        break;
    case 3:
        list().add(Load(number(5)));
        break;
    case 4: {
        courier::announced_list<Load>& of = list();
        roll(2) == 0 ? of.set(roll(3), Load(number(5))) : of.remove(roll(4));
        break;
    }
    default:
        state().set(Load(number(5)));
    }
}

void world::keep_books() {
    place<courier::ledger>& books = ledgers_[roll(2)];
    if (books == nullptr) {
        books =
            std::make_unique<courier::ledger>("books", courier::ledger_options{.time_every = 3, .order_seed = roll(2)});
        if (roll(2) == 0) {
            books->attach_everything();
        }
        return;
    }
    switch (roll(5)) {
    case 0: {
        const place<courier::ledger> gone = std::move(books);
        break;
    }
    case 1:
        books->attach(channel());
        break;
    case 2:
        books->detach(channel());
        break;
    case 3:
        static_cast<void>(courier::audit(books->read()));
        break;
    default:
        books->end_frame();
    }
}

void world::count() {
    place<courier::tally<int>>& tally = tallies_[roll(2)];
    if (tally == nullptr) {
        tally = std::make_unique<courier::tally<int>>("tally");
    }
    switch (roll(6)) {
    case 0:
        tally->expect(number(4));
        break;
    case 1:
        tally->report(number(4));
        break;
    case 2:
        tally->withdraw(number(4));
        break;
    case 3: {
        auto made = group().join(number(4));
        std::swap(memberships_[roll(3)], made);
        break;
    }
    case 4:
        tally->expect_group(group());
        break;
    default:
        tally->reports_from(channel(), &Parcel::number);
    }
}

} // namespace acts
