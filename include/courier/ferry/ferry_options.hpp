// How a ferry finds its broker, and what it puts up with.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/ferry/guarantee.hpp>

#include <chrono>
#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <string>

WIRED_COURIER_NAMESPACE_BEGIN

/// Whether what goes to the broker is encrypted, and the broker known for certain.
enum class link_security : std::uint8_t {
    by_host, ///< `tls`, unless the host is this machine itself
    tls,     ///< and a broker whose certificate is not in order is not talked to
    none,    ///< everybody on the way can read and change the messages
};

/// Written as `{.process = "reef-1", .host = "broker.gannet.example"}`. Whatever waits
/// or grows has its bound here.
struct ferry_options {
    /// The name of this process; no two of one broker's may have the same name. The
    /// broker keeps messages for it by this name while it is away. 1 to 64 letters,
    /// digits, '.', '_' and '-'.
    std::string process;

    std::string host = "127.0.0.1";
    int port = 0; ///< 0: 8883 with TLS, else 1883
    link_security security = link_security::by_host;
    std::filesystem::path authorities = {}; ///< PEM; who may vouch for the broker; empty: whom the system trusts
    std::filesystem::path certificate = {}; ///< PEM; this process's own, where the broker wants one
    std::filesystem::path key = {};         ///< PEM; that certificate's
    std::string user = {};
    std::string password = {};

    /// The topic below which processes tell each other that they come and go, such as
    /// "gannet/processes"; empty: they do not, and `ferry::peers()` is silent.
    std::string processes_topic = {};

    std::chrono::seconds keep_alive{10};     ///< a link on which nothing comes for twice as long is given up
    std::chrono::seconds session_time{3600}; ///< for this long the broker keeps messages for the process
    std::chrono::seconds absence{2}; ///< a link may be broken this long before others hear that the process died
    std::chrono::milliseconds min_retry{100}; ///< between tries to connect: twice as long each time
    std::chrono::milliseconds max_retry{5000};
    /// A broker that is killed may have forgotten what it confirmed so shortly before: so much
    /// is sent again when a link has broken. Those to whom it was promised exactly once
    /// recognise it.
    std::chrono::milliseconds sent_again{1500};
    std::chrono::milliseconds ending{250}; ///< the ferry's end may take this long, for unsent payloads

    /// Bytes that may wait for the broker, about; as many again may be what it has lately confirmed,
    /// and what it keeps.
    std::size_t max_waiting = std::size_t{8} << 20;
    /// Where more may wait, and what waits outlives the process: CloudEvents, one per line.
    /// Empty: nowhere. One process's own. It holds at most `max_in_file` bytes.
    std::filesystem::path waiting_file = {};
    std::size_t max_in_file = std::size_t{64} << 20;
    /// Sent, and not yet confirmed by the broker.
    std::uint16_t max_unconfirmed = 100;

    /// Payloads that may wait for `ferry::take_in()`. While there is no room, those that
    /// are promised stay with the broker, and others are let go.
    std::size_t max_arriving = 4096;
    std::size_t arrivals_per_frame = 1024; ///< the rest waits for the next one
    std::size_t largest_payload = std::size_t{64} << 10;
    /// Senders whose ids are remembered, for what may arrive once only.
    std::size_t max_senders = 4096;
    /// Questions that wait for an answer.
    std::size_t max_questions = 1024;
};

/// How a channel is carried, written as `{.guarantee = courier::guarantee::exactly_once}`.
struct outward_options {
    courier::guarantee guarantee = courier::guarantee::at_least_once;
    courier::encoding encoding = courier::encoding::json;
    /// The broker keeps the latest payload of each topic for late processes. States
    /// and channels that retain their latest payload do so in any case. One that has forgotten
    /// them gets it again.
    bool kept_by_broker = false;
};

/// How a channel is received from other processes.
struct inward_options {
    courier::guarantee guarantee = courier::guarantee::at_least_once;
    /// Processes that receive with the same share name share the work: each payload goes to one of them.
    std::string share_name = {};
};

WIRED_COURIER_NAMESPACE_END
