// Everything that a gateway consists of.
// SPDX-License-Identifier: MIT
#pragma once

#include "gateway/ask/game_calls.hpp"
#include "gateway/ask/snapshot.hpp"
#include "gateway/ask/wiring_desk.hpp"
#include "gateway/http/doorkeeper.hpp"
#include "gateway/http/http_server.hpp"
#include "gateway/http/reader_slots.hpp"
#include "gateway/stream/run_stream.hpp"
#include "gateway/stream/value_stream.hpp"

#include <courier/books.hpp>
#include <courier/channel.hpp>
#include <courier/config.hpp>
#include <courier/gateway/gateway.hpp>
#include <courier/ledger.hpp>
#include <courier/wiring/console.hpp>

#include <array>
#include <atomic>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// How often each thing happened; counted by any thread.
struct gateway_counts {
    std::atomic<std::uint64_t> requests{0};
    std::array<std::atomic<std::uint64_t>, gateway_refusals> refused{};

    void refuse(gateway_code why) noexcept {
        refused[static_cast<std::size_t>(why)].fetch_add(1, std::memory_order_relaxed);
    }
};

/// A ledger that is shown, until either ends.
class shown_ledger final {
public:
    shown_ledger(ledger& of, const gateway_options& options);
    /// Empty books once the ledger is gone.
    [[nodiscard]] courier::books read() const;

    run_stream stream;

private:
    ledger& of_;
};

class gateway_core {
public:
    explicit gateway_core(gateway_options its_options);
    gateway_core(const gateway_core&) = delete;
    gateway_core& operator=(const gateway_core&) = delete;
    ~gateway_core();

    // On the game's thread.
    shown_place* add_source(const shown_source& what);
    void show(ledger& all);
    std::size_t take_in(const std::weak_ptr<gateway_core>& own);

    [[nodiscard]] catalogue list() const;
    [[nodiscard]] gateway_report report() const;

    const gateway_options options;
    std::string address;
    gateway_counts counts;
    reader_slots readers;
    channel<requests_refused> refused{"gateway.refused"};
    console accepted{"gateway"}; ///< the game's thread's own, as the next
    std::vector<channel_entry> shown;

    doorkeeper door;
    value_stream values;
    std::unique_ptr<shown_ledger> run; ///< made before the server answers anything about it
    std::atomic<bool> has_run{false};
    std::string recording; ///< as the page takes it; the same
    std::string recorded_findings;
    std::atomic<bool> has_recording{false};
    game_calls calls;
    snapshot<catalogue> latest_catalogue;
    snapshot<books> latest_books;
    wiring_desk wires;

private:
    void tell_refusals();

    std::array<std::uint64_t, gateway_refusals> told_{};
    std::unique_ptr<http_server> server_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
