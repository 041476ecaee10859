// What scripts/pace compiles. Standard headers only, so that it stays the same.
#include <algorithm>
#include <functional>
#include <iostream>
#include <map>
#include <memory>
#include <ranges>
#include <regex>
#include <string>
#include <unordered_map>
#include <variant>
#include <vector>

int main() {
    std::map<std::string, std::vector<std::variant<int, std::string>>> all;
    std::unordered_map<std::string, std::function<void(int)>> calls;
    const std::regex words("[a-z]+");
    for (std::string line; std::getline(std::cin, line);) {
        for (std::sregex_iterator i(line.begin(), line.end(), words), end; i != end; ++i) {
            all[i->str()].emplace_back(std::make_unique<std::string>(i->prefix())->size() % 2 == 0 ? 1 : 2);
            calls.emplace(i->str(), [&](int n) { all[line].emplace_back(n); });
        }
    }
    auto longer = all | std::views::filter([](const auto& one) { return one.second.size() > 1; }) | std::views::keys;
    std::ranges::for_each(longer, [&](const std::string& word) { calls[word](1); });
    std::vector<std::string> sorted(longer.begin(), longer.end());
    std::stable_sort(sorted.begin(), sorted.end());
}
