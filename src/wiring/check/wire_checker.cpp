// SPDX-License-Identifier: MIT
#include "wiring/check/checker.hpp"

#include <algorithm>
#include <array>
#include <limits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr int longest_succession = 16; ///< successes of successes

const std::vector<std::string> wire_keys{"name", "note", "when",  "at",    "during", "if",      "while", "do",
                                         "else", "stop", "after", "times", "every",  "enabled", "stage", "set"};
const std::vector<std::string> step_keys{"action", "at", "parameters", "after", "done", "failed", "note"};

/// The key for a word that people use for it.
std::string usual_word(std::string_view word, const std::vector<std::string>& known) {
    constexpr std::array<std::pair<std::string_view, std::string_view>, 24> words{
        {{"on", "when"},           {"event", "when"},      {"cause", "when"},      {"trigger", "when"},
         {"delay", "after"},       {"wait", "after"},      {"then", "do"},         {"actions", "do"},
         {"reaction", "do"},       {"condition", "if"},    {"conditions", "if"},   {"where", "if"},
         {"params", "parameters"}, {"with", "parameters"}, {"args", "parameters"}, {"success", "done"},
         {"failure", "failed"},    {"otherwise", "else"},  {"target", "at"},       {"object", "at"},
         {"phase", "during"},      {"comment", "note"},    {"min", "at_least"},    {"max", "at_most"}}};
    for (const auto& [usual, ours] : words) {
        if (usual == word && std::find(known.begin(), known.end(), ours) != known.end()) {
            return std::string(ours);
        }
    }
    return std::string(word);
}

} // namespace

bool wire_checker::only_keys(const data& table, std::string_view what, const std::vector<std::string>& known) {
    bool all = true;
    for (const keyed_data& one : table.entries) {
        if (std::find(known.begin(), known.end(), one.key) == known.end()) {
            faults_.add(wiring_code::unknown_key, one.key_at, std::string(what) + " has no " + in_quotes(one.key),
                        nearest_or_all(usual_word(one.key, known), known, "it may have"));
            all = false;
        }
    }
    return all;
}

const data* wire_checker::need(const data& table, std::string_view key, data_kind kind, bool must_be_there) {
    const data* const found = table.find(key);
    if (found == nullptr) {
        if (must_be_there) {
            faults_.add(wiring_code::missing_key, table.at, "this needs " + in_quotes(key),
                        "write " + std::string(key) + " = ...");
        }
        return nullptr;
    }
    if (found->kind != kind) {
        faults_.add(wiring_code::wrong_type, found->at, must_be(key, told(kind), told(found->kind)),
                    found->kind == data_kind::table && kind == data_kind::list
                        ? "write [[" + std::string(key) + "]], with two brackets"
                    : kind == data_kind::truth ? "write true or false, without quotation marks"
                    : kind == data_kind::text  ? "write it in quotation marks"
                    : kind == data_kind::table ? "write " + std::string(key) + " = { ... }"
                                               : "write " + std::string(key) + " = [ ... ]");
        return nullptr;
    }
    return found;
}

const value_shape* wire_checker::state_shape(std::string_view name) const noexcept {
    const channel_entry* const found = has_.channel(name);
    return found != nullptr && found->is_state ? &found->payload.fields.back().shape : nullptr;
}

std::vector<std::string> wire_checker::state_names() const {
    std::vector<std::string> all;
    for (const channel_entry& one : has_.channels) {
        if (one.is_state) {
            all.push_back(one.name);
        }
    }
    return all;
}

void wire_checker::cause(const data& from, wire_plan& made, value_scope& scope) {
    if (const data* const given = from.find("when"); given != nullptr && given->kind == data_kind::list) {
        faults_.add(wiring_code::missing_key, given->at, "no cause is named", "write when = \"wyrms.sighted\"");
        return;
    }
    const data* const when = need(from, "when", data_kind::text, true);
    if (when == nullptr) {
        return;
    }
    const channel_entry* const found = has_.channel(when->text);
    if (found == nullptr) {
        faults_.add(wiring_code::unknown_channel, when->at, "no channel or state is called " + in_quotes(when->text),
                    nearest_or_all(when->text, names_of(has_.channels), "there are"));
        return;
    }
    made.cause = static_cast<std::size_t>(found - has_.channels.data());
    scope.payload = &found->payload;
    scope.cause = found->name;
    scope.target_kind = found->target_kind;
    scope.is_of_state = found->is_state;
    if (const data* const at = from.find("at")) {
        cause_target(*at, *found, made.target);
    }
    if (const data* const conditions = need(from, "if", data_kind::table)) {
        check_conditions(*this, *conditions, found->name, found->payload, made.conditions);
    }
}

/// Where "during" names a phase without its phases, or the wrong ones.
std::string wire_checker::phases_like(std::string_view text) const {
    const std::string phase(text.substr(text.rfind('.') + 1));
    for (const auto& one : has_.phases) {
        if (std::find(one.phases.begin(), one.phases.end(), phase) != one.phases.end()) {
            return "did you mean " + in_quotes(one.name + "." + phase) + "?";
        }
    }
    return nearest_or_all(text, names_of(has_.phases), "there are");
}

std::vector<phase_plan> wire_checker::phases(const data& from) {
    std::vector<phase_plan> all;
    const data* const during = from.find("during");
    if (during == nullptr) {
        return all;
    }
    for (const data& text : one_or_several(*during)) {
        if (text.kind != data_kind::text) {
            faults_.add(wiring_code::wrong_type, text.at, "'during' must be a phase, or a list of phases",
                        "write during = \"watch.storm\"");
            continue;
        }
        const std::size_t dot = text.text.rfind('.');
        const std::string whose(text.text.substr(0, dot));
        const std::string phase(dot == std::string_view::npos ? "" : text.text.substr(dot + 1));
        const auto found =
            std::find_if(has_.phases.begin(), has_.phases.end(), [&](const auto& p) { return p.name == whose; });
        if (found == has_.phases.end()) {
            faults_.add(wiring_code::unknown_phase, text.at, "there are no phases " + in_quotes(whose),
                        phases_like(text.text));
        } else if (std::find(found->phases.begin(), found->phases.end(), phase) == found->phases.end()) {
            faults_.add(wiring_code::unknown_phase, text.at, in_quotes(whose) + " has no phase " + in_quotes(phase),
                        nearest_or_all(phase, found->phases, "its phases"));
        } else {
            all.push_back({whose, phase});
        }
    }
    return all;
}

void wire_checker::time(const data& from, std::string_view key, double& into) {
    const data* const given = from.find(key);
    const std::optional<double> read = given != nullptr ? seconds(*given) : std::nullopt;
    if (read && (!(*read >= 0) || *read > 1e8)) {
        faults_.add(wiring_code::out_of_range, given->at, in_quotes(key) + " must be a time from 0 to three years",
                    "write seconds, or a text with a unit: \"500 ms\"");
    } else if (read) {
        into = *read;
    }
}

void wire_checker::often(const data& from, wire_plan& made) {
    time(from, "after", made.after);
    time(from, "every", made.every);
    if (const data* const times = need(from, "times", data_kind::integer)) {
        if (times->integer < 1 || times->integer > std::numeric_limits<std::int32_t>::max()) {
            faults_.add(wiring_code::out_of_range, times->at, "'times' must be a whole number from 1 on",
                        "leave it out for no limit, or write enabled = false for never");
        } else {
            made.times = static_cast<std::uint32_t>(times->integer);
        }
    }
}

void wire_checker::stage(const data& from, wire_plan& made) {
    const data* const stage = need(from, "stage", data_kind::text);
    if (stage == nullptr) {
        return;
    }
    if (std::find(has_.stages.begin(), has_.stages.end(), stage->text) == has_.stages.end()) {
        faults_.add(wiring_code::unknown_stage, stage->at, "there is no stage " + in_quotes(stage->text),
                    nearest_or_all(stage->text, has_.stages, "there are"));
    }
    made.stage = stage->text;
}

void wire_checker::step(const data& from, const value_scope& scope, int depth, std::vector<step_plan>& into) {
    if (from.kind == data_kind::text) { // an action without parameters
        data nothing;
        nothing.kind = data_kind::table;
        nothing.at = from.at;
        step_of(from, nothing, scope, depth, into);
    } else if (from.kind != data_kind::table) {
        faults_.add(wiring_code::wrong_type, from.at, "an action must be its name, or a table with 'action'",
                    R"(write "horn.sound", or { action = "horn.sound" })");
    } else {
        only_keys(from, "an action", step_keys);
        if (const data* const name = need(from, "action", data_kind::text, true); name != nullptr) {
            step_of(*name, from, scope, depth, into);
        }
    }
}

void wire_checker::step_of(const data& name, const data& table, const value_scope& scope, int depth,
                           std::vector<step_plan>& into) {
    const action_entry* const found = has_.action(name.text);
    if (found == nullptr) {
        faults_.add(wiring_code::unknown_action, name.at, "there is no action " + in_quotes(name.text),
                    nearest_or_all(name.text, names_of(has_.actions), "there are"));
        return;
    }
    step_plan made;
    made.at = name.at;
    wait_of(table, depth, made);
    made.action = static_cast<std::size_t>(found - has_.actions.data());
    const std::vector<target_plan> targets = action_targets(table, *found, scope);
    check_parameters(*this, need(table, "parameters", data_kind::table), *found, name.at, scope, made.parameters);
    value_scope inside = scope;
    inside.answer = found->answer.kind != value_kind::other ? &found->answer : nullptr;
    inside.has_why = false;
    if (const data* const then = table.find("done")) {
        made.success = steps(*then, inside, depth + 1);
    }
    if (const data* const then = table.find("failed")) {
        value_scope failed = scope;
        failed.has_why = true;
        made.failure = steps(*then, failed, depth + 1);
    }
    for (const target_plan& one : targets) {
        made.target = one;
        into.push_back(made);
    }
}

/// How long an action waits, apart from what the wire says.
void wire_checker::wait_of(const data& from, int depth, step_plan& made) {
    const data* const after = from.find("after");
    if (after != nullptr && depth != 0) {
        faults_.add(wiring_code::unknown_key, after->at, "an action in 'done' or 'failed' has no 'after'",
                    "let it follow at once, or write a wire of its own for what comes later");
        return;
    }
    time(from, "after", made.after);
}

std::vector<step_plan> wire_checker::steps(const data& from, const value_scope& scope, int depth) {
    std::vector<step_plan> all;
    if (depth > longest_succession) {
        faults_.add(wiring_code::too_large, from.at, "more than 16 actions follow one from the other",
                    "split the wire");
        return all;
    }
    const std::span<const data> each = one_or_several(from);
    if (each.empty()) {
        faults_.add(wiring_code::missing_key, from.at, "no action is named",
                    "write do = \"horn.sound\", or a list of actions");
    }
    all.reserve(each.size());
    for (const data& one : each) {
        step(one, scope, depth, all);
    }
    return all;
}

/// What a delayed wire says is made up when it is set off, and an answer comes later:
/// a text cannot have both.
void wire_checker::delayed(const std::vector<step_plan>& steps) {
    const auto has = [](const value_plan& text, auto... origins) {
        return std::any_of(text.pieces.begin(), text.pieces.end(),
                           [&](const value_plan& piece) { return ((piece.from == origins) || ...); });
    };
    for (const step_plan& one : steps) {
        for (const parameter_plan& parameter : one.parameters) {
            if (has(parameter.what, value_origin::answer, value_origin::why) &&
                has(parameter.what, value_origin::field, value_origin::state)) {
                faults_.add(wiring_code::wrong_type, one.at,
                            "with 'after', a text has either {answer} and {why}, or fields and states",
                            "use two actions, or leave 'after' out");
            }
        }
        delayed(one.success);
        delayed(one.failure);
    }
}

void wire_checker::reactions(const data& from, const value_scope& scope, wire_plan& made) {
    const auto check_waits = [&](const std::vector<step_plan>& all, bool wait) {
        for (const step_plan& one : all) {
            if (wait || one.after != 0) {
                delayed({one});
            }
        }
    };
    if (const data* const stop = need(from, "stop", data_kind::truth)) {
        made.stops = stop->truth;
        if (made.stops && scope.is_of_state) {
            faults_.add(wiring_code::wrong_type, stop->at,
                        in_quotes(scope.cause) + " is a state, which has changed already",
                        "stop the event that changes it");
        }
    }
    if (const data* const what = from.find("do")) {
        made.steps = steps(*what, scope, 0);
        check_waits(made.steps, made.after != 0);
    } else if (!made.stops) {
        faults_.add(wiring_code::missing_key, from.at, "this needs 'do'",
                    "write do = \"horn.sound\", or a list of actions");
    }
    if (const data* const what = from.find("else")) {
        made.otherwise = steps(*what, scope, 0);
        check_waits(made.otherwise, false);
        if (from.find("if") == nullptr && from.find("while") == nullptr) {
            faults_.add(wiring_code::never_holds, what->at, "'else' is never done: there is neither 'if' nor 'while'",
                        "write a condition, or take 'else' out");
        }
    }
}

std::optional<wire_plan> wire_checker::wire(const data& from) {
    const std::size_t before = faults_.size();
    wire_plan made;
    made.at = from.at;
    if (from.kind != data_kind::table) {
        faults_.add(wiring_code::wrong_type, from.at, "a wire must be a table", "write [[wire]]");
        return std::nullopt;
    }
    only_keys(from, "a wire", wire_keys);
    if (const data* const name = need(from, "name", data_kind::text)) {
        made.name = name->text;
    }
    if (const data* const note = need(from, "note", data_kind::text)) {
        made.note = note->text;
    }
    if (const data* const set = need(from, "set", data_kind::text)) {
        made.set = set->text;
    }
    if (const data* const enabled = need(from, "enabled", data_kind::truth)) {
        made.enabled = enabled->truth;
    }
    value_scope scope;
    cause(from, made, scope);
    made.during = phases(from);
    if (const data* const conditions = need(from, "while", data_kind::table)) {
        check_state_conditions(*this, *conditions, made.conditions);
    }
    often(from, made);
    stage(from, made);
    reactions(from, scope, made);
    made.print = print_of(from);
    return faults_.size() == before ? std::optional(std::move(made)) : std::nullopt;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
