// A set that keeps the order in which its members came.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>
#include <courier/detail/base/in_use.hpp>
#include <courier/detail/delivery/address_code.hpp>

#include <cstddef>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Members with a value each. Adding, finding and removing take the same few
/// steps however many there are; going through them is in the order in which
/// they came.
template <class Member, class Value>
class roll {
public:
    struct line {
        Member member;
        Value value;
        bool here;
    };

    [[nodiscard]] Value* find(const Member& member) {
        const auto found = places_.find(member);
        return found != places_.end() ? &lines_[found->second].value : nullptr;
    }
    [[nodiscard]] const Value* find(const Member& member) const { return const_cast<roll*>(this)->find(member); }

    Value& add(const Member& member, Value value) {
        const changing now(*this);
        lines_.push_back({member, std::move(value), true});
#if WIRED_COURIER_EXCEPTIONS
        try {
            places_.emplace(member, lines_.size() - 1);
        } catch (...) {
            lines_.pop_back();
            throw;
        }
#else
        places_.emplace(member, lines_.size() - 1);
#endif
        return lines_.back().value;
    }

    bool remove(const Member& member) {
        const changing now(*this);
        const auto found = places_.find(member);
        if (found == places_.end()) {
            return false;
        }
        lines_[found->second].here = false;
        const auto gone = places_.extract(found); // destroyed last
        if (places_.size() * 2 < lines_.size()) {
            close_gaps();
        }
        return true;
    }

    void clear() noexcept {
        places_.clear();
        lines_.clear();
    }

    [[nodiscard]] std::size_t size() const noexcept { return places_.size(); }

    /// Calls `visit` with member and value of each; it must not change the roll.
    template <class Visit>
    void each(Visit visit) const {
        for (const line& l : lines_) {
            if (l.here) {
                visit(l.member, l.value);
            }
        }
    }
    template <class Visit>
    void each(Visit visit) {
        for (line& l : lines_) {
            if (l.here) {
                visit(l.member, l.value);
            }
        }
    }

private:
    /// Members are hashed, compared, copied and destroyed by code of the user's,
    /// which may not change the roll meanwhile.
    class changing {
    public:
        explicit changing(roll& of) : of_(of) {
            if (checked_build && of_.changing_) {
                report_changed_in_use();
            }
            of_.changing_ = true;
        }
        changing(const changing&) = delete;
        changing& operator=(const changing&) = delete;
        ~changing() { of_.changing_ = false; }

    private:
        roll& of_;
    };

    void close_gaps() {
        std::erase_if(lines_, [](const line& l) { return !l.here; });
        for (std::size_t i = 0; i < lines_.size(); ++i) {
            places_.find(lines_[i].member)->second = i;
        }
    }

    bool changing_ = false;
    std::vector<line> lines_;
    std::unordered_map<Member, std::size_t, address_hash, address_equal> places_;
};

} // namespace detail
WIRED_COURIER_NAMESPACE_END
