// What is shown, on its way out: packed by the game's thread, written by another one.
// SPDX-License-Identifier: MIT
#pragma once

#include "data/chunk_queue.hpp"
#include "data/json_writer.hpp"
#include "data/packed.hpp"
#include "gateway/stream/stream_memory.hpp"

#include <courier/data/detail/sources.hpp>
#include <courier/gateway/gateway_options.hpp>

#include <atomic>
#include <cstdint>
#include <deque>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

class value_stream;

/// Where what is shown goes; it stays where it is for as long as the stream.
class shown_place final : public payload_taker {
public:
    shown_place(value_stream& its_stream, std::uint32_t its_number, const shown_source& what)
        : number(its_number), fields(what.fields), state(what.state), to_(its_stream) {}
    void take(const void* payload, address_label to) override;

    const std::uint32_t number;
    const field_table* const fields;
    const value_type* const state;

private:
    value_stream& to_;
};

/// As the writing thread knows it: text, since the module that it is from may go.
struct written_source {
    std::string subject; ///< quoted
    bool is_state = false;
    bool keeps_latest = false;
    std::vector<schema_node> schema; ///< of the fields
    schema_node value;               ///< of the state's value
};

class value_stream {
public:
    value_stream(std::string_view source, const gateway_options& options);
    value_stream(const value_stream&) = delete;
    value_stream& operator=(const value_stream&) = delete;
    ~value_stream();

    // On the game's thread.
    shown_place* add(const shown_source& what);
    void put(const shown_place& from, const void* value, address_label to);
    /// Hands over what was put since the last time.
    void hand_over();

    // From any.
    [[nodiscard]] const stream_memory& memory() const noexcept { return memory_; }
    [[nodiscard]] std::vector<std::string> names() const;
    [[nodiscard]] std::uint64_t left_out() const noexcept { return told_left_out_.load(std::memory_order_relaxed); }
    /// Nothing more will come; readers are told.
    void close();

private:
    void tell_left_out();
    void run();
    void write(const chunk& next);
    void write_message(packed_reader& in, message_batch& batch, std::vector<kept_message>& kept);
    const written_source& known(std::uint32_t number);

    const std::string source_; ///< as a URI reference, quoted
    stream_memory memory_;
    chunk_queue queue_;

    // The game's thread's own.
    std::deque<shown_place> places_;
    packed_bytes now_;
    std::uint64_t left_out_ = 0;
    std::uint32_t frame_ = 0;
    const std::size_t most_waiting_;
    std::string address_;
    std::atomic<std::uint64_t> told_left_out_{0};

    mutable std::mutex guard_; ///< of the next
    std::deque<written_source> sources_;
    std::vector<std::string> names_;

    // The writing thread's own.
    std::vector<const written_source*> known_;
    fmt::memory_buffer line_;
    std::uint64_t skip_ = 0; ///< numbers of those that were left out, before the next message
    std::thread thread_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
