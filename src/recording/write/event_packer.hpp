// What a ledger tells, packed for whoever writes or compares it.
// SPDX-License-Identifier: MIT
#pragma once

#include "recording/records.hpp"

#include "data/packed.hpp"
#include <courier/detail/base/value_type.hpp>
#include <courier/detail/ledger/ledger_core.hpp>

#include <cstddef>
#include <cstdint>
#include <map>
#include <string>
#include <unordered_map>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Takes over as the ledger's sink. Derived classes say when what is packed
/// goes on, and call `end()` before they end.
class event_packer : public event_sink {
public:
    event_packer() = default;

    [[nodiscard]] std::size_t begin(const payload_kind* kind, const void* payload) override;
    void published(const event_facts& what) override;
    void posted(const post_facts& what) override;
    void channel_opened(const account& which) override;
    void channel_closed(const account& which) override;
    void subscribed(const subscription_note& which) override;
    void ended(const subscription_note& which, bool channel_closed) override;
    void paused(const subscription_note& which, bool is_paused) override;
    void party_ended(std::uint32_t number) override;
    void frame(std::uint64_t number, std::int64_t time) override;
    void forget_kinds() noexcept override {
        newest_kind_ = nullptr;
        newest_schema_ = no_schema;
        schemas_.clear();
    }
    void over() noexcept override { end(); }

protected:
    /// Packs what is there already; the ledger tells the rest.
    void record_from(ledger_core& of, const std::map<std::string, std::string>& facts);
    /// Packs the last records; once.
    void end() noexcept;

    /// Whether events are to be left out for now.
    [[nodiscard]] virtual bool is_behind() { return false; }
    /// An event, or a frame, is packed.
    virtual void event_is_packed() {}
    virtual void frame_is_packed() {}
    virtual void all_is_packed() {}
    /// What there is apart from events is packed every so many frames.
    [[nodiscard]] virtual std::uint64_t state_every() const { return 256; }
    void pack_state();

    packed_bytes now_;
    std::uint64_t recorded_ = 0;
    std::uint64_t skipped_ = 0;

private:
    /// Carries out what packs records: all of it, or, without memory, none.
    template <class Step>
    void pack_whole(Step step) noexcept {
        const std::size_t packed = now_.size();
        const std::uint32_t sites = known_sites_;
        try {
            step();
        } catch (...) {
            now_.bytes().resize(packed);
            known_sites_ = sites;
            forget_kinds(); // what they are is said again
            ++skipped_;
        }
    }
    template <class Record>
    void pack(const Record& what) noexcept;
    template <class Facts>
    void fill(made_record& made, const Facts& what);
    void pack_event(const event_facts& what);
    void pack_post(const post_facts& what, std::size_t kept);
    [[nodiscard]] packed_payload payload_from(std::size_t kept);
    [[nodiscard]] subscription_line line_of(const subscription_note& which) const;
    void know_site(std::uint32_t site);
    std::uint32_t schema_of(const payload_kind* kind);
    std::uint32_t find_schema(const payload_kind* kind);
    void put_payload(packed_bytes& to, const payload_kind* kind, const void* payload);
    std::uint32_t handler_number(const subscription_note& which);
    void forget_handler(std::uint32_t subscription) noexcept;
    void put_processes();
    void put_state();
    void put_skipped();

    ledger_core* of_ = nullptr;
    std::uint64_t first_frame_ = 0; ///< recordings count from theirs on
    std::uint64_t told_skipped_ = 0;
    bool told_idle_ = false;
    std::uint32_t known_sites_ = 0;
    std::uint32_t told_processes_ = 0;
    std::uint32_t newest_number_ = 0; ///< of schemas
    packed_bytes kept_;               ///< payloads of publishes in flight, outer ones first
    const payload_kind* newest_kind_ = nullptr;
    std::uint32_t newest_schema_ = no_schema;
    std::unordered_map<const field_table*, std::uint32_t> schemas_;
    struct told_handler {
        std::uint32_t number = 0;
        std::uint32_t subscriptions = 0; ///< that are there; without any it is forgotten
    };
    using told_handlers = std::map<std::pair<const void*, const void*>, told_handler>;
    told_handlers handlers_;
    std::unordered_map<std::uint32_t, told_handlers::iterator> handler_of_; ///< by subscription
    std::uint32_t newest_handler_ = 0;
    std::string address_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
