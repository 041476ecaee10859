// Recordings that somebody has changed: whatever they say, they are read or
// refused with a clear error, and everything told of them comes to an end.
#include <courier/audit.hpp>
#include <courier/recording/comparison.hpp>
#include <courier/recording/explanation.hpp>
#include <courier/recording/lanes.hpp>
#include <courier/recording/read_run.hpp>
#include <courier/recording/recording_fault.hpp>
#include <courier/recording/route_map.hpp>
#include <courier/recording/run_builder.hpp>
#include <courier/recording/statistics.hpp>

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <random>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

// As libFuzzer names them.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);
extern "C" std::size_t LLVMFuzzerCustomMutator(std::uint8_t* data, std::size_t size, std::size_t most, unsigned seed);
extern "C" std::size_t LLVMFuzzerMutate(std::uint8_t* data, std::size_t size, std::size_t most);

namespace {

// As read_run() does it: whole lines, then what has no end.
courier::run read(std::string_view text) {
    courier::run made;
    courier::run_builder builder(made, "changed.jsonl", {});
    std::string padded(text);
    padded.append(64, '\0');
    const std::size_t end = text.rfind('\n') == std::string_view::npos ? 0 : text.rfind('\n') + 1;
    if (end != 0) {
        builder.lines(std::string_view(padded).substr(0, end), padded.size() - end);
    }
    if (end != text.size()) {
        builder.line(text.substr(end));
    }
    builder.done();
    return made;
}

// All that the commands do with one.
void look_at(const courier::run& seen) {
    static_cast<void>(courier::audit(books_of(seen)).text());
    static_cast<void>(courier::statistics_of(seen));
    static_cast<void>(courier::as_dot(courier::route_map(seen)));
    static_cast<void>(courier::as_msc(seen, courier::chart_of(seen, {}, 50)));
    static_cast<void>(courier::compare(seen, seen));
    static_cast<void>(seen.state());
    std::size_t left = 20;
    for (const courier::recorded_event& e : seen.events) {
        if (left-- == 0) {
            break;
        }
        static_cast<void>(courier::in_words(seen, e));
        static_cast<void>(courier::chain_of(seen, e));
    }
    for (const courier::recorded_channel& c : seen.channels) {
        courier::run_filter filter;
        filter.channel = c.name;
        static_cast<void>(courier::why_not(seen, filter));
    }
}

std::vector<std::string> lines_of(std::string_view text) {
    std::vector<std::string> lines;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find('\n'), text.size() - 1);
        lines.emplace_back(text.substr(0, end + 1));
        text.remove_prefix(end + 1);
    }
    return lines;
}

constexpr std::array<std::string_view, 18> odd_values{
    "0",        "1",    "-1",    "4294967295",   "4294967296",  "18446744073709551615",
    "1e999",    "-0.5", "null",  "true",         "[]",          "{}",
    "[[[[]]]]", "\"\"", "\"1\"", "\"PT1e300S\"", "\"-PTnanS\"", "\"\\ud800\""};

class mutator {
public:
    explicit mutator(unsigned seed) : chance_(seed) {}

    std::string change(std::string_view text) {
        std::vector<std::string> lines = lines_of(text);
        for (std::size_t i = roll(3) + 1; i-- > 0 && !lines.empty();) {
            change_one(lines);
        }
        std::string made;
        for (const std::string& line : lines) {
            made += line;
        }
        return made;
    }

private:
    std::size_t roll(std::size_t below) { return below == 0 ? 0 : chance_() % below; }

    void change_one(std::vector<std::string>& lines) {
        const std::size_t at = roll(lines.size());
        switch (roll(8)) {
        case 0:
            lines.insert(lines.begin() + static_cast<std::ptrdiff_t>(roll(lines.size())), std::string(lines[at]));
            break;
        case 1:
            lines.erase(lines.begin() + static_cast<std::ptrdiff_t>(at));
            break;
        case 2:
            std::swap(lines[at], lines[roll(lines.size())]);
            break;
        case 3:
            lines[at].resize(roll(lines[at].size()));
            break;
        case 4:
            copy_value(lines[at], lines[roll(lines.size())]);
            break;
        default:
            change_value(lines[at]);
        }
    }

    // The value of some member: from behind a colon to the next comma or brace.
    struct span_of_value {
        std::size_t from;
        std::size_t size;
    };
    span_of_value some_value(const std::string& line) {
        std::vector<std::size_t> colons;
        for (std::size_t at = line.find("\":"); at != std::string::npos; at = line.find("\":", at + 1)) {
            colons.push_back(at + 2);
        }
        if (colons.empty()) {
            return {0, 0};
        }
        const std::size_t from = colons[roll(colons.size())];
        const std::size_t end = line.find_first_of(",}]\n", from);
        return {from, (end == std::string::npos ? line.size() : end) - from};
    }
    void change_value(std::string& line) {
        const span_of_value at = some_value(line);
        line.replace(at.from, at.size, odd_values[roll(odd_values.size())]);
    }
    void copy_value(std::string& line, const std::string& from) {
        const span_of_value at = some_value(line);
        const span_of_value other = some_value(from);
        line.replace(at.from, at.size, std::string(from, other.from, other.size));
    }

    std::mt19937 chance_;
};

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    try {
        look_at(read(text));
    } catch (const courier::recording_error& refused) {
        if (std::string_view(refused.what()).find("[courier.recording.") == std::string_view::npos) {
            throw; // without a code
        }
    }
    return 0;
}

// Lines and fields are changed as whoever edits a recording would; now and then bytes.
extern "C" std::size_t LLVMFuzzerCustomMutator(std::uint8_t* data, std::size_t size, std::size_t most, unsigned seed) {
    if (seed % 5 == 0) {
        return LLVMFuzzerMutate(data, size, most);
    }
    const std::string made = mutator(seed).change({reinterpret_cast<const char*>(data), size});
    const std::size_t kept = std::min(made.size(), most);
    std::memcpy(data, made.data(), kept);
    return kept;
}
