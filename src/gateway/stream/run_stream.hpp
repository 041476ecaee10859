// All that a ledger tells, as the lines of a recording, for readers that come late, too.
#pragma once

#include "data/chunk_queue.hpp"
#include "gateway/stream/stream_memory.hpp"
#include "recording/write/event_packer.hpp"
#include "recording/write/line_writer.hpp"

#include <courier/gateway/gateway_options.hpp>

#include <cstdint>
#include <string>
#include <string_view>
#include <thread>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// What one who comes late has to know of the lines so far: the run, its channels and
/// live subscriptions, and the latest state.
class run_so_far {
public:
    /// What a line changes in that.
    void take(std::string_view line, std::vector<kept_message>& changed);
};

/// Takes what the ledger tells, and leaves out what there is no room for.
class run_stream final : public event_packer {
public:
    run_stream(ledger_core& of, const gateway_options& options);
    ~run_stream() override;

    void hand_over();
    void close();
    /// The ledger is gone.
    [[nodiscard]] bool is_over() const noexcept { return is_over_; }
    [[nodiscard]] const stream_memory& memory() const noexcept { return memory_; }

private:
    [[nodiscard]] bool is_behind() override { return now_.size() > most_waiting_; }
    void event_is_packed() override;
    [[nodiscard]] std::uint64_t state_every() const override { return 16; } // somebody looks at it
    void over() noexcept override {
        is_over_ = true;
        event_packer::over();
    }
    void run();
    void write(const chunk& next);

    const std::size_t most_waiting_;
    bool is_over_ = false;
    stream_memory memory_;
    chunk_queue queue_;
    line_writer writer_;
    fmt::memory_buffer lines_;
    run_so_far so_far_;
    std::thread thread_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
