// SPDX-License-Identifier: MIT
#include <courier/wiring/catalogue_comparison.hpp>

#include "wiring/check/checker.hpp"

#include <algorithm>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

using detail::in_quotes;

template <class Entries>
auto* entry_of(const Entries& all, const std::string& name) {
    const auto found = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.name == name; });
    return found != all.end() ? &*found : nullptr;
}

bool is_in(const std::vector<std::string>& all, const std::string& one) {
    return std::find(all.begin(), all.end(), one) != all.end();
}

/// Values come out of payloads and answers, and go into parameters and questions.
enum class way : std::uint8_t { out, in };

class catalogue_comparer {
public:
    std::vector<catalogue_change> compare(const catalogue& before, const catalogue& after) {
        entries("channel", before.channels, after.channels, [&](const channel_entry& a, const channel_entry& b) {
            if (a.is_state != b.is_state) {
                tell(b.is_state ? "is a state now" : "is not a state any more", !b.is_state);
            }
            target_kinds(a.target_kind, b.target_kind);
            shapes("", a.payload, b.payload, way::out);
        });
        entries("action", before.actions, after.actions, [&](const action_entry& a, const action_entry& b) {
            target_kinds(a.target_kind, b.target_kind);
            shapes("", a.parameters, b.parameters, way::in);
            answers(a.answer, b.answer);
        });
        entries("query", before.queries, after.queries, [&](const query_entry& a, const query_entry& b) {
            shapes("", a.question, b.question, way::in);
            answers(a.answer, b.answer);
        });
        entries("phases", before.phases, after.phases,
                [&](const phases_entry& a, const phases_entry& b) { names("phase", a.phases, b.phases); });
        entries("target", before.targets, after.targets,
                [&](const target_entry& a, const target_entry& b) { target_kinds(a.kind, b.kind); });
        entries("group", before.groups, after.groups,
                [&](const group_entry& a, const group_entry& b) { target_kinds(a.kind, b.kind); });
        where_ = "the program";
        names("stage", before.stages, after.stages);
        return std::move(all_);
    }

private:
    void tell(std::string what, bool may_break) { all_.push_back({where_, std::move(what), may_break}); }

    template <class Entries, class Both>
    void entries(const std::string& kind, const Entries& before, const Entries& after, Both both) {
        for (const auto& one : before) {
            where_ = kind + " " + in_quotes(one.name);
            if (const auto* const now = entry_of(after, one.name)) {
                both(one, *now);
            } else {
                tell("is gone", true);
            }
        }
        for (const auto& one : after) {
            if (entry_of(before, one.name) == nullptr) {
                where_ = kind + " " + in_quotes(one.name);
                tell("is new", false);
            }
        }
    }

    void names(const std::string& kind, const std::vector<std::string>& before, const std::vector<std::string>& after) {
        for (const std::string& one : before) {
            if (!is_in(after, one)) {
                tell("has no " + kind + " " + in_quotes(one) + " any more", true);
            }
        }
        for (const std::string& one : after) {
            if (!is_in(before, one)) {
                tell("has a new " + kind + " " + in_quotes(one), false);
            }
        }
    }

    void target_kinds(const std::string& before, const std::string& after) {
        if (before != after) {
            tell(after.empty() ? "is for no object in particular any more" : "is for a " + after + " now", true);
        }
    }

    void answers(const value_shape& before, const value_shape& after) {
        if (before.kind == value_kind::other && after.kind != value_kind::other) {
            tell("has an answer now", false);
        } else {
            shapes("answer", before, after, way::out);
        }
    }

    static std::string under(const std::string& path, const std::string& field) {
        return path.empty() ? field : path + "." + field;
    }

    void fields(const std::string& path, const value_shape& before, const value_shape& after, way goes) {
        const std::string_view word = goes == way::in ? "parameter" : "field";
        for (const named_shape& one : before.fields) {
            const std::string name = under(path, one.name);
            if (const auto* const now = entry_of(after.fields, one.name)) {
                shapes(name, one.shape, now->shape, goes);
                if (goes == way::in && one.has_default && !now->has_default && one.shape == now->shape) {
                    tell("needs the parameter " + in_quotes(name) + ", which could be left out", true);
                }
            } else {
                tell("has no " + std::string(word) + " " + in_quotes(name) + " any more", true);
            }
        }
        for (const named_shape& one : after.fields) {
            if (entry_of(before.fields, one.name) == nullptr) {
                const bool is_needed = goes == way::in && !one.has_default;
                tell((is_needed ? "needs a new " : "has a new ") + std::string(word) + " " +
                         in_quotes(under(path, one.name)) + ", " + detail::kind_in_words(one.shape),
                     is_needed);
            }
        }
    }

    void shapes(const std::string& path, const value_shape& before, const value_shape& after, way goes) {
        const std::string what = path.empty() ? "" : in_quotes(path) + " ";
        const bool is_number = before.kind == value_kind::integer || before.kind == value_kind::natural;
        const bool is_still = after.kind == value_kind::integer || after.kind == value_kind::natural;
        if (before.kind != after.kind && !(is_number && is_still)) {
            const bool may_be_left_out =
                goes == way::in && after.kind == value_kind::optional && after.inner.front() == before;
            tell(what + "is " + detail::kind_in_words(after) + ", and was " + detail::kind_in_words(before),
                 !may_be_left_out);
        } else if (is_number) {
            ranges(what, before, after);
        } else if (before.kind == value_kind::enumeration) {
            names(path.empty() ? "value" : "value of " + in_quotes(path), before.values, after.values);
        } else if (before.kind == value_kind::object) {
            fields(path, before, after, goes);
        } else if (!before.inner.empty()) {
            shapes(path, before.inner.front(), after.inner.front(), goes);
        }
    }

    void ranges(const std::string& what, const value_shape& before, const value_shape& after) {
        if (before.least != after.least || before.most != after.most) {
            tell(what + "is from " + std::to_string(after.least) + " to " + std::to_string(after.most) +
                     ", and was from " + std::to_string(before.least) + " to " + std::to_string(before.most),
                 after.least > before.least || after.most < before.most);
        }
    }

    std::string where_;
    std::vector<catalogue_change> all_;
};

} // namespace

std::vector<catalogue_change> compare(const catalogue& before, const catalogue& after) {
    return catalogue_comparer().compare(before, after);
}

WIRED_COURIER_NAMESPACE_END
