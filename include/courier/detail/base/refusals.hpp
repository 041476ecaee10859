// What the compiler says of calls that are checked in more places than one.
// SPDX-License-Identifier: MIT
#pragma once

/// What a source says to a handler that it cannot call.
#define WIRED_COURIER_NO_HANDLER                                                                                       \
    "courier: this source cannot call this handler. A handler takes the payload (by const reference or by value), a "  \
    "std::span of const payloads, or nothing. It returns nothing or a courier::verdict; a handler of a span, of "      \
    "several sources or of delayed payloads returns nothing. Write a member function as "                              \
    "subscribe<&Class::method>(source, *this)"

/// What a source says to a member function that is an argument.
#define WIRED_COURIER_METHOD_AS_ARGUMENT                                                                               \
    "courier: a member function is named in angle brackets, and the object given: "                                    \
    "subscribe<&Class::method>(source, *this)"

/// What a source says to a pointer to the object, and to an object that ends with the call.
#define WIRED_COURIER_NO_OBJECT                                                                                        \
    "courier: give the object itself instead of a pointer to it; it must outlive the subscription: "                   \
    "subscribe<&Class::method>(source, *this)"

/// What a query says to a handler that cannot answer it.
#define WIRED_COURIER_NO_ANSWERER                                                                                      \
    "courier: this handler cannot answer this question; an answerer takes the question by const reference (or "        \
    "nothing) and returns the answer, or a std::optional of it"

/// What the compiler says of one that is dropped.
#define WIRED_COURIER_DROPPED                                                                                          \
    "courier: the handler is unsubscribed as soon as this subscription is destroyed: keep it, or subscribe through a " \
    "courier::subscriber"

/// What a hub says to a type whose name another file may use for its own.
#define WIRED_COURIER_NO_NAME                                                                                          \
    "courier: a payload in an unnamed namespace cannot go through a hub, since two files may each have one of that "   \
    "name; put it into a named namespace"
