// Publishing with ledgers compiled in, and without: the same source, compiled
// twice, with a call into each for many publishes at a time.
#pragma once

#include <cstddef>
#include <memory>

namespace bench {

/// A channel with so many subscribers.
class published_side {
public:
    published_side() = default;
    published_side(const published_side&) = delete;
    published_side& operator=(const published_side&) = delete;
    virtual ~published_side() = default;
    virtual void publish(long times) = 0;
    /// Attaches a ledger, where there are any.
    virtual void attach() = 0;
    [[nodiscard]] virtual long long sum() const = 0;
};

std::unique_ptr<published_side> with_ledgers(std::size_t subscribers);
std::unique_ptr<published_side> without_ledgers(std::size_t subscribers);

} // namespace bench
