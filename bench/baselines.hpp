// What people write by hand.
#pragma once

#include <functional>
#include <memory>
#include <typeindex>
#include <unordered_map>
#include <utility>
#include <vector>

namespace bench {

struct Bitten {
    int barge;
    int crates;
};

/// Somebody who reacts; the reaction is one addition, so that what is measured
/// is the way to it.
struct Barge {
    long lost = 0;
    void on_bitten(const Bitten& b) { lost += b.crates; }
};

/// An array of function pointer and object.
struct raw_entry {
    void (*call)(void*, const Bitten&);
    void* object;
};
raw_entry raw_listener(Barge& barge);

/// Virtual listeners.
struct listener {
    virtual ~listener() = default;
    virtual void on_bitten(const Bitten& b) = 0;
};
std::unique_ptr<listener> virtual_listener(Barge& barge);

/// A vector of std::function.
using functions = std::vector<std::function<void(const Bitten&)>>;
std::function<void(const Bitten&)> function_listener(Barge& barge);

/// A map from payload type to such a vector, looked up at each publish.
using function_map = std::unordered_map<std::type_index, functions>;

/// A vector of std::function that can be told apart, searched when one leaves.
class searched_functions {
public:
    int add(std::function<void(const Bitten&)> function) {
        all_.emplace_back(next_, std::move(function));
        return next_++;
    }
    void remove(int id) {
        for (auto at = all_.begin(); at != all_.end(); ++at) {
            if (at->first == id) {
                all_.erase(at);
                return;
            }
        }
    }

private:
    std::vector<std::pair<int, std::function<void(const Bitten&)>>> all_;
    int next_ = 0;
};

} // namespace bench
