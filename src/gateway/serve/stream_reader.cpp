// SPDX-License-Identifier: MIT
#include "gateway/serve/stream_reader.hpp"

#include "gateway/serve/answers.hpp"

#include "data/json_text.hpp"

#include <courier/nearest.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <chrono>
#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

using wanted_source = std::function<bool(std::uint32_t)>;

class stream_reader {
public:
    /// Has the place that was taken for a reader at the address of `request`.
    stream_reader(gateway_core& core, const stream_memory& from, const httplib::Request& request, bool with_latest,
                  wanted_source wanted)
        : core_(core), from_(from), address_(request.remote_addr), source_(as_source(core.options.name)),
          last_(request.get_header_value("Last-Event-ID")), with_latest_(with_latest), wanted_(std::move(wanted)) {}
    stream_reader(const stream_reader&) = delete;
    stream_reader& operator=(const stream_reader&) = delete;
    ~stream_reader() { core_.readers.give_back(address_); }

    /// Writes what there is; false when the reader is gone.
    bool go_on(httplib::DataSink& to) {
        if (!has_begun_) {
            http_server::connection().is_reader();
            has_begun_ = true;
            return begin(to);
        }
        const stream_memory::taken news = from_.take(next_, std::chrono::milliseconds(500));
        if (news.lost != 0) { // it was too slow
            core_.counts.refuse(gateway_code::reader_dropped);
            say(to, "dropped", news.lost);
            to.done();
            return true;
        }
        if (news.left_out != 0 && !say(to, "missed", news.left_out)) {
            return false;
        }
        std::uint64_t from = news.from;
        for (const shared_batch& one : news.batches) {
            if (!write(to, *one, std::exchange(from, one->past()))) {
                return false;
            }
        }
        if (news.batches.empty() && news.is_over) {
            say(to, "over", 0);
            to.done();
            return true;
        }
        return !news.batches.empty() || is_still_there(to);
    }

    void ended(bool well) {
        if (!well && http_server::connection().has_stalled()) {
            core_.counts.refuse(gateway_code::reader_dropped);
        }
    }

private:
    bool begin(httplib::DataSink& to) {
        const stream_memory::beginning all = from_.begin(last_, with_latest_, wanted_);
        next_ = all.next;
        // What it is told first is of this run, too.
        const std::uint64_t before = all.batches.empty() ? next_ : all.batches.front()->first;
        std::string text = fmt::format("retry: 500\nid: {}-{}\n\n", from_.run(), before - 1);
        if (all.is_other_run || all.lost != 0) {
            text += note("missed", all.lost);
        }
        if (with_latest_) { // what is kept says what the messages are about
            append_kept(all, text);
        }
        bool is_fine = to.write(text.data(), text.size());
        for (const shared_batch& one : all.batches) {
            is_fine = is_fine && write(to, *one, one->first);
        }
        text.clear();
        if (!with_latest_) { // states are as of now, after all that led to it
            append_kept(all, text);
        }
        text += fmt::format("id: {}-{}\n\n", from_.run(), next_ - 1);
        return is_fine && to.write(text.data(), text.size());
    }

    static void append_kept(const stream_memory::beginning& all, std::string& text) {
        for (const std::string& one : all.kept) {
            text += one;
        }
    }

    bool write(httplib::DataSink& to, const message_batch& batch, std::uint64_t from) {
        last_write_ = std::chrono::steady_clock::now();
        if (!wanted_) {
            const std::string_view all = batch.from(from);
            return all.empty() || to.write(all.data(), all.size());
        }
        std::string some;
        batch.append_wanted(from, wanted_, some);
        return some.empty() || to.write(some.data(), some.size());
    }

    // A comment, so that either side finds out when the other one is gone.
    bool is_still_there(httplib::DataSink& to) {
        const auto now = std::chrono::steady_clock::now();
        if (now - last_write_ < std::chrono::seconds(5)) {
            return true;
        }
        last_write_ = now;
        constexpr std::string_view nothing = ":\n\n";
        return to.write(nothing.data(), nothing.size());
    }

    // Of its own, apart from what is sent to all: a CloudEvent, too.
    [[nodiscard]] std::string note(std::string_view type, std::uint64_t events) {
        return fmt::format("event: {}\ndata: {{\"specversion\":\"1.0\",\"id\":\"{}-note-{}\",\"source\":{},"
                           "\"type\":\"wired-courier.{}\",\"data\":{{\"events\":{}}}}}\n\n",
                           type, from_.run(), ++notes_, source_, type, events);
    }
    bool say(httplib::DataSink& to, std::string_view type, std::uint64_t events) {
        const std::string text = note(type, events);
        return to.write(text.data(), text.size());
    }

    gateway_core& core_;
    const stream_memory& from_;
    const std::string address_;
    const std::string source_;
    const std::string last_;
    const bool with_latest_;
    const wanted_source wanted_; ///< empty: all
    std::uint64_t next_ = 0;
    std::uint64_t notes_ = 0;
    bool has_begun_ = false;
    std::chrono::steady_clock::time_point last_write_ = std::chrono::steady_clock::now();
};

/// A browser hides from its scripts why a stream was refused, so the answer is a stream that
/// carries the reason. Other programs get the refusal itself.
void refuse_stream(gateway_core& core, const httplib::Request& request, httplib::Response& response,
                   const reply& refused) {
    send(core, response, refused);
    if (request.has_header("Sec-Fetch-Mode") &&
        request.get_header_value("Accept").find("text/event-stream") != std::string::npos) {
        response.status = 200;
        response.set_content("retry: 60000\nevent: refused\ndata: " + refused.body + "\n\n", "text/event-stream");
    }
}

void answer(gateway_core& core, const httplib::Request& request, httplib::Response& response, const stream_memory& from,
            bool with_latest, wanted_source wanted) {
    if (!core.readers.take(request.remote_addr)) {
        refuse_stream(core, request, response,
                      refuse(gateway_code::too_many_connections,
                             "there are as many readers as there may be, in all or from your address"));
        return;
    }
    const auto reader = std::make_shared<stream_reader>(core, from, request, with_latest, std::move(wanted));
    response.set_header("Cache-Control", "no-store");
    response.set_chunked_content_provider(
        "text/event-stream", [reader](std::size_t, httplib::DataSink& to) { return reader->go_on(to); },
        [reader](bool well) { reader->ended(well); });
}

reply unknown_name(const std::string& name, const std::vector<std::string>& names) {
    return refuse(gateway_code::unknown_path, "nothing is shown under the name '" + name + "'; " +
                                                  did_you_mean(name, names, "GET /catalogue has all names"));
}

} // namespace

reply value_of(gateway_core& core, const std::string& name) {
    const std::vector<std::string> names = core.values.names();
    const auto found = std::find(names.rbegin(), names.rend(), name); // the latest of its name
    if (found == names.rend()) {
        return unknown_name(name, names);
    }
    const auto number = static_cast<std::uint32_t>(names.rend() - found - 1);
    const std::vector<std::string> kept =
        core.values.memory().begin({}, false, [number](std::uint32_t one) { return one == number; }).kept;
    constexpr std::string_view head = "data: ";
    if (kept.empty() || !kept.back().starts_with(head)) {
        return refuse(gateway_code::unknown_path, "'" + name + "' has no latest value; GET /events has its payloads");
    }
    return as_reply(nlohmann::json::parse(kept.back().substr(head.size())).at("data"));
}

void answer_with_values(gateway_core& core, const httplib::Request& request, httplib::Response& response) {
    const std::size_t count = request.get_param_value_count("channel");
    const std::vector<std::string> names = core.values.names();
    std::vector<bool> wanted(count != 0 ? names.size() : 0);
    for (std::size_t i = 0; i < count; ++i) {
        const std::string one = request.get_param_value("channel", i);
        const auto found = std::find(names.begin(), names.end(), one);
        if (found == names.end()) {
            refuse_stream(core, request, response, unknown_name(one, names));
            return;
        }
        for (auto each = found; each != names.end(); each = std::find(each + 1, names.end(), one)) {
            wanted[static_cast<std::size_t>(each - names.begin())] = true;
        }
    }
    answer(
        core, request, response, core.values.memory(), false,
        count == 0 ? wanted_source()
                   : [own = std::move(wanted)](std::uint32_t source) { return source < own.size() && own[source]; });
}

void answer_with_run(gateway_core& core, const httplib::Request& request, httplib::Response& response) {
    if (!core.has_run.load(std::memory_order_acquire)) {
        refuse_stream(core, request, response,
                      refuse(gateway_code::unknown_path, "no ledger is shown; the game has to say out.show(ledger)"));
        return;
    }
    answer(core, request, response, core.run->stream.memory(), true, {});
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
