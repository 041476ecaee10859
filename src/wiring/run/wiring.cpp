// SPDX-License-Identifier: MIT
#include <courier/detail/base/in_use.hpp>
#include <courier/wiring/wiring.hpp>

#include "wiring/check/checker.hpp"
#include "wiring/run/wiring_core.hpp"

#include <courier/data/detail/shape.hpp>
#include <courier/detail/base/type_name.hpp>
#include <courier/detail/routing/hub_core.hpp>
#include <courier/fault.hpp>

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

port_cause::port_cause(const port& of) : core_(*of.core), ops_(of.ops) {
    name = of.core->name;
    type = ops_->kind->name;
    fields = ops_->kind->fields;
    maker = ops_->maker;
    if (const address_ops* const whom = ops_->address; whom != nullptr) {
        address_type = whom->name;
        address_key = whom->key();
    }
}

void port_cause::take_over(cause_base& next) {
    const auto& other = static_cast<const port_cause&>(next);
    core_ = other.core_;
    ops_ = other.ops_;
}

subscription_key port_cause::attach(subscriber& in, live_wire& wire, const void* address, wire_options options) {
    if (!is_there()) {
        return {};
    }
    if (address == nullptr && options.with_address && ops_->address != nullptr) {
        tell_addresses(*core_);
    }
    return attach_wire<some_payload>(in, port_source({core_.get(), ops_}, address), wire, options);
}

value_cause::value_cause(const port& of, std::source_location where)
    : core_(*of.core), of_(of), latest_(of.value->copier->copy(of.value->look(of.source))), where_(where),
      in_("wiring") {
    name = of.core->name;
    type = of.ops->kind->name;
    key = of.value->key();
    fields = of.ops->kind->fields;
    state = of.value->value;
    watch();
}

value_cause::~value_cause() {
    in_.clear();
    of_.value->copier->destroy(latest_);
}

void value_cause::watch() {
    in_.subscribe(
        port_source(of_), [this](const some_payload& c) { of_.value->copier->assign(latest_, of_.value->after(&c)); },
        {}, where_);
}

void value_cause::take_over(cause_base& next) {
    const auto& other = static_cast<const value_cause&>(next);
    core_ = other.core_;
    of_ = other.of_;
    of_.value->copier->assign(latest_, other.latest_);
    where_ = other.where_;
    in_.clear();
    watch();
}

subscription_key value_cause::attach(subscriber& in, live_wire& wire, const void*, wire_options options) {
    return is_there() ? attach_wire<some_payload>(in, port_source(of_), wire, options) : subscription_key{};
}

} // namespace detail

void named_target::end() noexcept {
    if (place_ == nullptr) {
        return;
    }
    const std::shared_ptr<detail::target_place> place = std::exchange(place_, nullptr);
    place->address.reset();
    if (place->told != nullptr) {
        place->told->target_has_come(*place);
    }
}

wiring::wiring(std::string_view name) : core_(std::make_shared<detail::wiring_core>(name)) {}
wiring::~wiring() = default;

const std::string& wiring::name() const noexcept {
    return core_->name;
}

const channel<action_failed>& wiring::failed() const noexcept {
    return *core_->failed;
}

void wiring::add(std::unique_ptr<detail::cause_base> cause) {
    core_->add(std::move(cause));
}

void wiring::offer(hub& all, std::source_location where) {
    core_->add(detail::access::hub_of(all), where);
}

void wiring::add(const detail::port& value, std::source_location where) {
    core_->add(value, where);
}

void wiring::add_query(query_entry asked) {
    core_->add(std::move(asked));
}

void wiring::add_group(std::shared_ptr<const detail::group_source> members) {
    core_->add(std::move(members));
}

void wiring::add_phases(std::string_view name, detail::phases_core& core) {
    core_->add(name, core);
}

void wiring::offer(courier::stage place) {
    core_->stages.push_back(place);
    core_->offers_changed();
}

void wiring::use(timetable& clock) {
    core_->offers_changed(core_->hours != nullptr && core_->hours != &clock);
    core_->hours = &clock;
}

detail::action_base* wiring::known_action(std::string_view name, std::uint64_t key, std::source_location where) const {
    for (const std::shared_ptr<detail::action_base>& one : core_->actions) {
        if (one->name == name && one->key == key) {
            return one.get();
        }
        if (one->name == name) {
            detail::refuse_for_good(fault_code::name_clash,
                                    "action '" + std::string(name) +
                                        "' is offered with other parameters, addresses or answers than before",
                                    "give it another name", where);
        }
    }
    return nullptr;
}

void wiring::add_action(std::unique_ptr<detail::action_base> action) {
    core_->actions.push_back(std::move(action));
    core_->offers_changed();
}

void wiring::announce(std::string_view action, std::string_view channel) {
    std::vector<std::string>& known = core_->announced[std::string(action)];
    if (std::find(known.begin(), known.end(), channel) == known.end()) {
        known.emplace_back(channel);
        core_->offers_changed();
    }
}

named_target wiring::add_target(std::string_view text, std::string_view kind, std::uint64_t key,
                                std::shared_ptr<const void> address) {
    std::shared_ptr<detail::target_place> place = core_->target(std::string(text));
    place->kind = detail::kind_of_object(kind);
    place->key = key;
    place->address = std::move(address);
    place->has_come = true;
    core_->target_has_come(*place);
    return named_target(std::move(place));
}

named_target& named_target::operator=(named_target&& other) noexcept {
    detail::replace_handle(*this, std::move(other));
    return *this;
}

wiring_draft::wiring_draft(std::unique_ptr<detail::draft_parts> parts) : parts_(std::move(parts)) {}
wiring_draft::wiring_draft(wiring_draft&&) noexcept = default;
wiring_draft& wiring_draft::operator=(wiring_draft&&) noexcept = default;
wiring_draft::~wiring_draft() = default;

void wiring_draft::prepare() {
    parts_->prepare();
}

const std::vector<wiring_fault>& wiring_draft::faults() const noexcept {
    return parts_->faults;
}

wiring_draft wiring::draft(std::vector<std::filesystem::path> of) const {
    std::unique_ptr<detail::draft_parts> made = core_->begin();
    made->named = std::move(of);
    return wiring_draft(std::move(made));
}

wiring_draft wiring::draft() const {
    return draft(core_->files);
}

wiring_change wiring::take(wiring_draft& prepared) {
    const std::shared_ptr<detail::wiring_core> core = core_;
    return core->take(*prepared.parts_);
}

wiring_change wiring::load(const std::vector<std::filesystem::path>& files) {
    wiring_draft made = draft(files);
    return take(made);
}

wiring_change wiring::load_text(std::string_view file, std::string_view text) {
    wiring_draft made = draft({});
    made.parts_->is_text = true;
    made.parts_->document.files.emplace_back(std::string(file), std::string(text));
    return take(made);
}

wiring_change wiring::reload() {
    wiring_draft made = draft();
    return take(made);
}

bool wiring::has_changed() const {
    const detail::wire_table& table = *core_->in_force;
    for (std::size_t i = 0; i < table.paths.size(); ++i) {
        std::error_code error;
        const auto now = std::filesystem::last_write_time(table.paths[i], error);
        if (error || now != table.times[i]) {
            return true;
        }
    }
    return false;
}

void wiring::clear() {
    const std::shared_ptr<detail::wiring_core> core = core_;
    core->clear();
    core->files.clear();
}

bool wiring::switch_set(std::string_view set, bool on) {
    const std::shared_ptr<detail::wiring_core> core = core_;
    return core->switch_set(set, on);
}

wire_trial wiring::try_once(std::string_view name, std::string_view sample) {
    const std::shared_ptr<detail::wiring_core> core = core_;
    return core->try_once(name, sample);
}

wire_trial wiring::try_text(std::string_view text, std::string_view sample) {
    const std::shared_ptr<detail::wiring_core> core = core_;
    wiring_draft made = draft({});
    made.parts_->is_text = true;
    made.parts_->document.files.emplace_back("wire", std::string(text));
    return core->try_draft(*made.parts_, sample);
}

catalogue wiring::catalogue() const {
    return core_->list()->all;
}

std::vector<wire_report> wiring::wires() const {
    std::vector<wire_report> all;
    const detail::wire_table& table = *core_->in_force;
    for (const detail::wire_row& row : table.rows) {
        const detail::live_wire* const one = row.wire;
        wire_report& made = all.emplace_back();
        made.name = one->label;
        made.cause = one->cause->name;
        made.target = one->target != nullptr  ? one->target->name
                      : one->group != nullptr ? "group " + one->group->name
                                              : std::string();
        made.file = table.files[row.at.file].name;
        made.line = row.at.line;
        made.live = one->enabled && one->on && !one->waits_for_cause();
        made.waits_for_cause = one->waits_for_cause();
        made.waits_for_target = one->waits_for_target();
        made.caused = one->caused;
        made.otherwise = one->otherwise_done;
        made.failures = one->log.failures;
        made.last_failure = one->log.last;
        made.delayed = one->delayed;
    }
    return all;
}

std::vector<std::string> wiring::missing_targets() const {
    std::vector<std::string> all;
    for (const auto& [name, place] : core_->targets) {
        if (place->address == nullptr) {
            all.push_back(name);
        }
    }
    return all;
}

WIRED_COURIER_NAMESPACE_END
