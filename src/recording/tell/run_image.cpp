// SPDX-License-Identifier: MIT
#include <courier/recording/run_image.hpp>

#include <courier/data/json.hpp>

#include <algorithm>
#include <bit>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <map>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace {

static_assert(std::endian::native == std::endian::little, "courier: images are written as numbers lie in memory");

constexpr std::string_view mark = "wired-courier.image.1";

/// What a recording says of what there is, apart from events.
struct image_state {
    std::vector<waiting_books> waiting;
    std::vector<left_waiting_books> left_waiting;
    std::vector<system_books> systems;
    std::vector<phases_books> phases;
};

/// Puts parts behind one another. `read` is for what only the other direction does.
class image_writer {
public:
    static constexpr bool reads = false;

    template <class T>
        requires std::is_arithmetic_v<T>
    void operator()(const T& plain) {
        made_.append(reinterpret_cast<const char*>(&plain), sizeof plain);
    }
    void operator()(const std::string& text) {
        (*this)(static_cast<std::uint32_t>(text.size()));
        made_ += text;
    }
    template <class Item>
    void count(const std::vector<Item>& all) {
        (*this)(static_cast<std::uint32_t>(all.size()));
    }
    [[nodiscard]] std::string&& take() noexcept { return std::move(made_); }

private:
    std::string made_;
};

class image_reader {
public:
    static constexpr bool reads = true;

    explicit image_reader(std::string_view from) : left_(from) {}

    template <class T>
        requires std::is_arithmetic_v<T>
    void operator()(T& plain) {
        if (left_.size() < sizeof plain) {
            is_cut_ = true;
            plain = {};
            return;
        }
        std::memcpy(&plain, left_.data(), sizeof plain);
        left_.remove_prefix(sizeof plain);
    }
    void operator()(bool& plain) {
        std::uint8_t byte = 0;
        (*this)(byte);
        plain = byte != 0;
    }
    void operator()(std::string& text) {
        std::uint32_t size = 0;
        (*this)(size);
        is_cut_ = is_cut_ || size > left_.size();
        text = left_.substr(0, is_cut_ ? 0 : size);
        left_.remove_prefix(text.size());
    }
    template <class Item>
    void count(std::vector<Item>& all) {
        std::uint32_t count = 0;
        (*this)(count);
        is_cut_ = is_cut_ || count > left_.size(); // each item has a byte at least
        all.resize(is_cut_ ? 0 : count);
    }
    /// Else it is damaged.
    void expect(bool is_so) noexcept { is_cut_ = is_cut_ || !is_so; }
    [[nodiscard]] bool is_whole() const noexcept { return !is_cut_ && left_.empty(); }

private:
    std::string_view left_;
    bool is_cut_ = false;
};

/// The members of all items, one column after the other.
template <class Archive, class Items, class... Members>
void columns(Archive& with, Items& all, Members... members) {
    with.count(all);
    const auto column = [&](auto member) {
        for (auto& one : all) {
            with(one.*member);
        }
    };
    (column(members), ...);
}

// Lists of events are written in the order of these.
template <class Archive, class List, class Item, class... Members>
void lists(Archive& with, std::vector<recorded_event>& events, List& list, std::uint32_t recorded_event::*first,
           std::uint32_t recorded_event::*count, Members Item::*... members) {
    List ordered;
    if constexpr (Archive::reads) {
        columns(with, ordered, members...);
        std::size_t at = 0;
        for (recorded_event& one : events) {
            one.*first = static_cast<std::uint32_t>(at);
            at += one.*count;
        }
        with.expect(at == ordered.size());
        list = std::move(ordered);
    } else {
        ordered.reserve(list.size());
        for (const recorded_event& one : events) {
            const auto begin = list.begin() + one.*first;
            ordered.insert(ordered.end(), begin, begin + one.*count);
        }
        columns(with, ordered, members...);
    }
}

/// So that a plain number has a member to point to.
struct heard_one {
    std::uint32_t subscription;
};

template <class Archive>
void put_events(Archive& with, run& of) {
    using event = recorded_event;
    columns(with, of.events, &event::id, &event::cause, &event::frame, &event::channel, &event::at, &event::by,
            &event::maker, &event::to, &event::outbox, &event::in_handler, &event::stopped_by, &event::heard,
            &event::missed, &event::failed, &event::timed, &event::payload_size, &event::is_post, &event::combined,
            &event::turned_away, &event::stopped, &event::outside, &event::retained, &event::refused, &event::vacant,
            &event::is_cut);
    std::vector<heard_one> heard;
    if constexpr (!Archive::reads) {
        heard.reserve(of.heard.size());
        for (const std::uint32_t one : of.heard) {
            heard.push_back({one});
        }
    }
    lists(with, of.events, heard, &event::first_heard, &event::heard, &heard_one::subscription);
    if constexpr (Archive::reads) {
        of.heard.clear();
        for (const heard_one one : heard) {
            of.heard.push_back(one.subscription);
        }
    }
    lists(with, of.events, of.took, &event::first_took, &event::timed, &recorded_time::subscription,
          &recorded_time::ns);
}

/// Why a turn was missed, as a plain number.
struct miss_image {
    std::uint32_t subscription;
    std::uint8_t why;
};

template <class Archive>
void put_missed(Archive& with, run& of) {
    std::vector<miss_image> missed;
    if constexpr (!Archive::reads) {
        missed.reserve(of.missed.size());
        for (const recorded_miss& one : of.missed) {
            missed.push_back({one.subscription, static_cast<std::uint8_t>(one.why)});
        }
    }
    lists(with, of.events, missed, &recorded_event::first_missed, &recorded_event::missed, &miss_image::subscription,
          &miss_image::why);
    if constexpr (Archive::reads) {
        of.missed.clear();
        for (const miss_image one : missed) {
            of.missed.push_back({one.subscription, static_cast<turn>(one.why < turn_kinds ? one.why : 0)});
        }
    }
}

template <class Archive>
void put_payloads(Archive& with, run& of) {
    std::string ordered;
    if constexpr (!Archive::reads) {
        ordered.reserve(of.payloads.size());
        for (const recorded_event& one : of.events) {
            ordered += of.payload_of(one);
        }
        with(ordered);
    } else {
        with(of.payloads);
        std::uint64_t at = 0;
        for (recorded_event& one : of.events) {
            one.payload = at;
            at += one.payload_size;
        }
        with.expect(at == of.payloads.size());
    }
}

template <class Archive>
void put_texts(Archive& with, run& of) {
    std::vector<std::string> texts;
    if constexpr (!Archive::reads) {
        for (std::uint32_t i = 0; i < of.texts.size(); ++i) {
            texts.push_back(of.texts[i]);
        }
    }
    with.count(texts);
    for (std::string& one : texts) {
        with(one);
    }
    if constexpr (Archive::reads) {
        of.texts = {};
        for (const std::string& one : texts) {
            of.texts.number_of(one);
        }
    }
}

/// Maps are lists of pairs.
template <class Archive, class Map>
void put_map(Archive& with, Map& all, auto each) {
    std::vector<std::pair<typename Map::key_type, typename Map::mapped_type>> listed;
    if constexpr (!Archive::reads) {
        listed.assign(all.begin(), all.end());
    }
    with.count(listed);
    for (auto& [key, value] : listed) {
        with(key);
        each(value);
    }
    if constexpr (Archive::reads) {
        for (auto& [key, value] : listed) {
            all.insert_or_assign(std::move(key), std::move(value));
        }
    }
}

template <class Archive>
void put_parties(Archive& with, run& of) {
    using channel = recorded_channel;
    columns(with, of.channels, &channel::number, &channel::name, &channel::payload, &channel::hub, &channel::is_query,
            &channel::is_owned, &channel::open, &channel::published, &channel::deliveries, &channel::unheard,
            &channel::newest);
    put_map(with, of.subscriptions, [&](recorded_subscription& one) {
        with(one.number);
        with(one.channel);
        with(one.party);
        with(one.who);
        with(one.name);
        with(one.at);
        with(one.stage);
        with(one.to);
        with(one.since);
        with(one.until);
        with(one.after);
        with(one.closed);
        columns(with, one.pauses, &recorded_pause::from, &recorded_pause::until);
        for (std::uint64_t& turns : one.turns.of) {
            with(turns);
        }
    });
}

template <class Archive>
void put_state(Archive& with, run& of) {
    std::string state;
    if constexpr (!Archive::reads) {
        state = to_json(image_state{of.waiting, of.left_waiting, of.systems, of.phases});
    }
    with(state);
    if constexpr (Archive::reads) {
        image_state read;
        if (from_json(state, read).empty()) {
            of.waiting = std::move(read.waiting);
            of.left_waiting = std::move(read.left_waiting);
            of.systems = std::move(read.systems);
            of.phases = std::move(read.phases);
        }
    }
}

/// All of it, in either direction.
template <class Archive>
void put_run(Archive& with, run& of) {
    with(of.file);
    with(of.source);
    put_map(with, of.facts, [&](std::string& fact) { with(fact); });
    put_texts(with, of);
    put_parties(with, of);
    put_events(with, of);
    put_missed(with, of);
    put_payloads(with, of);
    put_map(with, of.origins, [&](recorded_origin& from) {
        with(from.process);
        with(from.run);
        with(from.event);
    });
    put_state(with, of);
    with(of.first_frame);
    with.count(of.frame_times);
    for (auto& time : of.frame_times) {
        with(time);
    }
    with(of.skipped);
    with(of.finished);
}

/// Whether all numbers are of something that is there.
bool is_sound(const run& of) {
    const auto is_text = [&](std::uint32_t number) { return number < of.texts.size(); };
    const auto is_channel = [&](std::uint32_t number) { return number < of.channels.size(); };
    return std::all_of(of.events.begin(), of.events.end(),
                       [&](const recorded_event& one) {
                           return is_channel(one.channel) && one.frame <= of.frames() && one.failed <= one.missed &&
                                  is_text(one.at) && is_text(one.by) && is_text(one.maker) && is_text(one.to) &&
                                  is_text(one.outbox);
                       }) &&
           std::all_of(of.subscriptions.begin(), of.subscriptions.end(),
                       [&](const auto& one) { return is_channel(one.second.channel) && is_text(one.second.who); });
}

} // namespace

std::string image_of(const run& of) {
    image_writer with;
    with(std::string(mark));
    put_run(with, const_cast<run&>(of)); // a writer changes nothing
    return with.take();
}

bool read_image(std::string_view image, run& into) {
    image_reader with(image);
    std::string own;
    with(own);
    if (own != mark) {
        return false;
    }
    put_run(with, into);
    return with.is_whole() && is_sound(into);
}

WIRED_COURIER_NAMESPACE_END
