#include "gateway/stream/run_stream.hpp"

#include <courier/detail/base/in_use.hpp>

#include <nlohmann/json.hpp>

#include <cstring>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

/// The type of a line without what all have in front; no other part of a line looks
/// like it before it comes.
std::string_view type_of(std::string_view line) noexcept {
    constexpr std::string_view before = R"("type":"wired-courier.)";
    const std::size_t found = line.find(before);
    const std::size_t begin = found + before.size();
    return found != std::string_view::npos ? line.substr(begin, line.find('"', begin) - begin) : std::string_view();
}

/// Keys of what is kept, in the order in which it is told.
enum class part : std::uint64_t { run, channel, subscription, pause, systems, phases, waiting, accepted };

std::uint64_t key_of(part which, std::uint32_t number = 0) {
    return static_cast<std::uint64_t>(which) << 32 | number;
}

} // namespace

void run_so_far::take(std::string_view line, std::vector<kept_message>& changed) {
    const std::string_view type = type_of(line);
    if (type == "event" || type == "post") {
        return;
    }
    const auto keep = [&](part which, std::uint32_t number = 0) {
        changed.emplace_back(key_of(which, number), "data: " + std::string(line) + "\n\n");
    };
    if (type == "recording") {
        keep(part::run);
    } else if (type == "systems") {
        keep(part::systems);
    } else if (type == "phases") {
        keep(part::phases);
    } else if (type == "waiting") {
        keep(part::waiting);
    } else if (type == "accepted") {
        keep(part::accepted);
    } else if (type != "frame") {
        const nlohmann::json read = nlohmann::json::parse(line, nullptr, false);
        const auto subscription = [&] { return read.at("data").value("subscription", std::uint32_t{0}); };
        if (type == "channel") {
            keep(part::channel, read.value(std::string(channel_link::number_key), std::uint32_t{0}));
        } else if (type == "subscribed") {
            keep(part::subscription, subscription());
        } else if (type == "paused") {
            keep(part::pause, subscription());
        } else if (type == "resumed") {
            changed.emplace_back(key_of(part::pause, subscription()), std::string());
        } else if (type == "ended") {
            changed.emplace_back(key_of(part::pause, subscription()), std::string());
            changed.emplace_back(key_of(part::subscription, subscription()), std::string());
        }
    }
}

run_stream::run_stream(ledger_core& of, const gateway_options& options)
    : most_waiting_(options.most_waiting), memory_(options.most_remembered), queue_(options.most_waiting),
      thread_([this] { run(); }) {
    record_from(of, {{"live", "yes"}});
    pack_state();
}

run_stream::~run_stream() {
    end();
    hand_over();
    queue_.end();
    thread_.join();
}

void run_stream::event_is_packed() {
    if (now_.size() >= usual_chunk) [[unlikely]] {
        hand_over();
    }
}

void run_stream::hand_over() {
    if (now_.size() != 0) {
        queue_.give(now_.bytes(), false); // what is not taken stays, up to its bound
    }
}

void run_stream::close() {
    memory_.close();
}

void run_stream::run() {
    for (chunk next; queue_.take(next);) {
        if_memory_allows([&] { write(next); });
        queue_.done(std::move(next));
    }
}

void run_stream::write(const chunk& next) {
    lines_.clear();
    writer_.write(packed_reader(next.data(), next.data() + next.size()), lines_);
    message_batch batch;
    batch.first = memory_.next();
    std::vector<kept_message> kept;
    const std::string_view all(lines_.data(), lines_.size());
    for (std::size_t at = 0; at < all.size();) {
        const std::size_t end = all.find('\n', at);
        const std::string_view line = all.substr(at, end - at);
        so_far_.take(line, kept);
        const std::uint64_t id = batch.past();
        batch.marks.push_back({0, static_cast<std::uint32_t>(batch.text.size())});
        batch.text += fmt::format("id: {}-{}\ndata: ", memory_.run(), id);
        batch.text += line;
        batch.text += "\n\n";
        at = end + 1;
    }
    memory_.add(std::move(batch), std::move(kept));
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
