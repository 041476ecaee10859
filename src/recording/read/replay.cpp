// SPDX-License-Identifier: MIT
#include <courier/recording/replay.hpp>

#include "data/json_reader.hpp"
#include "data/made_object.hpp"
#include "recording/write/event_packer.hpp"
#include "recording/write/line_writer.hpp"

#include <courier/data/json.hpp>
#include <courier/detail/routing/hub_core.hpp>
#include <courier/detail/routing/hub_watch.hpp>
#include <courier/from_outside.hpp>
#include <courier/recording/comparison.hpp>
#include <courier/recording/read_run.hpp>

#include <cstdlib>
#include <fstream>
#include <map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

constexpr const char* wanted_variable = "WIRED_COURIER_REPLAY";
constexpr const char* result_variable = "WIRED_COURIER_REPLAY_RESULT";

} // namespace

std::optional<std::filesystem::path> replay_wanted() {
    const char* const file = std::getenv(wanted_variable);
    return file != nullptr ? std::optional<std::filesystem::path>(file) : std::nullopt;
}

json_rules rules_of_replay(const recorded_event& event) noexcept {
    return {.missing = event.outside ? missing_fields::refused : missing_fields::kept};
}

void replay::source::read(const detail::field_table* fields, void* payload) const {
    const auto refuse = [&](const std::string& why, const char* advice) {
        throw recording_error(recording_code::cannot_replay,
                              "event " + std::to_string(event_.id) + " on '" + run_.channels[event_.channel].name +
                                  "' cannot be fed: " + why,
                              run_.file, advice);
    };
    const std::string_view text = run_.payload_of(event_);
    if (text == "{}") {
        return; // nothing to say
    }
    if (fields == nullptr || !fields->can_write || text.empty()) {
        refuse("its payload's fields are not known",
               "write WIRED_COURIER_FIELDS of courier/fields.hpp behind the struct");
    }
    const auto faults =
        detail::read_fields(detail::parsed_json(text), fields, payload, rules_of_replay(event_), &texts_);
    if (!faults.empty()) {
        refuse(faults.front().text(), "see 'courier changes' for what the payload's struct may change");
    }
}

/// Reads what the ledger tells into a second run, and looks at both, frame by frame.
class replay::implementation final : public detail::event_packer {
public:
    implementation(detail::ledger_core& of, run recorded)
        : recorded_run_(std::move(recorded)), again_(std::make_unique<run>()), builder_(*again_, "this run") {
        record_from(of, {});
    }
    ~implementation() override { end(); }

    [[nodiscard]] const run& recorded() const noexcept { return recorded_run_; }

    void add(std::string_view channel, std::function<void(const source&)> feeder) {
        feeders_[std::string{channel}] = std::move(feeder);
    }
    static std::function<void(const source&)> feeder_of(std::shared_ptr<const detail::payload_door> door,
                                                        std::source_location where) {
        return [door = std::move(door), where](const source& from) {
            if (!door->is_there()) {
                return; // the difference tells
            }
            const detail::made_object payload(*door);
            from.read(door->fields, payload.get());
            door->publish(payload.get(), from.address(), where);
        };
    }
    void add(detail::hub_core& hub, std::source_location where) {
        const auto each = [this, where](const detail::port& one) {
            if (one.ops != nullptr && detail::has_door(one)) {
                feeders_.try_emplace(one.core->name, feeder_of(std::make_shared<detail::port_door>(one, ""), where));
            }
        };
        hubs_.push_back(std::make_unique<detail::hub_watch>(hub, each));
    }

    void step() {
        const from_outside now;
        while (next_ < recorded_run_.events.size() && recorded_run_.events[next_].frame <= frames_) {
            const recorded_event& e = recorded_run_.events[next_++];
            if (e.outside && e.frame == frames_) {
                feed(e);
            }
        }
    }

    [[nodiscard]] bool is_over() const noexcept { return difference_.has_value() || frames_ >= recorded_run_.frames(); }
    void finish() {
        if (!difference_) {
            look(true);
        }
        if (const char* const file = std::getenv(result_variable); file != nullptr) {
            std::ofstream(file) << to_json(
                replay_outcome{same_, recorded_run_.events.size(), difference_.value_or("")});
        }
    }
    [[nodiscard]] std::uint64_t same() const noexcept { return same_; }
    [[nodiscard]] const std::optional<std::string>& difference() const noexcept { return difference_; }

private:
    void feed(const recorded_event& e) {
        // What was posted from outside is delivered from outside, too.
        if (const recorded_event* const cause = recorded_run_.find(e.cause); cause != nullptr && cause->outside) {
            return;
        }
        const std::string& channel = recorded_run_.channels[e.channel].name;
        const auto feeder = feeders_.find(channel);
        if (feeder == feeders_.end()) {
            throw recording_error(recording_code::cannot_replay,
                                  "event " + std::to_string(e.id) + " on '" + channel +
                                      "' came from outside, and nobody feeds that channel",
                                  recorded_run_.file, "call replay::feed() for it");
        }
        feeder->second(source(recorded_run_, e, texts_));
    }

    void frame_is_packed() override {
        ++frames_;
        take_lines();
        look(false);
    }
    void event_is_packed() override {
        if (now_.size() > (std::size_t{1} << 20)) {
            take_lines();
        }
    }
    void all_is_packed() override { now_.bytes().clear(); }

    void take_lines() {
        lines_.clear();
        writer_.write(detail::packed_reader(now_.bytes().data(), now_.bytes().data() + now_.size()), lines_);
        now_.bytes().clear();
        const std::string_view all(lines_.data(), lines_.size());
        for (std::size_t from = 0; from < all.size();) {
            const std::size_t past = all.find('\n', from);
            builder_.line(all.substr(from, past - from));
            from = past + 1;
        }
        builder_.done();
    }

    // Events of frames that are over, or all; `same_` is how many were looked at.
    void look(bool all) {
        if (all) {
            take_lines();
        }
        const std::vector<recorded_event>& expected = recorded_run_.events;
        const std::vector<recorded_event>& observed = again_->events;
        while (!difference_) {
            const recorded_event* const a = same_ < expected.size() ? &expected[same_] : nullptr;
            const recorded_event* const b = same_ < observed.size() ? &observed[same_] : nullptr;
            const bool a_is_due = a != nullptr && (all || a->frame < frames_);
            if (b == nullptr && !a_is_due) {
                return;
            }
            std::vector<std::string> what;
            if (a != nullptr && b != nullptr) {
                what = differences(recorded_run_, *a, *again_, *b);
            }
            if (a == nullptr || b == nullptr || !what.empty()) {
                tell(a, b, what);
                return;
            }
            ++same_;
        }
    }

    void tell(const recorded_event* a, const recorded_event* b, const std::vector<std::string>& what) {
        std::string text = "after " + std::to_string(same_) + " events that are the same\n  recorded: ";
        text += a != nullptr ? in_words(recorded_run_, *a) : "nothing more";
        text += "\n  this run: ";
        text += b != nullptr ? in_words(*again_, *b) : "nothing";
        for (const std::string& one : what) {
            text += "\n  differs   " + one;
        }
        difference_ = std::move(text);
    }

    run recorded_run_;
    std::unique_ptr<run> again_;
    run_builder builder_;
    detail::line_writer writer_;
    fmt::memory_buffer lines_;
    std::map<std::string, std::function<void(const source&)>> feeders_;
    std::vector<std::unique_ptr<detail::hub_watch>> hubs_;
    detail::kept_texts texts_;
    std::size_t next_ = 0;
    std::uint32_t frames_ = 0;
    std::uint64_t same_ = 0;
    std::optional<std::string> difference_;
};

replay::replay(ledger& of, const std::filesystem::path& file) : replay(of, read_run(file)) {}

replay::replay(ledger& of, run recorded)
    : all_(std::make_unique<implementation>(detail::access::ledger_of(of), std::move(recorded))) {}

replay::~replay() = default;

const run& replay::recorded() const noexcept {
    return all_->recorded();
}
void replay::add(std::string_view channel, std::function<void(const source&)> feeder) {
    all_->add(channel, std::move(feeder));
}
void replay::add(std::shared_ptr<const detail::payload_door> door, std::source_location where) {
    const std::string channel = door->name;
    all_->add(channel, implementation::feeder_of(std::move(door), where));
}
void replay::feed(hub& all, std::source_location where) {
    all_->add(detail::access::hub_of(all), where);
}
void replay::step() {
    all_->step();
}
bool replay::over() const noexcept {
    return all_->is_over();
}
void replay::finish() {
    all_->finish();
}
std::uint64_t replay::same() const noexcept {
    return all_->same();
}
const std::optional<std::string>& replay::difference() const noexcept {
    return all_->difference();
}

WIRED_COURIER_NAMESPACE_END
