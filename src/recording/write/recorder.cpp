#include <courier/recording/recorder.hpp>

#include "recording/write/event_packer.hpp"
#include "recording/write/line_writer.hpp"

#include <courier/detail/base/in_use.hpp>
#include <courier/detail/ledger/ledger_core.hpp>
#include <courier/fault.hpp>
#include <courier/sequence.hpp>

#include <fmt/format.h>

#include <cerrno>
#include <condition_variable>
#include <cstdio>
#include <cstring>
#include <deque>
#include <mutex>
#include <new>
#include <thread>
#include <unordered_map>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN

namespace detail {

namespace {

constexpr std::size_t piece = std::size_t{64} << 10;

using chunk = std::vector<std::byte>;

/// The thread that writes, and the queue before it.
class writing_thread {
public:
    writing_thread(std::FILE* file, std::size_t most) : file_(file), most_(most), thread_([this] { run(); }) {}
    writing_thread(const writing_thread&) = delete;
    writing_thread& operator=(const writing_thread&) = delete;
    ~writing_thread() {
        {
            const std::lock_guard lock(guard_);
            ending_ = true;
        }
        something_.notify_one();
        thread_.join();
        if (std::fclose(file_) != 0 && failure_.empty()) {
            failure_ = std::strerror(errno);
        }
    }

    /// Gives a chunk and gets an empty one; false, and nothing is taken, when
    /// there is no room and `wait` is false.
    bool give(chunk& full, bool wait) {
        std::unique_lock lock(guard_);
        if (waiting_ + full.size() > most_ && waiting_ != 0) {
            if (!wait) {
                return false;
            }
            room_.wait(lock, [&] { return waiting_ == 0 || waiting_ + full.size() <= most_; });
        }
        const std::size_t size = full.size();
        queue_.push_back(std::move(full)); // or nothing has changed
        waiting_ += size;
        if (!spare_.empty()) {
            full = std::move(spare_.back());
            spare_.pop_back();
        } else {
            full = {};
        }
        full.clear();
        if_memory_allows([&] { full.reserve(piece + piece / 4); });
        lock.unlock();
        something_.notify_one();
        return true;
    }

    void wait_until_written() {
        std::unique_lock lock(guard_);
        room_.wait(lock, [&] { return waiting_ == 0; });
    }

    [[nodiscard]] std::string failure() const {
        const std::lock_guard lock(guard_);
        return failure_;
    }

private:
    void run() {
        std::unique_lock lock(guard_);
        for (;;) {
            something_.wait(lock, [&] { return !queue_.empty() || ending_; });
            if (queue_.empty()) {
                return;
            }
            chunk next = std::move(queue_.front());
            queue_.pop_front();
            lock.unlock();
            std::string wrong;
            try {
                wrong = write(next);
            } catch (const std::bad_alloc&) {
                wrong = "no memory";
                failed_ = true;
            }
            lock.lock();
            if (failure_.empty()) {
                failure_ = wrong;
            }
            waiting_ -= next.size();
            if (spare_.size() < 4) {
                if_memory_allows([&] { spare_.push_back(std::move(next)); });
            }
            room_.notify_all();
        }
    }

    // Outside the lock; `failed_` is this thread's own.
    std::string write(const chunk& next) {
        lines_.clear();
        writer_.write(packed_reader(next.data(), next.data() + next.size()), lines_);
        if (failed_ ||
            (std::fwrite(lines_.data(), 1, lines_.size(), file_) == lines_.size() && std::fflush(file_) == 0)) {
            return {};
        }
        failed_ = true;
        return std::strerror(errno);
    }

    std::FILE* file_;
    std::size_t most_;
    mutable std::mutex guard_;
    std::condition_variable something_;
    std::condition_variable room_;
    std::deque<chunk> queue_;
    std::vector<chunk> spare_;
    std::size_t waiting_ = 0; ///< bytes that are not in the file yet
    bool ending_ = false;
    bool failed_ = false;
    std::string failure_;
    line_writer writer_;
    fmt::memory_buffer lines_;
    std::thread thread_;
};

std::FILE* open_file(const std::filesystem::path& path) {
    std::FILE* const file = std::fopen(path.c_str(), "wb");
    if (file == nullptr) {
        throw recording_error(recording_fault::cannot_open, "cannot write " + path.string() + ": " +
                                                                std::strerror(errno) +
                                                                "; name a file in a folder that can be written to");
    }
    return file;
}

} // namespace
} // namespace detail

class recorder::implementation final : public detail::event_packer {
public:
    implementation(detail::ledger_core& of, const std::filesystem::path& file, recorder_options&& options)
        : options_(std::move(options)), to_(detail::open_file(file), options_.most_waiting) {
        if (of.shake != 0) {
            options_.facts.emplace("shake", std::to_string(of.shake));
        }
        record_from(of, options_.facts);
    }
    ~implementation() override { end(); }

    [[nodiscard]] bool takes(const detail::account& channels) override {
        if (!options_.only) {
            return true;
        }
        while (asked_.size() <= channels.number) {
            asked_.push_back(not_asked);
        }
        char& answer = asked_[channels.number];
        if (answer == not_asked) {
            answer = options_.only(channels.sums.name) ? yes : no;
        }
        return answer == yes;
    }

    void flush() {
        hand_over();
        to_.wait_until_written();
    }
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
        if (now_.size() >= detail::piece) [[unlikely]] {
            hand_over();
        }
    }
    void frame_is_packed() override { hand_over(); }
    void all_is_packed() override {
        options_.behind = when_behind::wait;
        flush();
    }

    // When it may not wait, what is not handed over stays until there is room.
    void hand_over() {
        if (now_.size() != 0) {
            behind_ = !to_.give(now_.bytes(), options_.behind == when_behind::wait);
        }
    }

    enum : char { not_asked, no, yes };

    recorder_options options_;
    std::vector<char> asked_; ///< by the channel's number
    bool behind_ = false;
    detail::writing_thread to_;
};

recorder::recorder(ledger& of, const std::filesystem::path& file, recorder_options options)
    : all_(std::make_unique<implementation>(detail::access::ledger_of(of), file, std::move(options))) {}

recorder::~recorder() = default;

std::uint64_t recorder::recorded() const noexcept {
    return all_->recorded();
}

std::uint64_t recorder::skipped() const noexcept {
    return all_->skipped();
}

void recorder::flush() {
    all_->flush();
}

std::string recorder::failure() const {
    return all_->failure();
}

WIRED_COURIER_NAMESPACE_END
