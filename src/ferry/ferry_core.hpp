// A ferry, on the game's thread.
// SPDX-License-Identifier: MIT
#pragma once

#include "ferry/link/broker_link.hpp"
#include "ferry/losses.hpp"
#include "ferry/outward/outward_box.hpp"
#include "ferry/questions.hpp"

#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/ferry/ferry.hpp>
#include <courier/inbox.hpp>
#include <courier/outbox.hpp>
#include <courier/state.hpp>
#include <courier/subscription.hpp>

#include <chrono>
#include <cstdint>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What processes tell of themselves.
struct process_told {
    std::string process;
    std::string run;
    std::string is; ///< "here", "left", "died"
};

class ferry_core : public std::enable_shared_from_this<ferry_core> {
public:
    explicit ferry_core(ferry_options its_options);
    ferry_core(const ferry_core&) = delete;
    ferry_core& operator=(const ferry_core&) = delete;
    ~ferry_core();

    outward_place& add_source(const shown_source& what, std::string_view topic, const outward_options& how);
    void add_door(std::unique_ptr<payload_door> door, std::string_view filter, const inward_options& how,
                  bool has_addresses);
    void add_answers(std::unique_ptr<question_door_base> door, std::string_view topic, const inward_options& how,
                     const field_table* answer_fields);
    /// Where questions go, to a topic whose answers come to `answers_topic`.
    outward_place& add_questions(std::string_view topic, std::string_view name, const field_table* fields,
                                 std::chrono::milliseconds limit, std::string& answers_topic);
    void add_answers_to(std::unique_ptr<answers_door> door, const std::string& answers_topic);

    std::size_t take_in();
    /// Nothing more is delivered, not even by a `take_in()` that goes on.
    void close() noexcept { is_over_ = true; }
    void count_unasked(std::string_view topic) { lost_.add(ferry_code::too_many_asked, topic); }
    [[nodiscard]] ferry_report report() const;

    const ferry_options options;
    const std::uint64_t run;
    const std::string run_name;

private:
    losses lost_;
    bool has_come_back_ = false;  ///< this process's own word that it is here
    std::set<std::string> older_; ///< runs with this one's name; as many as the broker had when it came

public:
    outward_box box; ///< what leaves
    questions asked;
    channel<peer_changed> peers{"ferry.peers"};
    channel<payloads_lost> lost{"ferry.lost"};
    state<link_condition> link{"ferry.link"};

private:
    void enter(std::shared_ptr<inward_route> route);
    void hear_processes();
    void start();
    void heard(const landed_message& what);
    void heard_of_namesake(const std::string& their_run);
    void deliver(const landed_message& what);
    void put_answer(const landed_message& to, const question_door_base& door, const outward_place& through,
                    std::string_view topic);
    void take_answer(const landed_message& what);
    void tell();

    bool is_over_ = false;
    bool is_started_ = false;
    outbox later_{"ferry"};
    inbox arrivals_;
    channel<arrival_errand> come_{"ferry.arrivals"};
    subscription taken_;
    std::map<std::string, std::string> here_;           ///< processes and their runs
    std::vector<std::shared_ptr<inward_route>> routes_; ///< as long as the ferry's thread may have them
    std::vector<std::string> answers_topics_;           ///< that are heard
    std::shared_ptr<broker_link> link_;
    std::uint32_t told_condition_ = 0;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
