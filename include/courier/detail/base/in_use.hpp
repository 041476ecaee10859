// How structures of ours stay whole while code of the user's runs in the
// middle of what is done with them. docs/design.md, "Code of the user's", has
// the rule and all places.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/config.hpp>

#include <cstddef>
#include <cstdint>
#include <new>
#include <type_traits>
#include <utility>
#include <vector>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

/// Moving, copying and destroying a `T` runs no code of the user's.
template <class T>
inline constexpr bool is_quiet = std::is_trivially_copyable_v<T>;

/// Raises `changed_in_use` for a group or a tally.
[[gnu::cold]] void report_changed_in_use();

/// A counted reference: whatever ends meanwhile, its core is there until this is
/// over. Empty, it refers to none. `retain(Core&)` and `release(Core&)` count,
/// and are called from nowhere else (`scripts/lint`).
template <class Core>
class held {
public:
    held() noexcept = default;
    explicit held(Core& core) noexcept : held(&core) {}
    explicit held(Core* core) noexcept : core_(core) {
        if (core_ != nullptr) {
            retain(*core_);
        }
    }
    held(const held& other) noexcept : held(other.core_) {}
    held(held&& other) noexcept : core_(std::exchange(other.core_, nullptr)) {}
    held& operator=(held other) noexcept { // whose end releases what this referred to
        std::swap(core_, other.core_);
        return *this;
    }
    ~held() {
        if (core_ != nullptr) {
            release(*core_);
        }
    }

    /// Takes over a reference that was let go, or the one a core is made with.
    [[nodiscard]] static held taking_over(Core* core) noexcept {
        held made;
        made.core_ = core;
        return made;
    }
    /// Gives its reference up to the caller.
    Core* let_go() noexcept { return std::exchange(core_, nullptr); }

    [[nodiscard]] Core* get() const noexcept { return core_; }
    [[nodiscard]] Core& operator*() const noexcept { return *core_; }
    [[nodiscard]] Core* operator->() const noexcept { return core_; }
    explicit operator bool() const noexcept { return core_ != nullptr; }
    friend bool operator==(const held& a, std::nullptr_t) noexcept { return a.core_ == nullptr; }

private:
    Core* core_ = nullptr;
};

/// The base of a core that is deleted with the last `held` reference to it. It is made
/// with one reference, which its owner takes over.
template <class Core>
class counted {
    std::uint32_t refs_ = 1;

    friend void retain(Core& core) noexcept { ++static_cast<counted&>(core).refs_; }
    friend void release(Core& core) noexcept {
        if (--static_cast<counted&>(core).refs_ == 0) {
            delete &core;
        }
    }
};

/// Gives `handle` what `fresh` owns, and ends what it owned before: last, since
/// that may run code of the user's, which may destroy or assign `handle`. The
/// only way in which a handle is assigned (`scripts/lint`).
template <class Handle>
void replace_handle(Handle& handle, std::type_identity_t<Handle>&& fresh) noexcept {
    if (&handle == &fresh) {
        return;
    }
    const Handle gone(std::move(handle));
    handle.~Handle(); // it owns nothing now NOLINT(bugprone-use-after-move)
    ::new (static_cast<void*>(&handle)) Handle(std::move(fresh));
}

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

/// A member of what may be destroyed in the middle of one of its functions, which
/// watches it.
class lifetime {
public:
    lifetime() noexcept = default;
    lifetime(const lifetime&) = delete;
    lifetime& operator=(const lifetime&) = delete;
    ~lifetime() {
        for (const watch* one = innermost_; one != nullptr; one = one->outer_) {
            one->of_ = nullptr;
        }
    }

    /// Lies on the stack, inside of those before it.
    class watch {
    public:
        explicit watch(lifetime& of) noexcept : of_(&of), outer_(std::exchange(of.innermost_, this)) {}
        watch(const watch&) = delete;
        watch& operator=(const watch&) = delete;
        ~watch() {
            if (of_ != nullptr) {
                of_->innermost_ = outer_;
            }
        }
        [[nodiscard]] bool is_over() const noexcept { return of_ == nullptr; }

    private:
        friend class lifetime;
        mutable lifetime* of_; ///< null once that is destroyed
        const watch* outer_;
    };

private:
    const watch* innermost_ = nullptr;
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
