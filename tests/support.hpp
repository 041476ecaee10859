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

private:
    static void keep(const courier::fault& report) { caught().push_back(report); }

    courier::fault_handler before_;
};

inline bool contains(const std::string& text, const std::string& part) {
    return text.find(part) != std::string::npos;
}

} // namespace test
