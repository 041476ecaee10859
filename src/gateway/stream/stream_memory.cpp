// SPDX-License-Identifier: MIT
#include "gateway/stream/stream_memory.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <random>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t most_at_once = std::size_t{1} << 20;

std::string run_name() {
    std::random_device chance;
    return fmt::format("{:08x}", chance());
}

} // namespace

std::string_view message_batch::from(std::uint64_t number) const noexcept {
    const std::uint64_t index = number > first ? number - first : 0;
    return index < marks.size() ? std::string_view(text).substr(marks[index].begin) : std::string_view();
}

void message_batch::append_wanted(std::uint64_t number, const std::function<bool(std::uint32_t)>& wanted,
                                  std::string& to) const {
    for (std::size_t i = number > first ? number - first : 0; i < marks.size(); ++i) {
        if (wanted(marks[i].source)) {
            const std::size_t end = i + 1 < marks.size() ? marks[i + 1].begin : text.size();
            to.append(text, marks[i].begin, end - marks[i].begin);
        }
    }
}

stream_memory::stream_memory(std::size_t most) : most_(most), run_(run_name()) {}

void stream_memory::add(message_batch&& batch, std::vector<kept_message>&& kept) {
    auto shared = std::make_shared<const message_batch>(std::move(batch));
    {
        const std::lock_guard lock(guard_);
        for (kept_message& one : kept) {
            if (one.second.empty()) {
                kept_.erase(one.first);
            } else {
                kept_[one.first] = std::move(one.second);
            }
        }
        next_ = shared->past();
        bytes_ += shared->text.size();
        batches_.push_back(std::move(shared));
        while (bytes_ > most_ && batches_.size() > 1) {
            bytes_ -= batches_.front()->text.size();
            batches_.pop_front();
        }
    }
    news_.notify_all();
}

std::uint64_t stream_memory::next() const {
    const std::lock_guard lock(guard_);
    return next_;
}

void stream_memory::close() {
    {
        const std::lock_guard lock(guard_);
        is_over_ = true;
    }
    news_.notify_all();
}

stream_memory::beginning stream_memory::begin(std::string_view last, bool with_latest,
                                              const std::function<bool(std::uint32_t)>& wanted) const {
    beginning made;
    const std::size_t dash = last.find('-');
    std::uint64_t known = 0;
    const char* const end = last.data() + last.size();
    const bool is_named =
        dash != std::string_view::npos && std::from_chars(last.data() + dash + 1, end, known).ptr == end;
    const std::lock_guard lock(guard_);
    made.is_other_run = !last.empty() && (!is_named || last.substr(0, dash) != run_ || known >= next_);
    const bool goes_on = !last.empty() && !made.is_other_run;
    made.lost = goes_on && known + 1 < oldest() ? oldest() - known - 1 : 0;
    const bool knows_all = goes_on && made.lost == 0;
    const std::uint64_t from = knows_all ? known + 1 : (with_latest || goes_on ? oldest() : next_);
    for (const shared_batch& one : batches_) {
        if (one->past() > from) {
            made.batches.push_back(one);
        }
    }
    made.next = knows_all ? from : next_;
    if (knows_all) {
        made.batches.clear(); // which is what `take()` gives
        return made;
    }
    for (const auto& [key, text] : kept_) {
        if (!wanted || wanted(static_cast<std::uint32_t>(key))) {
            made.kept.push_back(text);
        }
    }
    return made;
}

stream_memory::taken stream_memory::take(std::uint64_t& next, std::chrono::milliseconds at_most) const {
    taken made;
    std::unique_lock lock(guard_);
    news_.wait_for(lock, at_most, [&] { return next < next_ || is_over_; });
    made.is_over = is_over_;
    if (next < oldest()) {
        made.lost = oldest() - next;
        next = oldest();
    }
    made.from = next;
    const auto first = std::lower_bound(batches_.begin(), batches_.end(), next,
                                        [](const shared_batch& one, std::uint64_t n) { return one->past() <= n; });
    std::size_t bytes = 0;
    for (auto one = first; one != batches_.end() && (bytes == 0 || bytes + (*one)->text.size() <= most_at_once);
         ++one) {
        made.left_out += (*one)->first > next ? (*one)->first - next : 0;
        bytes += (*one)->text.size();
        next = (*one)->past();
        made.batches.push_back(*one);
    }
    return made;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
