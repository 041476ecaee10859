// SPDX-License-Identifier: MIT
#include <courier/detail/base/first_failure.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/port.hpp>
#include <courier/detail/routing/hub_core.hpp>
#include <courier/detail/routing/hub_watch.hpp>
#include <courier/nearest.hpp>

#include <courier/fault.hpp>
#include <courier/query.hpp>

#include <algorithm>
#include <unordered_map>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

query_base& as_query(hub_post& post) noexcept {
    return *reinterpret_cast<query_base*>(post.object);
}

// By the library's own code: that of whoever made it may have been unloaded.
void end_post(hub_post& post) noexcept {
    if (post.end != nullptr) {
        post.end(post.source);
    } else if (post.ops == nullptr) {
        as_query(post).~query_base();
    } else {
        close_core(*post.core); // all that a channel's destructor does
    }
}

} // namespace

hub_watch::hub_watch(hub_core& of, std::function<void(const port&)> call) : of_(&of), call_(std::move(call)) {
    of.each_port(call_);
    next_ = std::exchange(of.watches_, this);
}

hub_watch::~hub_watch() {
    if (of_ != nullptr) {
        hub_watch** at = &of_->watches_;
        while (*at != this) {
            at = &(*at)->next_;
        }
        *at = next_;
    }
}

struct text_index : std::unordered_multimap<std::string, hub_post*> {};

hub_core::hub_core(std::string_view name, hub_core* parent)
    : by_text_(make_owned<text_index>()), name_(name), parent_(parent) {
    if (parent_ != nullptr) {
        parent_->children_.push_back(this);
        overseer_ = parent_->overseer_;
    }
}

hub_core::~hub_core() {
    if (parent_ != nullptr) {
        std::erase(parent_->children_, this);
    }
    for (hub_watch* one = watches_; one != nullptr; one = one->next_) {
        one->of_ = nullptr;
    }
    for (hub_core* child : children_) {
        child->parent_ = nullptr;
        child->forget_parents();
    }
    children_.clear();
    known_count_ = 0; // what ends now and asks once more gets none of these
    by_text_->clear();
    while (!posts_.empty()) {
        const owned<hub_post> last = std::move(posts_.back());
        posts_.pop_back();
        end_post(*last);
    }
}

// What this hub and those below it found in parents that are gone.
void hub_core::forget_parents() noexcept {
    for (void*& object : known_) {
        if (object != nullptr && !made(object)) {
            bool stays = false;
            for (const hub_core* above = parent_; above != nullptr && !stays; above = above->parent_) {
                stays = above->made(object);
            }
            object = stays ? object : nullptr;
        }
    }
    for (hub_core* child : children_) {
        child->forget_parents();
    }
}

bool hub_core::made(const void* object) const noexcept {
    return std::any_of(posts_.begin(), posts_.end(), [=](const auto& post) { return post->object == object; });
}

hub_post* hub_core::own_post(std::uint32_t number) const noexcept {
    for (const auto& post : posts_) {
        if (post->number == number && !post->is_named) {
            return post.get();
        }
    }
    return nullptr;
}

hub_post* hub_core::find_by_text(std::uint32_t number, std::string_view text, bool only_named) const noexcept {
    const auto [begin, end] = by_text_->equal_range(std::string{text});
    const auto found = std::find_if(begin, end, [=](const auto& named) {
        return named.second->number == number && (named.second->is_named || !only_named);
    });
    return found != end ? found->second : nullptr;
}

void hub_core::set_overseer(std::uint32_t ledger) noexcept {
    overseer_ = ledger;
    for (hub_core* child : children_) {
        child->set_overseer(ledger);
    }
}

void hub_core::each_port(const std::function<void(const port&)>& visit) const {
    for (const auto& post : posts_) {
        // Its module may have been unloaded.
        visit({post->core, post->core->kind != nullptr ? post->ops : nullptr, post->value, post->source});
    }
    for (const hub_core* child : children_) {
        child->each_port(visit);
    }
}

void hub_core::know(std::uint32_t number, void* object) {
    if (known_.size() <= number) {
        known_.resize(number + 1);
        known_at_ = known_.data();
        known_count_ = static_cast<std::uint32_t>(known_.size());
    }
    known_[number] = object;
}

hub_post& hub_core::make(const hub_request& wanted, std::string_view name, bool named, std::source_location where) {
    if (!named) {
        know(wanted.number, nullptr); // takes its memory before anything is made
    }
    auto made = make_owned<hub_post>();
    made->ops = wanted.ops;
    made->is_named = named;
    made->number = wanted.number;
    made->type = wanted.type;
    made->made_at = place(where);
    reserve_by_halves(posts_, posts_.size() + 1);
    const auto entered = by_text_->emplace(name, made.get());
#if WIRED_COURIER_EXCEPTIONS
    try {
        made->core = open_core(name, wanted.kind, wanted.how, this);
    } catch (...) {
        by_text_->erase(entered);
        throw;
    }
#else
    static_cast<void>(entered);
    made->core = open_core(name, wanted.kind, wanted.how, this);
#endif
    wanted.construct(made->object, *made->core);
    posts_.push_back(std::move(made));
    hub_post& kept = *posts_.back();
    tell_watches({kept.core, kept.ops});
    return kept;
}

void* hub_core::find_value(std::uint32_t number, std::string_view text) const noexcept {
    for (const hub_core* at = this; at != nullptr; at = at->parent_) {
        if (const hub_post* there = at->find_by_text(number, text, true); there != nullptr) {
            return there->source;
        }
    }
    return nullptr;
}

void hub_core::take_value(const port& made, const hub_value& how, std::string_view text, std::source_location where) {
    auto post = make_owned<hub_post>();
    post->core = made.core;
    post->ops = made.ops;
    post->value = made.value;
    post->source = made.source;
    post->end = how.end;
    post->is_named = true;
    post->number = how.number;
    const std::string_view whole = how.type.substr(0, how.type.find('<'));
    post->type = whole.substr(whole.rfind(':') + 1); // such as "state"
    if (made.value->after != nullptr) {
        post->type.append("<").append(made.value->type).append(">");
    }
    post->made_at = place(where);
    report_clash(post->type, text, where);
    reserve_by_halves(posts_, posts_.size() + 1);
    by_text_->emplace(text, post.get());
    posts_.push_back(std::move(post));
}

void hub_core::tell_watches(const port& made) const {
    first_failure failed;
    for (const hub_core* at = this; at != nullptr; at = at->parent_) {
        for (const hub_watch* one = at->watches_; one != nullptr; one = one->next_) {
            failed.run([&] { one->call_(made); });
        }
    }
    failed.rethrow();
}

void* hub_core::open(const hub_request& wanted, std::source_location where) {
    void* found = find_anywhere(wanted);
    if (found == nullptr) {
        return open_own(wanted, where);
    }
    know(wanted.number, found);
    return found;
}

void* hub_core::open_own(const hub_request& wanted, std::source_location where) {
    if (hub_post* there = own_post(wanted.number); there != nullptr) {
        return there->object;
    }
    hub_post& made = make(wanted, wanted.type, false, where);
    know(wanted.number, made.object);
    report_hidden_below(wanted, where);
    return made.object;
}

void* hub_core::open_named(const hub_request& wanted, std::string_view text, std::source_location where) {
    for (const hub_core* at = this; at != nullptr; at = at->parent_) {
        if (hub_post* there = at->find_by_text(wanted.number, text, true); there != nullptr) {
            return there->object;
        }
    }
    report_clash(wanted.type, text, where);
    return make(wanted, text, true, where).object;
}

void* hub_core::find_anywhere(const hub_request& wanted) const noexcept {
    for (const hub_core* at = this; at != nullptr; at = at->parent_) {
        if (hub_post* there = at->own_post(wanted.number); there != nullptr) {
            return there->object;
        }
    }
    return nullptr;
}

void* hub_core::find_text(const hub_request& wanted, std::string_view text, std::source_location where) const {
    std::string other;
    for (const hub_core* at = this; at != nullptr; at = at->parent_) {
        if (hub_post* there = at->find_by_text(wanted.number, text); there != nullptr) {
            return there->object;
        }
        if (const auto found = at->by_text_->find(std::string{text}); found != at->by_text_->end() && other.empty()) {
            other = found->second->type;
        }
    }
    std::string what =
        "hub '" + name_ + "' has no channel '" + std::string{text} + "' of '" + std::string{wanted.type} + "'";
    std::string advice = "make it with hub::channel(), or look in hub::list() for its name";
    if (!other.empty()) {
        what += ", but one of '" + other + "'";
        advice = "ask for that payload, or use another name";
    } else {
        advice = did_you_mean(text, names_of(wanted), std::move(advice));
    }
    raise(fault_code::unknown_channel, severity::refused, std::move(what), std::move(advice), where);
    return nullptr;
}

std::string_view hub_core::type_named(std::string_view text) const {
    for (const hub_core* at = this; at != nullptr; at = at->parent_) {
        if (const auto found = at->by_text_->find(std::string{text}); found != at->by_text_->end()) {
            return found->second->type;
        }
    }
    return {};
}

std::vector<std::string> hub_core::names_of(const hub_request& wanted) const {
    std::vector<std::string> names;
    for (const hub_core* at = this; at != nullptr; at = at->parent_) {
        for (const auto& post : at->posts_) {
            if (post->type == wanted.type) {
                names.push_back(post->core->name);
            }
        }
    }
    return names;
}

// Somebody below asked earlier and was given another one.
void hub_core::report_hidden_below(const hub_request& wanted, std::source_location where) const {
    for (const hub_core* child : children_) {
        if (const hub_post* there = child->own_post(wanted.number); there != nullptr) {
            raise(fault_code::channel_hidden, severity::notice,
                  "hub '" + name_ + "' makes '" + std::string{wanted.type} + "', but hub '" + child->name_ +
                      "' below it made its own at " + there->made_at +
                      ", and neither hears what is published on the other",
                  "ask '" + name_ + "' for the channel first, or use own_channel()", where);
        }
        child->report_hidden_below(wanted, where);
    }
}

void hub_core::report_clash(std::string_view type, std::string_view text, std::source_location where) const {
    for (const hub_core* at = this; at != nullptr; at = at->parent_) {
        if (const auto found = at->by_text_->find(std::string{text}); found != at->by_text_->end()) {
            raise(fault_code::name_clash, severity::notice,
                  "hub '" + name_ + "' is asked for '" + std::string{text} + "' of '" + std::string{type} +
                      "', but that is the name of a '" + found->second->type + "' made at " + found->second->made_at +
                      ", so there are two of that name now",
                  "give one of them another name", where);
            return;
        }
    }
}

std::vector<hub_line> hub_core::list() const {
    std::vector<hub_line> lines;
    for (const auto& post : posts_) {
        const hub_kind kind = post->end != nullptr   ? hub_kind::value
                              : post->ops == nullptr ? hub_kind::query
                                                     : hub_kind::channel;
        const std::size_t count = kind == hub_kind::query ? as_query(*post).answerers() : post->core->live;
        lines.push_back({post->core->name, post->type, kind, count, post->made_at});
    }
    return lines;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
