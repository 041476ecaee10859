// What several tests share.
#pragma once

#include "everything.hpp"

#include <doctest/doctest.h>

namespace test {

struct Moored {
    int boat = 0;
    int cargo = 0;
};

struct Dawn {};

using trace = std::vector<int>;

/// Collects the faults raised while it lives, instead of having them thrown.
class fault_catcher {
public:
    fault_catcher() : before_(courier::set_fault_handler(&keep)) { caught().clear(); }
    ~fault_catcher() { courier::set_fault_handler(std::move(before_)); }
    fault_catcher(const fault_catcher&) = delete;
    fault_catcher& operator=(const fault_catcher&) = delete;

    static std::vector<courier::fault>& caught() {
        static std::vector<courier::fault> all;
        return all;
    }

    /// Whether it was one fault, and said all of that.
    [[nodiscard]] bool told_once(std::initializer_list<std::string_view> parts) const {
        std::string told;
        for (const courier::fault& one : caught()) {
            told += one.text() + "\n";
        }
        INFO(told);
        return caught().size() == 1 && std::all_of(parts.begin(), parts.end(), [&](std::string_view part) {
                   const bool is_there = told.find(part) != std::string::npos;
                   CHECK_MESSAGE(is_there, part);
                   return is_there;
               });
    }

private:
    static void keep(const courier::fault& report) { caught().push_back(report); }

    courier::fault_handler before_;
};

inline bool contains(const std::string& text, const std::string& part) {
    return text.find(part) != std::string::npos;
}

} // namespace test
