// SPDX-License-Identifier: MIT
#include "gateway/gateway_core.hpp"

#include "data/named_place.hpp"

#include "gateway/serve/router.hpp"

#include <courier/data/detail/shape.hpp>

#include <fmt/format.h>

#include <chrono>
#include <filesystem>
#include <system_error>
#include <thread>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

std::string last_part(std::string_view type) {
    const std::string plain = plain_type_name(type);
    const std::size_t colon = plain.rfind("::");
    return colon == std::string::npos ? plain : plain.substr(colon + 2);
}

channel_entry entry_of(const shown_source& what) {
    channel_entry made{std::string(what.name), {}, last_part(what.address_type), what.state != nullptr};
    if (what.state != nullptr) {
        made.payload.kind = value_kind::object;
        made.payload.fields.push_back({"value", shape_of(*what.state)});
    } else {
        made.payload = shape_of(what.fields, what.type);
    }
    return made;
}

} // namespace

shown_ledger::shown_ledger(ledger& of, const gateway_options& options) : stream(of, options), of_(of) {}

books shown_ledger::read() const {
    return stream.is_over() ? books{} : of_.read();
}

gateway_core::gateway_core(gateway_options its_options)
    : options(std::move(its_options)), readers(options.max_readers, options.max_readers_each),
      door(options, options.token.empty() ? make_token() : options.token), values(options.name, options),
      calls(options), latest_catalogue(calls, std::chrono::milliseconds(250), [this] { return list(); }),
      latest_books(calls, std::chrono::seconds(1), [this] { return run != nullptr ? run->read() : books{}; }),
      wires(calls), server_(std::make_unique<http_server>(options, [this](gateway_code why) { counts.refuse(why); })) {
    if (std::error_code wrong; !options.folder.empty() && !std::filesystem::is_directory(options.folder, wrong)) {
        throw gateway_error(gateway_code::no_folder, "there is no such folder", options.folder.string(),
                            "name one whose files pages may read, or none");
    }
    set_routes(*server_, *this);
    const int port = server_->start();
    door.listens_at(port);
    address = fmt::format("http://{}:{}/",
                          options.host.find(':') != std::string::npos ? "[" + options.host + "]" : options.host, port);
}

// Readers get what is left, and are told; then whoever is still there is cut off.
gateway_core::~gateway_core() {
    calls.close();
    values.hand_over();
    values.close();
    if (run != nullptr) {
        run->stream.hand_over();
        run->stream.close();
    }
    constexpr auto at_most = std::chrono::milliseconds(50);
    const auto begun = std::chrono::steady_clock::now();
    while (readers.taken() != 0 && std::chrono::steady_clock::now() - begun < at_most) {
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    server_->end();
}

shown_place* gateway_core::add_source(const shown_source& what) {
    std::erase_if(shown, [&](const channel_entry& one) { return one.name == what.name; });
    shown.push_back(entry_of(what));
    return values.add(what);
}

void gateway_core::show(ledger& all) {
    if (run == nullptr) {
        run = std::make_unique<shown_ledger>(all, options);
        has_run.store(true, std::memory_order_release);
    }
}

// A call may be the end of all this; a handler of refusals, too.
std::size_t gateway_core::take_in(const std::weak_ptr<gateway_core>& own) {
    const std::size_t taken = calls.take_in();
    if (own.expired()) {
        return taken;
    }
    tell_refusals();
    if (own.expired()) {
        return taken;
    }
    values.hand_over();
    if (run != nullptr) {
        run->stream.hand_over();
    }
    return taken;
}

void gateway_core::tell_refusals() {
    for (std::size_t i = 0; i < gateway_refusals; ++i) {
        const std::uint64_t all = counts.refused[i].load(std::memory_order_relaxed);
        if (const std::uint64_t before = std::exchange(told_[i], all); all != before) {
            refused.publish({static_cast<gateway_code>(i), all - before}, named_place("gateway", 0));
        }
    }
}

catalogue gateway_core::list() const {
    catalogue all;
    all.program = options.name;
    all.channels = shown;
    accepted.list(all);
    return all;
}

gateway_report gateway_core::report() const {
    gateway_report made;
    made.requests = counts.requests.load(std::memory_order_relaxed);
    made.calls = calls.carried_out();
    made.events = values.memory().next() - 1 - values.left_out();
    made.left_out = values.left_out();
    made.connections = server_->connections();
    made.readers = readers.taken();
    for (std::size_t i = 0; i < gateway_refusals; ++i) {
        made.refused[i] = counts.refused[i].load(std::memory_order_relaxed);
    }
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
