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

void free_dependency(dependency& d) noexcept {
    unlink_reader(d);
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

void note_other_read(reader_node& reader, source_node& source) {
    // Most often something was read once more, or something was left out.
    for (dependency* d = reader.sources; d != *reader.cursor; d = d->next_source) {
        if (d->source == &source) {
            d->seen = source.version;
            return;
        }
    }
    dependency* const expected = *reader.cursor;
    if (expected != nullptr && expected->next_source != nullptr && expected->next_source->source == &source) {
        *reader.cursor = expected->next_source;
        free_dependency(*expected);
    } else {
        dependency& made = take_dependency(*this_values.graph, reader);
        made.source = &source;
        made.reader = &reader;
        made.next_source = expected;
        link_reader(made);
        *reader.cursor = &made;
    }
    (*reader.cursor)->seen = source.version;
    reader.cursor = &(*reader.cursor)->next_source;
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
