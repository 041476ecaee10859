// SPDX-License-Identifier: MIT
#include "gateway/ask/wiring_desk.hpp"

#include "gateway/ask/wiring_json.hpp"
#include "wiring/text/read_files.hpp"

#include <courier/wiring/check.hpp>
#include <courier/wiring/wiring_edit.hpp>

#include <algorithm>
#include <exception>
#include <fstream>
#include <iterator>
#include <optional>
#include <stdexcept>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

using nlohmann::json;

/// A text that has to be there.
std::string text_in(const json& body, const char* key) {
    const auto found = body.find(key);
    if (found == body.end() || !found->is_string()) {
        throw std::invalid_argument(std::string("\"") + key + "\" is missing, or no text");
    }
    return found->get<std::string>();
}

/// Which wire is meant.
std::size_t wire_in(const json& body) {
    const auto found = body.find("wire");
    if (found == body.end() || !found->is_number_unsigned()) {
        throw std::invalid_argument(R"("wire" is missing, or no whole number from 0 on)");
    }
    return found->get<std::size_t>();
}
/// A text that may be left out.
std::string text_or_none(const json& body, const char* key) {
    return body.contains(key) ? text_in(body, key) : std::string();
}

/// The folders of the files that the game has named. Edits reach nothing outside of them.
std::vector<std::filesystem::path> folders_of(const wiring_state& now) {
    std::vector<std::filesystem::path> all;
    all.reserve(now.files.size());
    for (const std::filesystem::path& one : now.files) {
        all.push_back(one.has_parent_path() ? one.parent_path() : std::filesystem::path("."));
    }
    return all;
}
bool is_reached(const std::filesystem::path& file, const wiring_state& now) {
    return std::find(now.files.begin(), now.files.end(), file) != now.files.end() || lies_in(file, folders_of(now));
}

wiring_edit edit_of(const json& body, const wiring_state& now) {
    const std::filesystem::path file = text_in(body, "file");
    if (!is_reached(file, now)) {
        throw std::invalid_argument("'" + file.string() + "' is not in the folder of the wiring");
    }
    wiring_edit made(file, text_in(body, "text"), now.has);
    made.keep_inside(folders_of(now));
    return made;
}

std::string content_of(const std::filesystem::path& file) {
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

reply not_now() {
    return refuse(gateway_code::not_answered, "the game did not answer in time; try again");
}

/// What is wrong is an answer, too.
reply told(const wiring_error& error) {
    return as_reply({{"faults", json_of(error.faults())}});
}

} // namespace

wiring_desk::wiring_desk(game_calls& calls)
    : calls_(calls), latest_(calls, std::chrono::milliseconds(250), [this] {
          wiring_state now;
          if (const std::shared_ptr<wiring_core> core = is_there_.lock()) {
              now.is_there = true;
              now.name = of_->name();
              now.has = of_->catalogue();
              now.wires = of_->wires();
              now.missing = of_->missing_targets();
              now.files = core->files;
              now.all_files = core->in_force->paths;
          }
          return now;
      }) {}

void wiring_desk::open(wiring& of) {
    of_ = &of;
    is_there_ = access::kept_core(of);
    is_open_.store(true, std::memory_order_release);
}

reply wiring_desk::look() {
    const std::shared_ptr<const wiring_state> now = latest_.get();
    if (now == nullptr) {
        return not_now();
    }
    json files = json::array();
    for (const std::filesystem::path& file : now->all_files) {
        if (!is_reached(file, *now)) {
            continue;
        }
        const bool is_named = std::find(now->files.begin(), now->files.end(), file) != now->files.end();
        files.push_back({{"file", file.string()}, {"text", content_of(file)}, {"named", is_named}});
    }
    json wires = json::array();
    for (const wire_report& one : now->wires) {
        wires.push_back(json_of(one));
    }
    return as_reply({{"name", now->name}, {"wires", wires}, {"files", files}, {"missing", now->missing}});
}

reply wiring_desk::ask(std::string_view what, const json& body) {
    if (!body.is_object()) {
        return refuse(gateway_code::does_not_fit, "the body must be an object");
    }
    const std::shared_ptr<const wiring_state> now = latest_.get();
    if (now == nullptr) {
        return not_now();
    }
    try {
        if (what == "check") {
            return check(body, *now);
        }
        if (what == "fits") {
            return fits(body, *now);
        }
        if (what == "change") {
            return change(body, *now);
        }
        if (what == "try") {
            return try_once(body);
        }
        if (what == "save") {
            return save(body, *now);
        }
    } catch (const wiring_error& error) {
        return told(error);
    } catch (const std::exception& error) { // what is asked for is not there, or not said
        return refuse(gateway_code::does_not_fit, error.what());
    }
    return refuse(gateway_code::unknown_path, "there are /wiring/check, fits, change, try and save");
}

reply wiring_desk::check(const json& body, const wiring_state& now) const {
    const wiring_edit edit = edit_of(body, now);
    json wires = json::array();
    for (const edited_wire& one : edit.wires()) {
        wires.push_back(json_of(one));
    }
    const wiring_check found = edit.check();
    json awaited = json::array();
    for (const awaited_target& one : found.awaited) {
        awaited.push_back({{"name", one.name}, {"line", one.line}, {"advice", one.advice}});
    }
    return as_reply({{"faults", json_of(found.faults)}, {"awaited", awaited}, {"wires", wires}});
}

reply wiring_desk::fits(const json& body, const wiring_state& now) const {
    const wiring_edit edit("wiring.toml", "", now.has);
    const std::string when = text_or_none(body, "when");
    json actions = json::array();
    for (const fitting_action& one : edit.actions_for(when)) {
        actions.push_back(json_of(one));
    }
    return as_reply({{"causes", edit.causes()},
                     {"conditions", json_of(edit.conditions_for(when))},
                     {"states", json_of(edit.state_conditions())},
                     {"actions", actions}});
}

// Everything else in the file stays as it was written.
reply wiring_desk::change(const json& body, const wiring_state& now) const {
    wiring_edit edit = edit_of(body, now);
    const std::string how = text_in(body, "do");
    const auto wire = [&] { return wire_in(body); };
    json told{{"wire", nullptr}};
    if (how == "add") {
        told["wire"] = edit.add(text_in(body, "keys"));
    } else if (how == "set") {
        edit.set(wire(), text_in(body, "key"), text_in(body, "value"));
    } else if (how == "erase") {
        edit.erase(wire(), text_in(body, "key"));
    } else if (how == "remove") {
        edit.remove(wire());
    } else {
        throw std::invalid_argument(R"("do" is one of "add", "set", "erase", "remove")");
    }
    told["text"] = edit.text();
    return as_reply(told);
}

reply wiring_desk::try_once(const json& body) {
    const std::string sample = text_or_none(body, "sample");
    const std::string name = text_or_none(body, "name");
    const std::string text = name.empty() ? text_in(body, "text") : std::string();
    const std::optional<reply> made = calls_.ask([this, name, text, sample]() -> reply {
        const std::shared_ptr<wiring_core> core = is_there_.lock();
        if (core == nullptr) {
            return failed_in_game("the wiring is gone");
        }
        try {
            const wire_trial tried = name.empty() ? of_->try_text(text, sample) : of_->try_once(name, sample);
            return as_reply({{"held", tried.held}, {"failures", tried.failures}, {"last_failure", tried.last_failure}});
        } catch (const wiring_error& error) {
            return told(error);
        } catch (const std::exception& error) {
            return failed_in_game(error.what());
        }
    });
    return made ? *made : not_now();
}

reply wiring_desk::save(const json& body, const wiring_state& now) {
    const std::filesystem::path file = text_in(body, "file");
    const std::string was = text_in(body, "was");
    if (std::find(now.all_files.begin(), now.all_files.end(), file) == now.all_files.end() || !is_reached(file, now)) {
        return refuse(
            gateway_code::does_not_fit,
            "'" + file.string() +
                "' is none of the files in force, or not in the folder of the wiring; only those are written");
    }
    wiring_edit edit = wiring_edit::of(file, now.has);
    if (edit.text() != was) {
        return failed_in_game("somebody else has changed " + file.string() + " meanwhile; load it again");
    }
    edit.keep_inside(folders_of(now));
    edit.replace(text_in(body, "text"));
    if (const wiring_check found = edit.check(); !found.clean()) {
        return as_reply({{"faults", json_of(found.faults)}});
    }
    edit.save();
    reply made = reload();
    latest_.forget();
    return made;
}

// What takes long is done here, apart from the game.
reply wiring_desk::reload() {
    using draft_held = std::shared_ptr<wiring_draft>;
    const std::optional<draft_held> begun = calls_.ask([this]() -> draft_held {
        return is_there_.expired() ? nullptr : std::make_shared<wiring_draft>(of_->draft());
    });
    if (!begun || *begun == nullptr) {
        return begun ? failed_in_game("the wiring is gone; the file is written") : not_now();
    }
    (*begun)->prepare();
    const std::optional<reply> made = calls_.ask([this, next = *begun]() -> reply {
        if (is_there_.expired()) {
            return failed_in_game("the wiring is gone; the file is written");
        }
        try {
            const wiring_change done = of_->take(*next);
            return as_reply({{"saved", true},
                             {"kept", done.kept},
                             {"added", done.added},
                             {"removed", done.removed},
                             {"dropped", done.dropped}});
        } catch (const wiring_error& error) {
            return told(error);
        }
    });
    return made ? *made : not_now();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
