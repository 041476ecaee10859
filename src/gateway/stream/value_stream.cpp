// SPDX-License-Identifier: MIT
#include "gateway/stream/value_stream.hpp"

#include "data/json_text.hpp"
#include "data/pack_value.hpp"

#include <courier/detail/base/in_use.hpp>

#include <algorithm>
#include <iterator>
#include <limits>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

void shown_place::take(const void* payload, address_label to) {
    to_.put(*this, payload, to);
}

value_stream::value_stream(std::string_view source, const gateway_options& options)
    : source_(as_source(source)), memory_(options.max_remembered), queue_(options.max_waiting),
      most_waiting_(options.max_waiting), thread_([this] { run(); }) {}

value_stream::~value_stream() {
    queue_.end();
    thread_.join();
}

shown_place* value_stream::add(const shown_source& what) {
    for (std::size_t i = 0; i < places_.size(); ++i) { // what comes again goes on
        if (names_[i] == what.name && places_[i].fields == what.fields && places_[i].state == what.state) {
            return &places_[i];
        }
    }
    written_source made;
    made.subject = quoted_json(what.name);
    made.is_state = what.state != nullptr;
    made.keeps_latest = what.keeps_latest;
    if (what.state != nullptr) {
        made.value = node_of(*what.state);
    } else if (what.fields != nullptr) {
        made.schema = nodes_of(*what.fields);
    }
    const std::lock_guard lock(guard_);
    sources_.push_back(std::move(made));
    names_.emplace_back(what.name);
    return &places_.emplace_back(*this, static_cast<std::uint32_t>(sources_.size() - 1), what);
}

// Without memory it is left out as a whole.
void value_stream::put(const shown_place& from, const void* value, address_label to) {
    std::size_t before = now_.size();
    if (before > most_waiting_) {
        ++left_out_;
        return;
    }
    bool is_whole = false;
    if_memory_allows([&] {
        tell_left_out(); // which came before this
        before = now_.size();
        now_.put(from.number);
        now_.put(frame_);
        address_.clear();
        if (to.address != nullptr) {
            to.write(to.address, address_);
        }
        now_.put_text(address_);
        if (from.state != nullptr) {
            pack_value(*from.state, value, now_);
        } else if (from.fields != nullptr) {
            pack_fields(*from.fields, value, now_);
        }
        is_whole = true;
    });
    if (!is_whole) {
        now_.bytes().resize(before);
        ++left_out_;
    }
}

void value_stream::tell_left_out() {
    if (left_out_ != 0) {
        now_.put(std::numeric_limits<std::uint32_t>::max());
        now_.put(std::exchange(left_out_, 0));
    }
}

void value_stream::hand_over() {
    if (now_.size() <= most_waiting_) {
        if_memory_allows([&] { tell_left_out(); });
    }
    if (now_.size() != 0) {
        queue_.give(now_.bytes(), false); // what is not taken stays, up to its bound
    }
    frame_ = std::min(frame_ + 1, static_cast<std::uint32_t>(std::numeric_limits<std::int32_t>::max()));
}

std::vector<std::string> value_stream::names() const {
    const std::lock_guard lock(guard_);
    return names_;
}

void value_stream::close() {
    memory_.close();
}

void value_stream::run() {
    for (chunk next; queue_.take(next);) {
        if_memory_allows([&] { write(next); });
        queue_.done(std::move(next));
    }
}

const written_source& value_stream::known(std::uint32_t number) {
    if (number >= known_.size()) {
        const std::lock_guard lock(guard_);
        while (known_.size() < sources_.size()) {
            known_.push_back(&sources_[known_.size()]); // which stay where they are
        }
    }
    return *known_[number];
}

void value_stream::write(const chunk& next) {
    message_batch batch;
    batch.first = memory_.next() + skip_;
    std::vector<kept_message> kept;
    packed_reader in(next.data(), next.data() + next.size());
    while (!in.empty()) {
        write_message(in, batch, kept);
    }
    if (!batch.marks.empty()) {
        memory_.add(std::move(batch), std::move(kept));
    }
}

void value_stream::write_message(packed_reader& in, message_batch& batch, std::vector<kept_message>& kept) {
    const auto number = in.take<std::uint32_t>();
    if (number == std::numeric_limits<std::uint32_t>::max()) {
        const auto left_out = in.take<std::uint64_t>();
        told_left_out_.fetch_add(left_out, std::memory_order_relaxed);
        if (!batch.marks.empty()) { // numbers of one batch have no gaps
            memory_.add(std::exchange(batch, {}), std::exchange(kept, {}));
        }
        skip_ += left_out;
        batch.first = memory_.next() + skip_;
        return;
    }
    const written_source& from = known(number);
    const auto frame = in.take<std::uint32_t>();
    const std::string_view address = in.take_text();
    const std::uint64_t id = batch.past();
    skip_ = 0;
    line_.clear();
    fmt::format_to(std::back_inserter(line_),
                   R"(data: {{"specversion":"1.0","id":"{}-{}","source":{},"type":"wired-courier.{}","subject":{},)"
                   R"("frame":{},)",
                   memory_.run(), id, source_, from.is_state ? "value" : "payload", from.subject, frame);
    if (!address.empty()) {
        write_raw(line_, R"("address":)");
        write_text(line_, address);
        write_raw(line_, ",");
    }
    write_raw(line_, R"("data":)");
    if (from.is_state) {
        write_raw(line_, R"({"value":)");
        write_value(line_, in, &from.value);
        write_raw(line_, "}");
    } else {
        write_fields(line_, in, from.schema);
    }
    write_raw(line_, "}\n\n");
    batch.marks.push_back({number, static_cast<std::uint32_t>(batch.text.size())});
    fmt::format_to(std::back_inserter(batch.text), "id: {}-{}\n", memory_.run(), id);
    batch.text.append(line_.data(), line_.size());
    if (from.keeps_latest) {
        kept.emplace_back(number, std::string(line_.data(), line_.size()));
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
