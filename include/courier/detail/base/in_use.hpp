// How structures of ours stay whole while code of the user's runs in the
// middle of what is done with them. docs/design.md, "Code of the user's", has
// the rule and all places.
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Moving, copying and destroying a `T` runs no code of the user's.
template <class T>
inline constexpr bool is_quiet = std::is_trivially_copyable_v<T>;

/// Whatever ends meanwhile, `core` is there until this is over.
template <class Core>
class holding {
public:
    explicit holding(Core& core) noexcept : core_(core) { retain(core_); }
    holding(const holding&) = delete;
    holding& operator=(const holding&) = delete;
    ~holding() { release(core_); }

private:
    Core& core_;
};

/// True for a while, and then what it was before.
class while_true {
public:
    explicit while_true(bool& flag) noexcept : flag_(flag), before_(std::exchange(flag, true)) {}
    while_true(const while_true&) = delete;
    while_true& operator=(const while_true&) = delete;
    ~while_true() { flag_ = before_; }

private:
    bool& flag_;
    bool before_;
};

/// Destroys all that is in `list`, which is empty, and in a state to take
/// more, before the first of it goes. Its room stays.
template <class T>
void empty_out(std::vector<T>& list) noexcept {
    if constexpr (is_quiet<T>) {
        list.clear();
    } else {
        std::vector<T> gone;
        gone.swap(list);
        gone.clear();
        if (list.capacity() == 0) {
            gone.swap(list);
        }
    }
}

/// Room for `count`, growing as vectors do.
template <class T>
void reserve_by_halves(std::vector<T>& list, std::size_t count) {
    if (list.capacity() < count) {
        const std::size_t more = list.capacity() + list.capacity() / 2;
        list.reserve(count < more ? more : count);
    }
}

/// For what is a service, and left undone where memory is full.
template <class Step>
void if_memory_allows(Step step) noexcept {
#if WIRED_COURIER_EXCEPTIONS
    try {
        step();
    } catch (...) { // NOLINT(bugprone-empty-catch): left undone
    }
#else
    step();
#endif
}

/// Undoes something at its end, unless all went well.
template <class Undo>
class unless_done {
public:
    explicit unless_done(Undo undo) noexcept : undo_(std::move(undo)) {}
    unless_done(const unless_done&) = delete;
    unless_done& operator=(const unless_done&) = delete;
    ~unless_done() {
        if (!done_) {
            undo_();
        }
    }
    void done() noexcept { done_ = true; }

private:
    Undo undo_;
    bool done_ = false;
};

/// Takes the one at `at` out of a list, whose order stays, and destroys it when
/// the list is whole again.
template <class T>
T taken_from(std::vector<T>& list, std::size_t at) noexcept {
    T taken = std::move(list[at]);
    list.erase(list.begin() + static_cast<std::ptrdiff_t>(at));
    return taken;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
