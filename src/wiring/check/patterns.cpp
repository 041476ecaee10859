// SPDX-License-Identifier: MIT
// Wires that are written once and used for many objects.
#include "wiring/check/checker.hpp"

#include <algorithm>
#include <map>
#include <set>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t most_made_values = 300'000; ///< some 200 bytes each

struct pattern {
    const data* table;
    place_in at;
    std::vector<std::string> gaps;
    bool used = false;
};

/// One fill of a pattern.
struct fill {
    const std::string& pattern_name;
    const data& with;
    data_store& store;
};

/// Puts parameters in the place of <names>: the value itself where a text is
/// nothing else.
class replacer {
public:
    replacer(wire_checker& by, const fill& what) : by_(by), what_(what) {}

    void replace(const data& all) {
        for (keyed_data& one : all.entries) {
            replace(one.value);
        }
    }
    void replace(data& in) {
        for (data& item : in.items) {
            replace(item);
        }
        for (keyed_data& one : in.entries) {
            replace(one.value);
        }
        if (in.kind == data_kind::text && in.text.find('<') != std::string_view::npos) {
            replace_text(in);
        }
    }
    [[nodiscard]] const std::set<std::string>& unknown() const noexcept { return unknown_; }

private:
    void replace_text(data& in) {
        std::string made;
        for (std::size_t i = 0; i < in.text.size(); ++i) {
            const std::size_t end = in.text[i] == '<' ? in.text.find('>', i) : std::string::npos;
            if (end == std::string::npos) {
                made += in.text[i];
                continue;
            }
            const std::string name(in.text.substr(i + 1, end - i - 1));
            const data* const value = what_.with.find(name);
            if (value == nullptr) {
                unknown(in, i, name);
            } else if (i == 0 && end + 1 == in.text.size()) {
                in = *value; // whatever it is
                return;
            } else if (value->kind == data_kind::text) {
                made += value->text;
            } else if (value->kind == data_kind::integer) {
                made += std::to_string(value->integer);
            } else {
                by_.faults().add(wiring_code::wrong_type, value->at,
                                 in_quotes(name) + " stands in a text, so it must be a text or a whole number");
            }
            i = end;
        }
        in.text = what_.store.keep(std::move(made));
    }
    void unknown(const data& in, std::size_t i, const std::string& name) {
        unknown_.insert(name);
        by_.faults().add(
            wiring_code::unknown_parameter, {in.at.file, in.at.line, in.at.column + 1 + static_cast<std::uint32_t>(i)},
            "the pattern " + in_quotes(what_.pattern_name) + " has no gap " + in_quotes(name), "add it to 'gaps'");
    }

    wire_checker& by_;
    const fill& what_;
    std::set<std::string> unknown_;
};

class pattern_list {
public:
    pattern_list(wire_checker& by, data_store& store) : by_(by), store_(store) {}

    void collect(const data& file) {
        const data* const all = by_.need(file, "pattern", data_kind::table);
        for (std::size_t i = 0; all != nullptr && i < all->entries.size(); ++i) {
            const keyed_data& one = all->entries[i];
            if (one.value.kind != data_kind::table) {
                by_.faults().add(wiring_code::wrong_type, one.value.at, "a pattern is a table: [pattern.name]");
                continue;
            }
            pattern made{&one.value, one.key_at, {}};
            const data* const gaps = by_.need(one.value, "gaps", data_kind::list, true);
            for (std::size_t k = 0; gaps != nullptr && k < gaps->items.size(); ++k) {
                made.gaps.emplace_back(gaps->items[k].text);
            }
            if (!patterns_.emplace(std::string(one.key), made).second) {
                by_.faults().add(wiring_code::duplicate, one.key_at, "there are two patterns " + in_quotes(one.key));
            }
        }
    }

    void use_all(const data& file, std::vector<wire_source>& wires) {
        const data* const all = by_.need(file, "fill", data_kind::list);
        for (std::size_t i = 0; all != nullptr && i < all->items.size(); ++i) {
            take(all->items[i], wires);
        }
    }

    void tell_unused() {
        for (const auto& [name, one] : patterns_) {
            if (!one.used) {
                by_.faults().add(wiring_code::unused_pattern, one.at, "nobody fills the pattern " + in_quotes(name),
                                 "fill it, [[fill]] pattern = \"" + name + "\", or take it out");
            }
        }
    }

private:
    void take(const data& from, std::vector<wire_source>& wires) {
        static const std::vector<std::string> known{"pattern", "with", "each", "name", "enabled", "set"};
        if (from.kind != data_kind::table) {
            by_.faults().add(wiring_code::wrong_type, from.at, "a fill is a table: [[fill]]");
            return;
        }
        by_.only_keys(from, "a fill", known);
        const data* const name = by_.need(from, "pattern", data_kind::text, true);
        if (name == nullptr) {
            return;
        }
        const auto found = patterns_.find(std::string(name->text));
        if (found == patterns_.end()) {
            std::vector<std::string> names;
            names.reserve(patterns_.size());
            for (const auto& [one, what] : patterns_) {
                names.push_back(one);
            }
            by_.faults().add(wiring_code::unknown_pattern, name->at, "there is no pattern " + in_quotes(name->text),
                             nearest_or_all(name->text, names, "there are"));
            return;
        }
        found->second.used = true;
        const data* const with = by_.need(from, "with", data_kind::table);
        const data* const each = by_.need(from, "each", data_kind::list);
        if (with == nullptr && each == nullptr) {
            data nothing;
            nothing.kind = data_kind::table;
            nothing.at = from.at;
            make(found->first, found->second, from, nothing, wires);
        } else if (with != nullptr) {
            make(found->first, found->second, from, *with, wires);
        }
        for (std::size_t i = 0; each != nullptr && i < each->items.size() && !is_told_; ++i) {
            make(found->first, found->second, from, each->items[i], wires);
        }
    }

    void make(const std::string& name, const pattern& what, const data& from, const data& with,
              std::vector<wire_source>& wires) {
        if (!has_all(name, what, with) || is_too_much(what, with)) {
            return;
        }
        const data pattern = store_.copy(*what.table);
        const fill now{name, with, store_};
        replacer by(by_, now);
        by.replace(pattern);
        if (!by.unknown().empty()) {
            return;
        }
        const std::span<keyed_data> entries = store_.entries(pattern.entries.size() + std::size(own_keys));
        std::size_t count = 0;
        for (const keyed_data& one : pattern.entries) {
            const bool is_replaced =
                std::find(std::begin(own_keys), std::end(own_keys), one.key) != std::end(own_keys) &&
                from.find(one.key) != nullptr;
            if (one.key != "gaps" && !is_replaced) {
                entries[count++] = one;
            }
        }
        for (const std::string_view key : own_keys) {
            if (const data* const own = from.find(key); own != nullptr) {
                entries[count++] = {key, own->at, *own};
            }
        }
        const std::span<data> made = store_.items(1);
        made[0] = pattern;
        made[0].at = with.at;
        made[0].entries = entries.first(count);
        wires.push_back({made.data(), told_fill(name, with)});
    }

    /// "bell answers(north, 1)"
    static std::string told_fill(const std::string& name, const data& with) {
        std::string made = name + "(";
        for (const keyed_data& one : with.entries) {
            const data& value = one.value;
            made += made.back() == '(' ? "" : ", ";
            made += value.kind == data_kind::text      ? std::string(value.text.substr(0, 64))
                    : value.kind == data_kind::integer ? std::to_string(value.integer)
                                                       : std::string(one.key);
        }
        return made + ")";
    }

    /// Bounds what a few lines become: uses times the values of a pattern.
    bool is_too_much(const pattern& what, const data& with) {
        made_values_ += count_values(*what.table);
        if (made_values_ <= most_made_values) {
            return false;
        }
        if (!std::exchange(is_told_, true)) {
            by_.faults().add(wiring_code::too_large, with.at,
                             "by this fill, patterns have become more than " + std::to_string(most_made_values) +
                                 " values; what follows is left out",
                             "fill fewer, or make the pattern shorter");
        }
        return true;
    }
    static std::size_t count_values(const data& of) {
        std::size_t sum = 1;
        for (const data& one : of.items) {
            sum += count_values(one);
        }
        for (const keyed_data& one : of.entries) {
            sum += count_values(one.value);
        }
        return sum;
    }

    bool has_all(const std::string& name, const pattern& what, const data& with) {
        if (with.kind != data_kind::table) {
            by_.faults().add(wiring_code::wrong_type, with.at,
                             "gaps are filled from a table: { bell = \"north bell\" }");
            return false;
        }
        bool all = true;
        for (const std::string& need : what.gaps) {
            if (with.find(need) == nullptr) {
                by_.faults().add(wiring_code::missing_parameter, with.at,
                                 "the pattern " + in_quotes(name) + " needs " + in_quotes(need),
                                 "write " + need + " = ... in 'with' or 'each'");
                all = false;
            }
        }
        for (const keyed_data& one : with.entries) {
            if (std::find(what.gaps.begin(), what.gaps.end(), one.key) == what.gaps.end()) {
                by_.faults().add(wiring_code::unknown_parameter, one.key_at,
                                 "the pattern " + in_quotes(name) + " has no gap " + in_quotes(one.key),
                                 nearest_or_all(one.key, what.gaps, "its gaps"));
                all = false;
            }
        }
        return all;
    }

    static constexpr std::string_view own_keys[] = {"name", "enabled", "set"};

    wire_checker& by_;
    data_store& store_;
    std::map<std::string, pattern> patterns_;
    std::size_t made_values_ = 0;
    bool is_told_ = false;
};

} // namespace

void expand_patterns(wire_checker& by, const std::vector<data>& files, data_store& store,
                     std::vector<wire_source>& wires) {
    pattern_list all(by, store);
    for (const data& file : files) {
        all.collect(file);
    }
    for (const data& file : files) {
        all.use_all(file, wires);
    }
    all.tell_unused();
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
