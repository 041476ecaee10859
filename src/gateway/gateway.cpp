// SPDX-License-Identifier: MIT
#include <courier/gateway/gateway.hpp>

#include "gateway/gateway_core.hpp"
#include "gateway/serve/packed_run.hpp"

#include <courier/audit.hpp>
#include <courier/data/json.hpp>
#include <courier/detail/delivery/port.hpp>
#include <courier/detail/routing/hub_core.hpp>
#include <courier/detail/routing/hub_watch.hpp>

#include <stdexcept>
#include <string>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

gateway::gateway(gateway_options options) : core_(std::make_shared<detail::gateway_core>(std::move(options))) {}

gateway::~gateway() = default;

void gateway::show(const detail::port& one, std::source_location where) {
    if (detail::shown_source what; detail::describe(one, what)) {
        detail::subscribe_port(in_, one, *core_->add_source(what), where);
    }
}

console& gateway::accepted() noexcept {
    return core_->accepted;
}

void gateway::show(ledger& all) {
    core_->show(all);
}

void gateway::show(const run& recorded) {
    core_->recording = detail::packed_run(recorded);
    core_->recorded_findings = to_json(audit(books_of(recorded)));
    core_->has_recording.store(true, std::memory_order_release);
}

void gateway::show(hub& all, std::source_location where) {
    std::erase_if(hubs_, [](const auto& one) { return one->of() == nullptr; });
    hubs_.push_back(std::make_unique<detail::hub_watch>(detail::access::hub_of(all), [this, where](const auto& one) {
        if (one.ops != nullptr && !one.ops->kind->is_internal) {
            show(one, where);
        }
    }));
}

void gateway::accept(hub& all) {
    core_->accepted.accept(all);
}

void gateway::accept(wiring& of, std::string_view action) {
    if (of.catalogue().action(action) == nullptr) {
        throw gateway_error(gateway_code::unknown_action,
                            "wiring '" + of.name() + "' has no action '" + std::string(action) + "'", {},
                            "offer it first");
    }
    core_->accepted.accept(of, action);
}

void gateway::accept_actions(wiring& of) {
    core_->accepted.accept(of);
}

void gateway::accept_edits(wiring& of) {
    core_->wires.open(of);
}

std::size_t gateway::take_in() {
    const std::weak_ptr<detail::gateway_core> own = core_;
    return core_->take_in(own);
}

const channel<requests_refused>& gateway::refused() const noexcept {
    return core_->refused;
}

const std::string& gateway::address() const noexcept {
    return core_->address;
}

const std::string& gateway::token() const noexcept {
    return core_->door.token();
}

std::string gateway::page_address() const {
    return address() + "page#token=" + token();
}

gateway_report gateway::report() const {
    return core_->report();
}

WIRED_COURIER_NAMESPACE_END
