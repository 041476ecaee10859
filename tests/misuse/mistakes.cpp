// clang-format off
#include <courier/channel.hpp>
#include <courier/addressed_channel.hpp>
#include <courier/publisher.hpp>
#include <courier/subscriber.hpp>
#include <courier/stage.hpp> // between
#include <courier/group.hpp>
#include <courier/lifecycle.hpp>
#include <courier/phases.hpp>
#include <courier/reactions.hpp>
#include <courier/query.hpp>
#include <courier/hub.hpp>
#include <courier/level.hpp>
#include <courier/poster.hpp>
#include <courier/outbox.hpp>
#include <courier/timetable.hpp>
#include <courier/relay.hpp>
#include <courier/systems.hpp>
#include <courier/frame_driver.hpp>
#include <courier/state.hpp> // keep_current
#include <courier/pipeline.hpp> // filter transform merge overridden_by
#include <courier/sequence.hpp>
#include <courier/wait.hpp> // next when_any or_else
#include <chrono>
#include <memory> // unique_ptr
#include <span>
#include <utility> // move as_const
#include <vector>
struct Moored { int boat; };
struct Bitten { int barge; };
struct Dawn {};
struct Hailed { using address = int; int hand; };
struct DepthAsked { using answer = int; int hour; };
struct Chart { std::unique_ptr<int> sheet; };
struct Gull { courier::subscriber in{"gull"}; };
struct Logbook { void on_moored(const Moored&) {} void on_number(int) {} courier::subscriber in{"logbook"}; };
enum class watch { day, night };
extern courier::channel<Moored> moored;
extern courier::channel<Bitten> bitten;
extern courier::channel<Dawn> dawn;
extern courier::channel<Chart> charts;
extern courier::addressed_channel<Hailed> hailed;
extern courier::query<DepthAsked> depth;
extern courier::hub match;
extern courier::outbox later;
extern courier::timetable hours;
extern courier::subscriber in;
extern courier::state<int> tide;
extern courier::systems reef;
extern Logbook logbook;

// mistake right_use: nothing
[[maybe_unused]] const auto s = std::as_const(moored).subscribe([](const Moored&) {});
moored.publish({.boat = 3});

// mistake handler_changes_payload: courier: this source cannot call this handler
in.subscribe(moored, [](Moored& m) { m.boat = 0; });
// mistake handler_returns_a_number: courier: this source cannot call this handler
const auto s = moored.subscribe([](const Moored& m) { return m.boat; });
// mistake handler_takes_another_payload: courier: this source cannot call this handler
const auto s = moored.subscribe([](const Bitten&) {});
// mistake verdict_for_a_span: courier: this source cannot call this handler
const auto s = moored.subscribe([](std::span<const Moored>) { return courier::verdict::stop; });
// mistake verdict_for_several_sources: courier: this source cannot call this handler.*several sources
const auto s = courier::merge(moored, moored).subscribe([](const Moored&) { return courier::verdict::stop; });
// mistake posts_at_one_address: courier: this source cannot call this handler
in.subscribe(hailed.at(3), [](std::span<const courier::addressed_payload<Hailed, int>>) {});
// mistake member_of_another_class: courier: this source cannot call this handler
const auto s = moored.subscribe<&Logbook::on_number>(logbook);
// mistake method_without_object: courier: a member function is named in angle brackets
in.subscribe(moored, &Logbook::on_moored);
// mistake method_as_argument: courier: a member function is named in angle brackets, and the object given
in.subscribe(moored, &Logbook::on_moored, logbook);
// mistake method_of_channel: courier: a member function is named in angle brackets
const auto s = moored.subscribe(&Logbook::on_moored, logbook);
// mistake object_that_ends: courier: give the object itself .* must outlive
const auto s = moored.subscribe<&Logbook::on_moored>(Logbook());
// mistake nothing_to_call: courier: this source cannot call this handler
in.subscribe(moored);
// mistake misspelt_option_of_channel: courier: options are
const auto s = moored.subscribe([] {}, {.time = 1});
// mistake pointer_for_object: courier: give the object itself instead of a pointer to it
in.subscribe<&Logbook::on_moored>(moored, &logbook);
// mistake subscribe_to_pointer: courier: give the channel itself instead of a pointer to it
in.subscribe(&moored, [] {});
// mistake subscribe_to_publisher: courier: a publisher has the right to publish only
in.subscribe(courier::publisher<Moored>(moored), [] {});
// mistake condition_on_another_payload: courier: a condition takes the payload of the channel it is for
const auto s = moored.subscribe([] {}, {.condition = [](const Bitten&) { return true; }});
// mistake during_a_bool: courier: .during is asked at each turn
courier::phases<watch> now{"watch", watch::day, {}};
in.subscribe(moored, [](const Moored&) {}, {.during = now.is(watch::day)});
// mistake misplaced_option: (designator order|does not match declaration order|must be specified in declaration order|reorder)
// except: both compilers name the members and their order, in their own words
in.subscribe(moored, [] {}, {.times = 1, .stage = courier::ordinary});
// mistake misspelt_option: courier: options are
in.subscribe(moored, [] {}, {.time = 1});
// mistake no_room_between_stages: courier: the second stage is not later
// except: clang says it of the call, and again of the constant
constexpr courier::stage rules = courier::before(courier::ordinary, "rules");
constexpr courier::stage wrong = courier::between(courier::ordinary, rules, "wrong");

// mistake dropped_subscription: courier: the handler is unsubscribed as soon as this subscription is destroyed
dawn.subscribe([] {});
// mistake membership_dropped: courier: the member leaves the group as soon as
courier::group<int> crew{"crew"};
crew.join(3);
// mistake beat_dropped: courier: nothing is posted once
hours.every(std::chrono::seconds(1), moored, {.boat = 3});
// mistake team_dropped: courier: the systems end as soon as this team is destroyed
reef.add<Dawn>("dawn");
// mistake sequence_dropped (file): courier: a sequence does nothing until
courier::sequence<> waits(const courier::channel<Moored>& moored) {
    co_await courier::next(moored);
}
void wrong() { waits(moored); }
// mistake copied_subscription: courier: moved only
const auto one = dawn.subscribe([] {});
const auto two = one;
// mistake moved_object: courier: neither copied nor moved.*hold its object by std::unique_ptr
Gull one;
Gull other = std::move(one);
// mistake moved_lifecycle: courier: neither copied nor moved
struct Barge {
    explicit Barge(courier::lifecycle_channels<Barge>& on) : life{*this, on} {}
    courier::lifecycle<Barge> life;
};
courier::lifecycle_channels<Barge> on{"barge"};
Barge first{on};
Barge second{static_cast<Barge&&>(first)};
// mistake object_in_vector: courier: neither copied nor moved.*hold its object by std::unique_ptr
// except: the standard library moves the object, and says how it came to it
std::vector<Gull> all;
all.emplace_back();
// mistake change_posted: courier: a change is good for its handler only
// except: the standard library stores what is posted, and says much about what cannot be copied
courier::channel<courier::change<int>> changes{"changes"};
const auto s = tide.subscribe([&](const courier::change<int>& c) { later.post(changes, c); });

// mistake wrong_payload: courier: this channel carries another payload type
moored.publish(Bitten{1});
// mistake wrong_payload_publisher: courier: this publisher carries another payload type
courier::publisher<Moored>(moored).publish(Bitten{1});
// mistake publish_two_values: courier: one payload is published, with its fields in braces
moored.publish(1, 2);
// mistake nothing_to_say: courier: this channel.s payload has fields
moored.publish();
// mistake misspelt_field: (has no|does not refer to any).*(member|field)
// except: both compilers name the field, in their own words
moored.publish(Moored{.bote = 3});
// mistake publish_on_const: courier: a const channel can be subscribed to only
std::as_const(moored).publish({.boat = 3});
// mistake publish_empty_on_const: courier: a const channel can be subscribed to only
std::as_const(dawn).publish();
// mistake publish_to_on_const: courier: a const channel can be subscribed to only
std::as_const(hailed).publish_to(3, {.hand = 3});
// mistake publish_by_const_hub: courier: a const channel can be subscribed to only
std::as_const(match).channel<Moored>().publish({.boat = 3});
// mistake publisher_from_const: courier: a const channel can be subscribed to only
const courier::publisher<Moored> barge{std::as_const(moored), "barge"};
// mistake poster_on_const: courier: a const channel can be subscribed to only
const courier::poster<Moored> out{later, std::as_const(moored)};
// mistake publisher_of_another_payload: courier: this channel carries another payload than the publisher
const courier::publisher<Bitten> publishes{moored};
// mistake poster_of_another_payload: courier: this poster.s target carries another payload type
const courier::poster<Bitten> out{later, moored};
// mistake name_of_another_payload: courier: this channel carries another payload type
static constexpr courier::channel_name<Moored> north_quay{"north quay"};
match.channel(north_quay).publish(Bitten{.barge = 3});
// mistake relay_of_another_payload: courier: this relay forwards another payload than its target carries
const courier::relay r{moored, bitten};
// mistake relay_to_no_address: courier: this relay forwards another payload than its target carries, or to an address
const courier::relay r{moored, bitten,
                       [](const Moored& m) { return courier::for_address<int, Bitten>{m.boat, {.barge = 1}}; }};

// mistake payload_is_a_number: courier: a payload is a struct with named fields
courier::channel<int> fathoms{"fathoms"};
// mistake address_without_hash: courier: an address is plain data of at most eight bytes without padding
struct Berth { double east, north; };
courier::addressed_channel<Moored, Berth> at_berth{"moored"};
// mistake unnamed_payload_in_hub (file): courier: a payload in an unnamed namespace cannot go through a hub
namespace { struct Local {}; }
void wrong() { match.channel<Local>().publish(); }
// mistake phases_of_a_plain_enum (file): courier: phases are an enum class
enum Weather { calm, storm };
courier::phases<Weather> weather{"weather", calm};
// mistake level_without_itself: courier: a level is made by a function that takes
courier::level lagoon{"lagoon", match, [] {}};
// mistake reactions_without_object: courier: a set of reactions is a function that takes
courier::reactions<int> mast{"mast", [](courier::subscriber&) {}};

// mistake question_without_answer: courier: a question declares the type of its answer
courier::query<Moored> asked{"asked"};
// mistake answer_of_wrong_type: courier: this handler cannot answer this question
const auto s = depth.answer([](const DepthAsked&) { return "four"; });
// mistake answer_on_const: courier: a const query can be asked only
const auto s = std::as_const(depth).answer([](const DepthAsked&) { return 4; });
// mistake answer_ignored: courier: an unused answer
depth.ask({.hour = 3});
// mistake answer_taken_for_granted: (cannot convert|could not convert|no viable conversion)
// except: both compilers say that an optional is no int, in their own words
[[maybe_unused]] int fathoms = depth.ask({.hour = 3});
// mistake ask_all_of_one: courier: this query has one answerer at most
return static_cast<void>(depth.ask_all({.hour = 3}).size());

// mistake state_without_comparison: courier: the values of a state are compared
struct Level { int fathoms; };
courier::state<Level> level{"level", {1}};
// mistake set_on_const_state: courier: a const state can be read and subscribed to only
std::as_const(tide).set(4);
// mistake refresher_with_parameters: courier: a refresher is called without arguments
in.keep_current([](int) {});
// mistake filter_of_another_payload: courier: this adaptor does not take the payload of the source before it
in.subscribe(moored | courier::filter([](const Bitten& b) { return b.barge > 1; }), [](const Moored&) {});
// mistake transform_of_another_payload: courier: this adaptor does not take the payload of the source before it
in.subscribe(moored | courier::transform([](const Bitten& b) { return b; }), [](const Moored&) {});
// mistake override_without_optional: courier: this adaptor does not take the payload of the source before it
const auto s = (moored | courier::overridden_by(moored)).subscribe([] {});
// mistake merge_of_two_types: courier: merged sources carry one type
const auto s = courier::merge(moored, tide).subscribe([] {});

// mistake time_without_unit: courier: a time needs a unit
courier::frame_driver frame;
frame.run(0.016f);
// mistake timer_without_unit: courier: a time needs a unit
in.after(hours, 2, [] {});
// mistake timed_call_with_parameter: courier: a function that is called in its time takes no arguments
in.after(hours, std::chrono::seconds(1), [](int) {});
// mistake beat_of_moved_only_payload: courier: a payload that comes at every interval is copied each time
const courier::timer b = hours.every(std::chrono::seconds(1), charts, {});
// mistake wait_for_a_channel (file): courier: co_await takes a wait
courier::sequence<> waits() { co_await moored; }
// mistake move_only_waited_for_together: courier: the results of several waits are copied
auto wait = courier::when_any(courier::next(charts), courier::next(moored));
// mistake retained_wait_for_a_state: courier: a retained payload is copied for the wait
auto wait = courier::next(tide, {.retained = true});
// mistake fallback_for_nothing_missing: courier: or_else needs a first wait that may come to nothing
auto wait = courier::or_else(courier::next(moored), [&] { return courier::next(moored); });
// mistake captures_in_co_await (file): courier: before version 13, g\+\+ destroys
#if !defined(__GNUC__) || defined(__clang__) || __GNUC__ >= 13
#error "courier: before version 13, g++ destroys captures twice; this compiler does not"
#endif
courier::sequence<> waits(std::string name) {
    co_await courier::next(moored, [name](const Moored& m) { return m.boat > static_cast<int>(name.size()); });
}

// mistake stand_in_of_another_kind: courier: a stand-in for a system is derived from it
reef.stand_in<Moored, Dawn>();
// mistake system_by_value (file): courier: a system takes another one by reference
struct Tides { void update() {} };
struct Barges { explicit Barges(Tides) {} };
void wrong() { reef.get<Barges>(); }
// mistake system_updated_with_a_number (file): courier: update\(\) of a system takes a courier::game_time or nothing
struct Tides { void update(float) {} };
void wrong() { reef.get<Tides>(); }

// mistake older_language (alone): courier: Wired Courier needs C.*20: compile with -std=c
// standard: c++17
#include <courier/channel.hpp>
// mistake publisher_without_header (alone): courier: #include <courier/publisher.hpp>
#include <courier/channel.hpp>
struct Moored;
struct Boat { courier::publisher<Moored> out; };
// mistake state_without_header (alone): courier: #include <courier/state.hpp>
#include <courier/channel.hpp>
struct Boat { courier::state<int> crates; };
