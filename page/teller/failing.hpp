// What becomes of exceptions in a browser.
// SPDX-License-Identifier: MIT
#pragma once

#include <courier/recording/recording_fault.hpp>

#include <cstddef>
#include <cstdlib>
#include <string_view>
#include <typeinfo>

// Debian's library for this target has no exceptions: what would be thrown ends the page's run, with its text.
extern "C" {
__attribute__((import_module("page"), import_name("failed"))) void page_failed(const char* text, std::size_t size);

void* __cxa_allocate_exception(std::size_t size) noexcept {
    return std::malloc(size); // NOLINT: nothing frees it, since nothing goes on
}
void __cxa_free_exception(void*) noexcept {}
[[noreturn]] void __cxa_throw(void* thrown, std::type_info* type, void (*)(void*)) {
    const std::string_view text = *type == typeid(courier::recording_error)
                                      ? static_cast<courier::recording_error*>(thrown)->what()
                                      : type->name();
    page_failed(text.data(), text.size());
    __builtin_trap();
}
}
