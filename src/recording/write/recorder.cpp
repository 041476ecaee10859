// SPDX-License-Identifier: MIT
#include <courier/recording/recorder.hpp>

#include "data/chunk_queue.hpp"
#include "recording/write/event_packer.hpp"
#include "recording/write/line_writer.hpp"
#include "recording/write/output_file.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/ledger/ledger_core.hpp>
#include <courier/fault.hpp>
#include <courier/sequence.hpp>

#include <fmt/format.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <memory>
#include <mutex>
#include <new>
#include <stdexcept>
#include <string_view>
#include <thread>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

namespace {

/// The thread that writes, and the queue before it.
class writing_thread {
public:
    writing_thread(line_sink to, std::size_t most) : to_(std::move(to)), queue_(most), thread_([this] { run(); }) {}
    writing_thread(const writing_thread&) = delete;
    writing_thread& operator=(const writing_thread&) = delete;
    ~writing_thread() {
        queue_.end();
        thread_.join();
    }

    bool give(chunk& full, bool wait) { return queue_.give(full, wait); }
    void wait_until_written() { queue_.wait_until_done(); }
    [[nodiscard]] std::string failure() const {
        const std::lock_guard lock(guard_);
        return failure_;
    }

private:
    void run() {
        for (chunk next; queue_.take(next);) {
            try {
                write(next);
            } catch (const std::bad_alloc&) {
                fail("no memory");
            } catch (const std::exception& error) {
                fail(error.what());
            } catch (...) {
                fail("what takes the lines has failed");
            }
            queue_.done(std::move(next));
        }
    }

    void write(const chunk& next) {
        lines_.clear();
        writer_.write(packed_reader(next.data(), next.data() + next.size()), lines_);
        if (!failed_) {
            to_(std::string_view(lines_.data(), lines_.size()));
        }
    }

    // The first failure counts.
    void fail(std::string_view why) {
        if (!std::exchange(failed_, true)) {
            const std::lock_guard lock(guard_);
            if_memory_allows([&] { failure_ = why; });
        }
    }

    line_sink to_;
    mutable std::mutex guard_; ///< of `failure_`
    std::string failure_;
    bool failed_ = false; ///< the thread's own
    line_writer writer_;
    fmt::memory_buffer lines_;
    chunk_queue queue_;
    std::thread thread_;
};

line_sink into_file(const std::filesystem::path& file) {
    const std::shared_ptr<std::FILE> to(open_output(file), [](std::FILE* open) { std::fclose(open); });
    return [to](std::string_view lines) {
        if (std::fwrite(lines.data(), 1, lines.size(), to.get()) != lines.size() || std::fflush(to.get()) != 0) {
            throw std::runtime_error(std::strerror(errno));
        }
    };
}

} // namespace
} // namespace detail

class recorder::implementation final : public detail::event_packer {
public:
    implementation(detail::ledger_core& of, line_sink to, recorder_options&& options)
        : options_(std::move(options)), to_(std::move(to), options_.max_waiting) {
        if (options_.only) {
            only_ = std::make_shared<const std::function<bool(std::string_view)>>(std::move(options_.only));
        }
        if (of.order_seed != 0) {
            options_.facts.emplace("order_seed", std::to_string(of.order_seed));
        }
        record_from(of, options_.facts);
    }
    ~implementation() override { end(); }

    [[nodiscard]] bool takes(const detail::account& channels) override {
        if (only_ == nullptr) {
            return true;
        }
        while (asked_.size() <= channels.number) {
            asked_.push_back(not_asked);
        }
        if (asked_[channels.number] == not_asked) {
            const detail::lifetime::watch own(life_); // which the function may end, and with it itself
            const std::shared_ptr<const std::function<bool(std::string_view)>> only = only_;
            const bool takes = (*only)(channels.sums.name);
            if (own.is_over()) {
                return false;
            }
            asked_[channels.number] = takes ? yes : no;
        }
        return asked_[channels.number] == yes;
    }

    void flush() {
        hand_over();
        to_.wait_until_written();
    }
    // When it may not wait, what is not handed over stays until there is room.
    void hand_over() {
        if (now_.size() != 0) {
            behind_ = !to_.give(now_.bytes(), options_.when_behind == when_behind::wait);
        }
    }
    [[nodiscard]] bool is_over() const noexcept { return is_over_; }
    [[nodiscard]] std::uint64_t recorded() const noexcept { return recorded_; }
    [[nodiscard]] std::uint64_t skipped() const noexcept { return skipped_; }
    [[nodiscard]] std::string failure() const { return to_.failure(); }

private:
    [[nodiscard]] bool is_behind() override {
        if (behind_) [[unlikely]] {
            hand_over();
        }
        return behind_;
    }
    void event_is_packed() override {
        if (now_.size() >= detail::usual_chunk) [[unlikely]] {
            hand_over();
        }
    }
    void frame_is_packed() override { hand_over(); }
    void all_is_packed() override {
        options_.when_behind = when_behind::wait;
        flush();
    }

    [[nodiscard]] std::uint64_t state_every() const override { return options_.state_every; }
    void over() noexcept override {
        is_over_ = true;
        event_packer::over();
    }

    enum : char { not_asked, no, yes };

    recorder_options options_;
    std::shared_ptr<const std::function<bool(std::string_view)>> only_; ///< of the options; null: all
    detail::lifetime life_;
    std::vector<char> asked_; ///< by the channel's number
    bool behind_ = false;
    bool is_over_ = false;
    detail::writing_thread to_;
};

recorder::recorder(ledger& of, const std::filesystem::path& file, recorder_options options)
    : recorder(of, detail::into_file(file), std::move(options)) {}

recorder::recorder(ledger& of, line_sink to, recorder_options options)
    : all_(std::make_unique<implementation>(detail::access::ledger_of(of), std::move(to), std::move(options))) {}

recorder::~recorder() = default;

std::uint64_t recorder::recorded() const noexcept {
    return all_->recorded();
}

std::uint64_t recorder::skipped() const noexcept {
    return all_->skipped();
}

void recorder::hand_over() {
    all_->hand_over();
}

bool recorder::over() const noexcept {
    return all_->is_over();
}

void recorder::flush() {
    all_->flush();
}

std::string recorder::failure() const {
    return all_->failure();
}

WIRED_COURIER_NAMESPACE_END
