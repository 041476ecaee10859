// SPDX-License-Identifier: MIT
#include <courier/ferry/ferry.hpp>

#include "ferry/ferry_core.hpp"

#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

ferry::ferry(ferry_options options) : core_(std::make_shared<detail::ferry_core>(std::move(options))) {}

ferry::~ferry() {
    core_->close();
}

std::size_t ferry::take_in() {
    return core_->take_in();
}

void ferry::send(const detail::port& source, std::string_view topic, const outward_options& options,
                 std::source_location where) {
    detail::shown_source what;
    static_cast<void>(detail::describe(source, what));
    if (source.value != nullptr) {
        what.fields = source.value->as_field;
    }
    detail::subscribe_port(in_, source, core_->add_source(what, topic, options), where);
}

void ferry::add_door(std::unique_ptr<detail::payload_door> door, std::string_view filter, const inward_options& options,
                     bool has_addresses) {
    core_->add_door(std::move(door), filter, options, has_addresses);
}

void ferry::add_answers(std::unique_ptr<detail::question_door_base> door, std::string_view topic,
                        const inward_options& options, const detail::field_table* answer_fields) {
    core_->add_answers(std::move(door), topic, options, answer_fields);
}

const state<link_condition>& ferry::link() const noexcept {
    return core_->link;
}

const channel<peer_changed>& ferry::peers() const noexcept {
    return core_->peers;
}

const channel<payloads_lost>& ferry::lost() const noexcept {
    return core_->lost;
}

const std::string& ferry::process() const noexcept {
    return core_->options.process;
}

const std::string& ferry::run() const noexcept {
    return core_->run_name;
}

ferry_report ferry::report() const {
    return core_->report();
}

WIRED_COURIER_NAMESPACE_END
