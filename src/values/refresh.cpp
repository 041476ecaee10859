// SPDX-License-Identifier: MIT
// Brings readers up to date, from below: a node calls its function again only if
// the version of something that it read is another one than it saw. So each
// function runs once for a change however many ways lead to it, and none sees a
// mixture of old and new.
#include "values/value_graph.hpp"

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

// The formula that has to be refreshed before it can be told whether `node` must
// run again, or null; then `must_run` says so.
formula_node* next_stale_source(reader_node& node, bool& must_run) noexcept {
    must_run = node.runs == 0;
    for (dependency* d = node.walk; d != nullptr && !must_run; d = d->next_source) {
        source_node& source = *d->source;
        constexpr unsigned called = reader_status::running | reader_status::in_use;
        constexpr unsigned busy = called | reader_status::climbing;
        if (source.is_computed && formula_of(source).status.is(reader_status::stale | busy)) {
            if (!formula_of(source).status.is(busy)) {
                node.walk = d;
                return &formula_of(source);
            }
            // Perhaps it does not read that any more; if it does, that is a circle.
            must_run = formula_of(source).status.is(called | reader_status::stale);
        }
        if (source.version != d->seen) {
            node.because = &source;
            must_run = true;
        }
    }
    return nullptr;
}

void start_climbing(reader_node& node, reader_node* for_whom) noexcept {
    node.up = for_whom;
    node.walk = node.sources;
    node.status.add(reader_status::climbing);
}

} // namespace

void refresh(reader_node& top) {
    if (top.status.is(
            reader_status::climbing)) { // one of those that it read the last time, which is running, reads it now
        top.status.drop(reader_status::stale);
        run(top);
        return;
    }
    start_climbing(top, nullptr);
    for (reader_node* node = &top; node != nullptr;) {
        bool must_run = false;
        if (node->status.is(reader_status::stale)) {
            if (formula_node* const source = next_stale_source(*node, must_run); source != nullptr) {
                start_climbing(*source, node);
                node = source;
                continue;
            }
        }
        reader_node* const up = node->up; // which stays, as it says itself should it not
        node->status.drop(reader_status::climbing | reader_status::stale);
        if (must_run) {
            run(*node); // only a refresher throws, and that is the top
        }
        node = up;
    }
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
