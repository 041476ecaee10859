// SPDX-License-Identifier: MIT
#include <courier/data/saved_values.hpp>

#include "data/cbor_reader.hpp"
#include "data/json_reader.hpp"
#include "data/json_text.hpp"
#include "data/json_writer.hpp"
#include "data/pack_value.hpp"

#include <courier/detail/base/place_text.hpp>
#include <courier/detail/later/waiting_places.hpp>
#include <courier/detail/routing/hub_watch.hpp>
#include <courier/detail/values/value_port.hpp>
#include <courier/fault.hpp>
#include <courier/nearest.hpp>
#include <courier/sequence.hpp>
#include <courier/together.hpp>

#include <algorithm>
#include <unordered_map>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

using nlohmann::json;

namespace {

constexpr int save_version = 1;

/// Writes values of one type after the other, without looking at their fields each time.
class value_writer {
public:
    void write(fmt::memory_buffer& to, const value_type& type, const void* value) {
        const auto [known, is_new] = schemas_.try_emplace(&type);
        if (is_new) {
            known->second = node_of(type);
        }
        packed_.bytes().clear();
        pack_value(type, value, packed_);
        packed_reader in(packed_.bytes().data(), packed_.bytes().data() + packed_.size());
        write_value(to, in, &known->second);
    }

private:
    std::unordered_map<const value_type*, schema_node> schemas_;
    packed_bytes packed_;
};

} // namespace

/// A value of a hub.
class saved_port final : public saved_entry {
public:
    explicit saved_port(const port& of) : core_(*of.core), of_(of) { name = core_->name; }
    ~saved_port() override { drop(); }
    [[nodiscard]] bool is_there() const noexcept override { return !core_->closed && core_->kind != nullptr; }
    [[nodiscard]] const value_type& type() const noexcept override { return *of_.value->value; }
    [[nodiscard]] const void* value() override { return of_.value->look(of_.source); }
    [[nodiscard]] void* prepare() override {
        drop();
        return next_ = of_.value->copier->copy(value());
    }
    [[nodiscard]] bool is_prepared() const noexcept override { return next_ != nullptr; }
    void apply(std::source_location where) override {
        if (next_ != nullptr && is_there()) {
            of_.value->set(of_.source, next_, where);
        }
        drop();
    }
    void drop() noexcept override {
        if (void* const gone = std::exchange(next_, nullptr); gone != nullptr) {
            of_.value->copier->destroy(gone);
        }
    }

private:
    held<channel_core> core_; ///< which may go first
    port of_;
    void* next_ = nullptr;
};

struct saved_core {
    std::string name;
    period playing{"playing"};
    std::vector<std::unique_ptr<saved_entry>> entries;
    std::unordered_map<std::string, saved_entry*> by_name; ///< former names, too
    std::vector<std::unique_ptr<hub_watch>> hubs;
    bool is_restoring = false;

    /// As many as are there; the rest goes when more are added.
    void remove_ended() {
        std::erase_if(by_name, [](const auto& named) { return !named.second->is_there(); });
        std::erase_if(entries, [](const auto& one) { return !one->is_there(); });
    }
    [[nodiscard]] saved_entry* find(const std::string& text) const {
        const auto found = by_name.find(text);
        return found != by_name.end() && found->second->is_there() ? found->second : nullptr;
    }
    [[nodiscard]] std::vector<std::string> names() const {
        std::vector<std::string> all;
        for (const auto& one : entries) {
            if (one->is_there()) {
                all.push_back(one->name);
            }
        }
        return all;
    }

    /// Fills copies of the values with what a text has for them.
    std::vector<json_fault> prepare(const json& read, const json_rules& rules);
    void drop_prepared() noexcept {
        for (const auto& one : entries) {
            one->drop();
        }
    }
    void apply(std::source_location where);
};

namespace {

std::vector<json_fault> faults_of_frame(const json& read) {
    if (read.is_discarded()) {
        return {{json_code::not_json,
                 "the text is neither JSON (RFC 8259) nor CBOR (RFC 8949), or nests more than 64 deep",
                 {},
                 {}}};
    }
    const auto version = read.is_object() ? read.find("saved_values") : read.end();
    if (!read.is_object() || version == read.end() || !read.contains("values") || !read["values"].is_object()) {
        return {{json_code::wrong_type,
                 "the text must be an object with 'saved_values' and 'values'",
                 {},
                 "restore what saved_values::to_json() wrote"}};
    }
    if (*version != save_version) {
        return {{json_code::out_of_range, "must be the number 1, the version of the format", "/saved_values",
                 "a newer version of the library wrote it"}};
    }
    return {};
}

} // namespace

std::vector<json_fault> saved_core::prepare(const json& read, const json_rules& rules) {
    std::vector<json_fault> faults = faults_of_frame(read);
    if (!faults.empty()) {
        return faults;
    }
    const auto where = [](const std::string& key) { return "/values" + pointer_part(key); };
    for (const auto& [key, value] : read["values"].items()) {
        saved_entry* const entry = find(key);
        if (entry == nullptr) {
            if (rules.unknown == unknown_fields::refused) {
                faults.push_back(
                    {json_code::unknown_field, "names no value of this save", where(key), did_you_mean(key, names())});
            }
        } else if (key == entry->name || !read["values"].contains(entry->name)) {
            if (!read_value(value, entry->type(), entry->prepare(), rules).empty()) { // once more, with its place
                std::vector<json_fault> found =
                    read_value(value, entry->type(), entry->prepare(), rules, nullptr, where(key));
                faults.insert(faults.end(), found.begin(), found.end());
            }
            if (!entry->is_valid()) {
                faults.push_back(
                    {json_code::unknown_value, "must be one of the phases of '" + entry->name + "'", where(key), {}});
            }
        }
    }
    for (const auto& one : entries) {
        if (rules.missing == missing_fields::refused && one->is_there() && !one->is_prepared()) {
            faults.push_back({json_code::missing_field, "is missing", where(one->name), {}});
        }
    }
    return faults;
}

void saved_core::apply(std::source_location where) {
    struct restoring {
        saved_core& own;
        explicit restoring(saved_core& of) : own(of) {
            own.playing.end();
            own.is_restoring = true;
        }
        restoring(const restoring&) = delete;
        restoring& operator=(const restoring&) = delete;
        ~restoring() {
            own.is_restoring = false;
            own.playing.begin();
        }
    } const now(*this);
    together([&] {
        for (const bool at_once : {false, true}) {
            for (std::size_t i = 0; i < entries.size(); ++i) { // handlers may add some
                if (entries[i]->is_announced_at_once() == at_once) {
                    entries[i]->apply(where);
                }
            }
        }
    });
}

} // namespace detail

saved_values::saved_values(std::string_view name) : core_(std::make_shared<detail::saved_core>()) {
    core_->name = name;
}

saved_values::~saved_values() {
    core_->hubs.clear(); // which call this
}

void saved_values::refuse(const std::string& name, const char* why, std::source_location where) const {
    detail::raise(fault_code::name_clash, severity::refused,
                  "value '" + name + "' " + why + " and is not added to the values of '" + core_->name + "'",
                  "give one of them another name: add(value, {.name = \"...\"})", where);
}

bool saved_values::may_add(const std::string& name, std::string_view formerly, std::source_location where) {
    detail::saved_core& own = *core_;
    for (const std::string& one : {name, std::string(formerly)}) {
        if (!one.empty() && own.find(one) != nullptr) {
            refuse(one, "is there already", where);
            return false;
        }
    }
    if (own.entries.size() == own.entries.capacity() && !own.is_restoring) {
        own.remove_ended();
    }
    return true;
}

void saved_values::enter(std::unique_ptr<detail::saved_entry> entry) {
    detail::saved_core& own = *core_;
    detail::reserve_by_halves(own.entries, own.entries.size() + 1);
    detail::saved_entry& made = *entry;
    own.entries.push_back(std::move(entry));
    detail::unless_done taken_back([&] {
        std::erase_if(own.by_name, [&](const auto& named) { return named.second == &made; });
        own.entries.pop_back();
    });
    own.by_name.insert_or_assign(made.name, &made);
    if (!made.formerly.empty()) {
        own.by_name.insert_or_assign(made.formerly, &made);
    }
    taken_back.done();
}

void saved_values::add(hub& all, std::source_location where) {
    detail::hub_core& from = detail::access::hub_of(all);
    std::erase_if(core_->hubs, [](const auto& one) { return one->of() == nullptr; });
    if (std::any_of(core_->hubs.begin(), core_->hubs.end(), [&](const auto& one) { return one->of() == &from; })) {
        return;
    }
    core_->hubs.push_back(std::make_unique<detail::hub_watch>(from, [this, where](const detail::port& one) {
        const detail::value_ops* const value = one.ops != nullptr ? one.value : nullptr;
        if (value != nullptr && value->set != nullptr && value->copier != nullptr &&
            value->value->kind != value_kind::other && may_add(one.core->name, {}, where)) {
            enter(std::make_unique<detail::saved_port>(one));
        }
    }));
}

std::vector<std::string> saved_values::not_saved() {
    std::vector<std::string> all;
    for (const sequence_report& one : list_sequences()) {
        all.push_back("a sequence" + (one.subscriber.empty() ? "" : " of '" + one.subscriber + "'") + " from " +
                      detail::place(one.started_at) + " waits for " + one.waits_for);
    }
    for (const detail::left_waiting& one : detail::list_left_waiting()) {
        constexpr std::string_view kinds[] = {"outbox", "inbox", "timetable"};
        all.push_back(fmt::format("{}{}: {} {}", kinds[static_cast<std::size_t>(one.kind)],
                                  one.name.empty() ? "" : " '" + one.name + "'", one.payloads,
                                  one.payloads == 1 ? "payload or call waits" : "payloads or calls wait"));
    }
    return all;
}

std::string saved_values::to_cbor() const {
    std::string bytes;
    detail::json::to_cbor(detail::parsed_json(to_json()), bytes);
    return bytes;
}

std::string saved_values::to_json() const {
    fmt::memory_buffer text;
    detail::value_writer writer;
    detail::write_raw(text, R"({"saved_values":1,"of":)");
    detail::write_text(text, core_->name);
    detail::write_raw(text, ",\"values\":{");
    std::string_view before = "\n";
    for (const auto& one : core_->entries) {
        if (one->is_there()) {
            detail::write_raw(text, before);
            detail::write_text(text, one->name);
            detail::write_raw(text, ":");
            writer.write(text, one->type(), one->value());
            before = ",\n";
        }
    }
    detail::write_raw(text, "\n}}\n");
    return fmt::to_string(text);
}

std::vector<json_fault> saved_values::restore(std::string_view text, const json_rules& rules,
                                              std::source_location where) {
    const std::shared_ptr<detail::saved_core> own = core_;
    if (own->is_restoring) {
        return {{json_code::not_writable, "these values are being restored", {}, "restore them when that is over"}};
    }
    const detail::unless_done dropped([&] { own->drop_prepared(); });
    constexpr unsigned char map = 0xa0; // what CBOR begins with here; JSON is below
    const bool is_cbor = !text.empty() && static_cast<unsigned char>(text.front()) >= map;
    std::vector<json_fault> faults =
        own->prepare(is_cbor ? detail::parsed_cbor(text) : detail::parsed_json(text), rules);
    if (faults.empty()) {
        own->apply(where);
    }
    return faults;
}

const period& saved_values::playing() const noexcept {
    return core_->playing;
}

std::vector<std::string> saved_values::names() const {
    return core_->names();
}

WIRED_COURIER_NAMESPACE_END
