#include "night_log.hpp"

#include <fmt/format.h>

namespace reef {

void night_log::begin_frame(int frame, std::string_view phase) {
    lines_.clear();
    heading_ = {{tint::frame, fmt::format("frame {:>3}", frame)}, {tint::quiet, fmt::format("  {}", phase)}};
}

void night_log::end_frame() {
    if (lines_.empty()) {
        return;
    }
    sink_(heading_);
    for (const log_line& line : lines_) {
        sink_(line);
    }
    lines_.clear();
}

void night_log::react(std::string_view who, std::string_view what) {
    lines_.push_back(
        {{tint::plain, indent()}, {tint::party, std::string{who}}, {tint::plain, fmt::format(" {}", what)}});
}

std::vector<std::string> night_log::heard_nothing() const {
    std::vector<std::string> names;
    for (const auto& [name, times] : listeners_) {
        if (times == 0) {
            names.push_back(name);
        }
    }
    return names;
}

void night_log::remark(std::string_view text) {
    lines_.push_back({{tint::plain, indent()}, {tint::quiet, fmt::format("({})", text)}});
}

void night_log::note(std::string_view who, std::string_view how, std::string_view channel, const std::string& payload) {
    lines_.push_back({{tint::plain, indent()},
                      {tint::party, std::string{who}},
                      {tint::plain, std::string{how}},
                      {tint::channel, std::string{channel}},
                      {tint::plain, payload.empty() ? "" : fmt::format(" {{{}}}", payload)}});
}

std::size_t night_log::open(std::string_view who, std::string_view channel, const std::string& payload,
                            std::string_view to_whom) {
    lines_.push_back({{tint::plain, indent()},
                      {tint::party, std::string{who}},
                      {tint::plain, " publishes "},
                      {tint::channel, std::string{channel}},
                      {tint::plain, to_whom.empty() ? "" : fmt::format(" to {}", to_whom)},
                      {tint::plain, payload.empty() ? "" : fmt::format(" {{{}}}", payload)}});
    ++depth_;
    return lines_.size() - 1;
}

void night_log::close(std::size_t line, const courier::receipt& receipt, bool listeners) {
    --depth_;
    std::string outcome = receipt.heard() ? fmt::format("  -> {} served", receipt.served())
                          : listeners     ? "  -> nobody served"
                                          : "  -> nobody listens";
    if (receipt.vacant()) {
        outcome = "  -> nobody there";
    }
    if (receipt.stopped()) {
        outcome += fmt::format(", stopped by {}", receipt.stopped_by());
    }
    lines_[line].push_back({tint::quiet, std::move(outcome)});
}

} // namespace reef
