// SPDX-License-Identifier: MIT
#include "data/cbor_reader.hpp"

#include <cstddef>
#include <cstdint>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t deepest_cbor = 32;

/// Takes one item's head off CBOR: how many items are inside, or bytes to pass over.
class cbor_scan {
public:
    explicit cbor_scan(std::string_view bytes) : rest_(bytes) {}

    struct item {
        std::uint64_t inside = 0;
        bool is_endless = false;
        bool is_break = false;
    };
    [[nodiscard]] bool is_over() const noexcept { return rest_.empty(); }

    bool next(item& into) {
        if (rest_.empty()) {
            return false;
        }
        const auto first = static_cast<unsigned char>(rest_.front());
        rest_.remove_prefix(1);
        into = {};
        const unsigned kind = first >> 5U;
        const unsigned more = first & 31U;
        std::uint64_t value = more;
        if (more == 31) {
            into.is_break = kind == 7;
            into.is_endless = kind >= 2 && kind <= 5;
            return into.is_break || into.is_endless;
        }
        if (more > 27) {
            return false;
        }
        if (more >= 24 && !take_number(std::size_t{1} << (more - 24), value)) {
            return false;
        }
        switch (kind) {
        case 2:
        case 3:
            return pass(value);
        case 4:
            into.inside = value;
            return value <= rest_.size();
        case 5:
            into.inside = 2 * value;
            return value <= rest_.size();
        case 6:
            into.inside = 1;
            return true;
        default:
            return true;
        }
    }

private:
    bool take_number(std::size_t size, std::uint64_t& value) {
        if (rest_.size() < size) {
            return false;
        }
        value = 0;
        for (std::size_t i = 0; i < size; ++i) {
            value = value << 8U | static_cast<unsigned char>(rest_[i]);
        }
        rest_.remove_prefix(size);
        return true;
    }
    bool pass(std::uint64_t size) {
        if (rest_.size() < size) {
            return false;
        }
        rest_.remove_prefix(static_cast<std::size_t>(size));
        return true;
    }

    std::string_view rest_;
};

/// Looked at before a parser that recurses sees it.
bool is_shallow_cbor(std::string_view bytes) {
    struct level {
        std::uint64_t left;
        bool is_endless;
    };
    std::vector<level> open{{1, false}};
    cbor_scan scan(bytes);
    cbor_scan::item one;
    while (!open.empty()) {
        if (!open.back().is_endless && open.back().left == 0) {
            open.pop_back();
            continue;
        }
        if (!scan.next(one) || (one.is_break && !open.back().is_endless)) {
            return false;
        }
        if (one.is_break) {
            open.pop_back();
            continue;
        }
        open.back().left -= open.back().is_endless ? 0U : 1U;
        if (one.is_endless || one.inside != 0) {
            if (open.size() > deepest_cbor) {
                return false;
            }
            open.push_back({one.inside, one.is_endless});
        }
    }
    return scan.is_over();
}

} // namespace

nlohmann::json parsed_cbor(std::string_view bytes) {
    using nlohmann::json;
    return is_shallow_cbor(bytes)
               ? json::from_cbor(bytes.begin(), bytes.end(), true, false, json::cbor_tag_handler_t::ignore)
               : json(json::value_t::discarded);
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
