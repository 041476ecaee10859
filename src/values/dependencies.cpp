// SPDX-License-Identifier: MIT
// What depends on what.
#include "values/value_graph.hpp"

#include <memory>
#include <utility>

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

namespace {

constexpr std::size_t block_size = 64;

dependency& take_dependency(value_graph& graph, reader_node& reader) {
    if (reader.first.source == nullptr) {
        return reader.first;
    }
    if (graph.free_dependencies == nullptr) {
        graph.blocks.push_back(std::make_unique<dependency[]>(block_size));
        for (std::size_t i = block_size; i-- > 0;) {
            dependency& d = graph.blocks.back()[i];
            d.next_source = std::exchange(graph.free_dependencies, &d);
        }
    }
    dependency& taken = *graph.free_dependencies;
    graph.free_dependencies = taken.next_source;
    return taken;
}

bool is_other(const reader_node& reader) noexcept {
    return reader.kind != reader_kind::refresher;
}

// Puts `d` behind its source's other readers.
void link_reader(dependency& d) noexcept {
    source_node& source = *d.source;
    if (source.readers == nullptr) {
        source.readers_in_order = true;
    } else if (static_cast<std::int32_t>(d.reader->born - source.newest_reader) < 0) {
        source.readers_in_order = false;
    }
    source.newest_reader = d.reader->born;
    source.other_readers += is_other(*d.reader) ? 1U : 0U;
    d.next_reader = nullptr;
    d.back_to_reader = source.readers_end;
    *source.readers_end = &d;
    source.readers_end = &d.next_reader;
}

// Takes `d` out of its source's readers.
void unlink_reader(dependency& d) noexcept {
    d.source->other_readers -= is_other(*d.reader) ? 1U : 0U;
    this_values.graph->changes.forget(d);
    *d.back_to_reader = d.next_reader;
    if (d.next_reader != nullptr) {
        d.next_reader->back_to_reader = d.back_to_reader;
    } else {
        d.source->readers_end = d.back_to_reader;
    }
}

} // namespace

namespace {

// In front of `next`, where `*at` says that.
void link_source(dependency& d, dependency** at, dependency* next) noexcept {
    d.next_source = next;
    d.back_to_source = at;
    *at = &d;
    if (next != nullptr) {
        next->back_to_source = &d.next_source;
    }
}

} // namespace

void unlink_source(dependency& d) noexcept {
    if (d.reader->cursor == &d.next_source) {
        d.reader->cursor = d.back_to_source;
    }
    *d.back_to_source = d.next_source;
    if (d.next_source != nullptr) {
        d.next_source->back_to_source = d.back_to_source;
    }
}

void free_dependency(dependency& d) noexcept {
    unlink_reader(d);
    if (d.source->latest_read == &d) {
        d.source->latest_read = nullptr;
    }
    if (d.reader->walk == &d) {
        d.reader->walk = d.next_source;
    }
    if (d.reader->because == d.source) {
        d.reader->because = nullptr;
    }
    if (&d == &d.reader->first) {
        d.source = nullptr;
    } else {
        d.next_source = std::exchange(this_values.graph->free_dependencies, &d);
    }
}

void drop_unread(reader_node& reader) noexcept {
    dependency* d = std::exchange(*reader.cursor, nullptr);
    while (d != nullptr) {
        dependency* const next = d->next_source;
        free_dependency(*d);
        d = next;
    }
}

// Skips a source that this run has read already, if a few steps are enough to see that. A
// source that is noted twice costs one more node, and nothing else.
void note_other_read(reader_node& reader, source_node& source) {
    if (dependency* const latest = source.latest_read;
        latest != nullptr && latest->reader == &reader && latest->read_in == reader.runs) {
        latest->seen = source.version;
        return;
    }
    constexpr int few = 16;
    dependency* d = reader.sources;
    for (int i = 0; i < few && d != *reader.cursor; ++i, d = d->next_source) {
        if (d->source == &source) {
            d->seen = source.version;
            return;
        }
    }
    dependency* const expected = *reader.cursor;
    if (expected != nullptr && expected->next_source != nullptr && expected->next_source->source == &source) {
        unlink_source(*expected); // it was left out
        free_dependency(*expected);
    } else {
        dependency& made = take_dependency(*this_values.graph, reader);
        made.source = &source;
        made.reader = &reader;
        link_source(made, reader.cursor, expected);
        link_reader(made);
    }
    dependency& read = **reader.cursor;
    read.seen = source.version;
    read.read_in = reader.runs;
    source.latest_read = &read;
    reader.cursor = &read.next_source;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
