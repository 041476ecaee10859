// SPDX-License-Identifier: MIT
#include "ferry/ferry_core.hpp"

#include "data/named_place.hpp"
#include "data/process_names.hpp"
#include "ferry/topics.hpp"

#include <courier/caused_by.hpp>
#include <courier/data/detail/shape.hpp>
#include <courier/detail/ledger/ledger_core.hpp>
#include <courier/from_outside.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <exception>
#include <stdexcept>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

ferry_options checked(ferry_options options) {
    check_process_name(options.process);
    if (!options.processes_topic.empty()) {
        check_outward_topic(options.processes_topic + "/" + options.process, "ferry_options::processes_topic", false);
    }
    const auto wants = [](bool is_so, std::string_view what) {
        if (!is_so) {
            throw ferry_error(ferry_code::bad_option, fmt::format("ferry_options::{}", what), {}, {});
        }
    };
    wants(!options.host.empty(), "host is empty; name the broker's host");
    wants(options.port >= 0 && options.port <= 65535, "port must be from 0 to 65535");
    wants(options.keep_alive >= std::chrono::seconds(5) && options.keep_alive <= std::chrono::seconds(65535),
          "keep_alive must be from 5 to 65535 seconds");
    wants(options.max_unconfirmed > 0, "max_unconfirmed must be at least 1");
    wants(options.max_arriving > 0 && options.arrivals_per_frame > 0,
          "max_arriving and arrivals_per_frame must be at least 1");
    wants(options.min_retry > std::chrono::milliseconds(0) && options.max_retry >= options.min_retry,
          "min_retry must be above 0, and max_retry at least as long");
    wants(options.session_time.count() >= 0 && options.absence.count() >= 0 && options.ending.count() >= 0,
          "session_time, absence and ending must not be negative");
    wants(options.certificate.empty() == options.key.empty(), "certificate and key must be given together");
    return options;
}

// What cannot be filled, as a path of fields; empty when all can.
std::string unfillable(const field_table& table, int depth = 0) {
    for (const field_entry& one : table.entries) {
        const value_type* inner = one.type;
        while (inner->kind == value_kind::list || inner->kind == value_kind::optional) {
            inner = inner->inner;
        }
        if (inner->kind == value_kind::object && depth < 8) {
            if (const std::string inside = unfillable(*inner->fields, depth + 1); !inside.empty()) {
                return std::string(one.name) + "." + inside;
            }
        } else if (!one.type->can_write || inner->borrows) {
            return std::string(one.name);
        }
    }
    return table.can_write ? std::string() : std::string("all of it");
}

std::string version_of(const field_table* fields) {
    std::string made;
    if (fields != nullptr) {
        for (const field_entry& one : fields->entries) {
            made += fmt::format("{}{}: {}", made.empty() ? "" : ", ", one.name, in_words(shape_of(*one.type)));
        }
    }
    return made.empty() ? "no fields" : made;
}

/// What comes is from elsewhere, meanwhile.
class from_elsewhere {
public:
    from_elsewhere(const landed_message& what, outward_box& box, bool is_value)
        : event_{what.process, what.run, what.event}, coming_{what.payload.get(), what.topic, is_value},
          from_(this_oversight.from, &event_), arriving_(box.arriving, &coming_) {
        box.causes.next_is_of(what.trace);
    }

private:
    foreign_event event_;
    coming_in coming_;
    from_outside outside_;
    meanwhile<const foreign_event*> from_;
    meanwhile<const coming_in*> arriving_;
};

class told_door final : public payload_door {
public:
    told_door() {
        name = "ferry.peers";
        type = type_name<process_told>();
        fields = fields_of<process_told>();
    }
    [[nodiscard]] void* make() const override { return new process_told(); }
    void destroy(void* payload) const noexcept override { delete static_cast<process_told*>(payload); }
    receipt publish(const void*, std::string_view, std::source_location) const override { return {}; }
};

} // namespace

ferry_core::ferry_core(ferry_options its_options)
    : options(checked(std::move(its_options))), run(new_run()), run_name(run_text(run)),
      box(run, options.max_waiting, lost_), asked(options.max_questions),
      arrivals_(later_, "ferry", {.limit = 2 * options.max_arriving + 1024}),
      taken_(come_.subscribe([this](const arrival_errand& one) {
          const std::shared_ptr<const landed_message> what = one.what; // whose handlers may be the end of all this
          deliver(*what);
      })) {
    know_process({options.process, run_name});
    link_ = std::make_shared<broker_link>(options, run, box, lost_, inlet<arrival_errand>(arrivals_, come_));
    if (!options.processes_topic.empty()) {
        hear_processes();
    }
}

void ferry_core::start() {
    if (!std::exchange(is_started_, true)) {
        broker_link::start(link_);
    }
}

ferry_core::~ferry_core() {
    box.hand_over();
    start(); // or nothing that was published would leave
    if (!link_->end()) {
        for (const auto& one : routes_) { // what they refer to is this thread's
            one->door.reset();
            one->deliver = nullptr;
        }
    }
}

outward_place& ferry_core::add_source(const shown_source& what, std::string_view topic, const outward_options& how) {
    check_outward_topic(topic, what.name, !what.address_type.empty());
    outward_route route;
    route.kind = what.state != nullptr ? crossing_kind::value : crossing_kind::payload;
    route.topic = pattern_of(topic);
    route.guarantee = how.guarantee;
    route.encoding = how.encoding;
    route.is_kept = what.keeps_latest || how.kept_by_broker;
    return box.add(std::move(route), what.fields);
}

void ferry_core::enter(std::shared_ptr<inward_route> route) {
    std::erase_if(routes_, [&](const auto& one) { return one.use_count() == 1; }); // others have taken their place
    route->is_exact = route->filter.find_first_of("+#") == std::string::npos;
    route->version = version_of(route->door->fields);
    route->place = named_place("ferry " + route->filter, 0);
    routes_.push_back(route);
    link_->add(std::move(route));
}

void ferry_core::add_door(std::unique_ptr<payload_door> door, std::string_view filter, const inward_options& how,
                          bool has_addresses) {
    check_inward_filter(filter, door->name, has_addresses);
    check_share_name(how.share_name);
    if (const std::string field = door->fields != nullptr ? unfillable(*door->fields) : ""; !field.empty()) {
        throw ferry_error(
            ferry_code::bad_payload,
            fmt::format("payloads for '{}' cannot be filled from outside: '{}' is a view of memory that it "
                        "does not own, or cannot be assigned",
                        door->name, field),
            {}, "use std::string and plain members");
    }
    auto route = std::make_shared<inward_route>();
    route->filter = filter;
    route->share_name = how.share_name;
    route->guarantee = how.guarantee;
    route->has_address = has_addresses;
    route->pattern = pattern_of(filter);
    route->door = std::move(door);
    route->deliver = [this, is_value = route->door->is_value](const landed_message& what) {
        const from_elsewhere now(what, box, is_value);
        what.route->door->publish(what.payload.get(), what.address, what.route->place);
    };
    enter(std::move(route));
}

void ferry_core::add_answers(std::unique_ptr<question_door_base> door, std::string_view topic,
                             const inward_options& how, const field_table* answer_fields) {
    check_outward_topic(topic, door->name, false);
    check_share_name(how.share_name);
    outward_route back;
    back.kind = crossing_kind::answer;
    back.topic = pattern_of(topic);
    const outward_place& through = box.add(std::move(back), answer_fields);
    auto route = std::make_shared<inward_route>();
    route->filter = topic;
    route->share_name = how.share_name;
    route->guarantee = how.guarantee;
    route->takes = type_of(crossing_kind::question);
    route->deliver = [this, by = door.get(), &through, topic = std::string(topic)](const landed_message& what) {
        put_answer(what, *by, through, topic);
    };
    route->door = std::move(door);
    enter(std::move(route));
}

// Answers go below the question's topic only, so that nobody can have them sent anywhere else.
void ferry_core::put_answer(const landed_message& to, const question_door_base& door, const outward_place& through,
                            std::string_view topic) {
    const std::string& back = to.response_topic;
    if (!back.starts_with(std::string(topic) + "/") || !wrong_with_topic(back).empty() || to.correlation.size() > 256) {
        lost_.add(ferry_code::bad_reply, topic, 1,
                  "the answer would go to '" + back.substr(0, 256) + "', which is not below the question's topic");
        return;
    }
    struct sender final : answer_taker {
        std::weak_ptr<ferry_core> core;
        const outward_place& through;
        std::string topic;
        std::string correlation;
        std::uint64_t question;
        sender(ferry_core& of, const outward_place& its_place, const landed_message& what)
            : core(of.weak_from_this()), through(its_place), topic(what.response_topic), correlation(what.correlation),
              question(overseen() ? this_oversight.ledger->newest_id + 1 : 0) {}
        void answered(const void* answer) override {
            if (const std::shared_ptr<ferry_core> own = core.lock(); own != nullptr) {
                const caused_by now(of_this_ledger(question, 0));
                own->box.put(through, answer, {}, {topic, correlation});
            }
        }
    };
    auto taker = std::make_unique<sender>(*this, through, to);
    const from_elsewhere now(to, box, false);
    door.ask(to.payload.get(), std::move(taker), to.route->place);
}

outward_place& ferry_core::add_questions(std::string_view topic, std::string_view name, const field_table* fields,
                                         std::chrono::milliseconds limit, std::string& answers_topic) {
    check_outward_topic(topic, name, false);
    answers_topic = std::string(topic) + "/answers/" + options.process;
    outward_route route;
    route.kind = crossing_kind::question;
    route.answer_limit = limit;
    route.topic = pattern_of(topic);
    return box.add(std::move(route), fields);
}

void ferry_core::add_answers_to(std::unique_ptr<answers_door> door, const std::string& answers_topic) {
    if (std::find(answers_topics_.begin(), answers_topics_.end(), answers_topic) != answers_topics_.end()) {
        return;
    }
    auto route = std::make_shared<inward_route>();
    route->filter = answers_topic;
    route->takes = type_of(crossing_kind::answer);
    route->door = std::move(door);
    route->deliver = [this](const landed_message& what) { take_answer(what); };
    enter(std::move(route));
    answers_topics_.push_back(answers_topic);
}

void ferry_core::take_answer(const landed_message& what) {
    std::uint64_t ticket = 0;
    const std::string_view text = what.correlation;
    const bool is_ours = text.starts_with(run_name + "-") &&
                         std::from_chars(text.data() + run_name.size() + 1, text.data() + text.size(), ticket).ptr ==
                             text.data() + text.size();
    const from_elsewhere now(what, box, false);
    if (!is_ours || !asked.answer(ticket, what.payload.get(), what.route->place)) {
        lost_.add(ferry_code::bad_reply, what.topic, 1, "it answers no question that waits; or too late");
    }
}

void ferry_core::hear_processes() {
    auto route = std::make_shared<inward_route>();
    route->filter = options.processes_topic + "/+";
    route->is_always_told = true;
    route->takes = type_of(crossing_kind::process);
    route->pattern = pattern_of(route->filter);
    route->door = std::make_unique<told_door>();
    route->deliver = [this](const landed_message& what) { heard(what); };
    enter(std::move(route));
}

void ferry_core::heard(const landed_message& what) {
    const auto& told = *static_cast<const process_told*>(what.payload.get());
    if (!is_process_name(told.process) || what.route->pattern.level(what.topic) != told.process ||
        (told.is != "here" && told.is != "left" && told.is != "died")) {
        lost_.add(ferry_code::bad_message, what.topic, 1, "is not what a process tells of itself");
        return;
    }
    if (told.process == options.process) {
        heard_of_namesake(told.run);
        return;
    }
    const auto known = here_.find(told.process);
    if (told.is == "here") {
        if (known != here_.end() ? known->second == told.run : here_.size() >= options.max_senders) {
            return; // its link was broken for a while
        }
        here_[told.process] = told.run;
        peers.publish({told.process, told.run, peer_news::came}, named_place("ferry", 0));
    } else if (known == here_.end() || known->second == told.run) { // else it has come back meanwhile
        here_.erase(told.process);
        peers.publish({told.process, told.run, told.is == "left" ? peer_news::left : peer_news::died},
                      named_place("ferry", 0));
    }
}

// The broker tells in which order processes of one name said that they are here: those that are
// heard of before this one's own word came back are older, whatever their clocks say.
void ferry_core::heard_of_namesake(const std::string& their_run) {
    if (their_run == run_name) {
        has_come_back_ = true;
    } else if (!has_come_back_) {
        older_.insert(their_run);
    } else if (!older_.contains(their_run)) {
        link_->turn_off();
    }
}

void ferry_core::deliver(const landed_message& what) {
    link_->arriving.fetch_sub(1, std::memory_order_relaxed);
    link_->has_room();
    if (!is_over_) {
        what.route->deliver(what);
    }
}

// What handlers throw must not keep anything else from its turn.
std::size_t ferry_core::take_in() {
    const std::shared_ptr<ferry_core> own = shared_from_this(); // a handler may be the end of the ferry
    start();
    std::size_t taken = 0;
    std::exception_ptr thrown;
    try {
        arrivals_.take_in();
        taken = later_.deliver({.payloads = options.arrivals_per_frame}).delivered;
    } catch (...) {
        thrown = std::current_exception();
    }
    if (!is_over_) {
        asked.look();
        tell();
    }
    if (box.hand_over()) {
        link_->tell_handed_over();
    }
    if (thrown != nullptr) {
        std::rethrow_exception(thrown);
    }
    return taken;
}

void ferry_core::tell() {
    if (const std::uint32_t newest = link_->condition_number(); std::exchange(told_condition_, newest) != newest) {
        link.set(link_->condition(), named_place("ferry", 0));
    }
    for (const payloads_lost& one : lost_.take()) {
        if (!is_over_) {
            lost.publish(one, named_place("ferry", 0));
        }
    }
}

ferry_report ferry_core::report() const {
    ferry_report made;
    made.sent = link_->counts.sent.load(std::memory_order_relaxed);
    made.confirmed = link_->counts.confirmed.load(std::memory_order_relaxed);
    made.arrived = link_->counts.arrived.load(std::memory_order_relaxed);
    made.known_already = link_->known_already();
    made.unexpected = link_->unexpected();
    made.connections = link_->counts.connections.load(std::memory_order_relaxed);
    for (std::size_t i = 0; i < ferry_losses; ++i) {
        made.lost[i] = lost_.count(static_cast<ferry_code>(i));
    }
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
