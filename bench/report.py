#!/usr/bin/python3
"""Turns the benchmarks' figures into two tables and a chart.

Usage: report.py FIGURES.json PLACEMENTS.json EXTRA.json COSTS.md MEASUREMENTS.md CHART.png
COSTS gets the rows for users, MEASUREMENTS all of them. Both documents keep
everything outside the two marker lines.
"""
import json
import sys

import matplotlib

matplotlib.use("Agg")
import matplotlib.pyplot as plt  # noqa: E402

BEGIN, END = "<!-- figures: made by scripts/bench -->", "<!-- end of figures -->"

# The goals: benchmark name, text, at most.
TARGETS = [
    ("publish/raw array/8", "publish to 8 against the raw array", 1.10),
    ("publish/raw array/64", "publish to 64 against the raw array", 1.10),
    ("publish/raw array/1000", "publish to 1000 against the raw array", 1.10),
    ("publish/std::function/1", "publish to 1 against one `std::function` call in a vector", 1.5),
    ("publish/raw array/0", "publish to 0 against the raw array's empty loop", 2.5),
    ("publish/raw array/100000", "publish to 100000 against the raw array", 1.05),
    ("hub, resolved publisher/local channel/1",
     "publish to 1 through a publisher resolved from a hub against a local channel", 1.02),
    ("hub, resolved publisher/local channel/8",
     "publish to 8 through a publisher resolved from a hub against a local channel", 1.02),
    ("hub, looked up each time/local channel/1",
     "look up in a hub by type and publish to 1, each time, against a local channel", 1.5),
    ("publish to an address/unordered_map of functions/1000000",
     "publish to one address among 1 M against an `unordered_map` of vectors of `std::function`", 0.8),
    ("publish to an address, growth/itself at 1000/1000000",
     "publish to one random address among 1 M against the same among 1 k", 3),
    ("query/std::function", "query with one answerer against a call through `std::function`", 1.3),
    ("outbox/vector filled and looped/8",
     "outbox post + deliver against a vector filled and looped over, 8 listeners", 1.25),
    ("outbox/vector filled and looped/1", "the same with 1 listener", 1.25),
    ("outbox/vector filled and looped/0", "the same with nobody there", 1.25),
    ("setting a state/a cell with std::functions/1", "a state set, with 1 handler, against a cell that calls a `std::function`", 3),
    ("setting a state/a cell with std::functions/8", "the same with 8", 3),
    ("spans/one payload each/8",
     "1000 payloads to 8 handlers that take spans against 8 that take one (a third: three times the deliveries)", 0.333),
    ("inbox/mutex and vector/1", "inbox against a mutex and a vector, 1 sender", 0.35),
    ("inbox/mutex and vector/2", "the same with 2 senders", 0.2),
    ("inbox/mutex and vector/4", "the same with 4 senders", 0.15),
    ("sending/lock, push, unlock", "sending alone, uncontended, against lock, push, unlock", 0.5),
    ("entities, posting/two vectors filled/300000",
     "300 000 posts to 100 000 addresses against two vectors filled", 1.5),
    ("entities, delivering/two vectors looped over/300000",
     "their delivery to one handler of spans against a loop over the two vectors", 1.2),
    ("timers/heap of std::functions/500",
     "fifty calls of a subscriber asked for and come, among 500 that wait, against a heap of `std::function`", 1.3),
    ("owner of four/four vectors of std::functions",
     "a subscriber with four subscriptions made and destroyed against four vectors of `std::function`", 1.4),
    ("two waits in turn/awaiter lists",
     "a sequence that waits for one channel and then for another, against a coroutine in lists of awaiters", 4),
    ("timers, growth/itself at 1000/1000000", "a timer asked for and come, 1 M pending against 1 k", 3),
    ("filter and transform/one lambda/1",
     "filter + transform + handler against the same in one lambda, 1 subscription", 1.05),
    ("filter and transform/one lambda/8", "the same with 8 subscriptions", 1.05),
    ("filter and transform/one lambda/1000", "the same with 1000", 1.05),
    ("formulas in a chain/cells by hand/1000",
     "a change that passes 1000 formulas, against cells by hand that know what they read and cut off what is the same", 1.3),
    ("formulas in a chain/cells by hand/1", "the same with one formula", 1.7),
    ("refreshers of one state/plain deliveries/10000",
     "a change of a state with 10 k refreshers, per refresher, against a plain delivery to 10 k", 3),
    ("systems/std::function calls/1000",
     "updating 1000 systems against calling 1000 functions through `std::function`", 1.5),
    ("entering a phase/publishing/8", "entering a phase that 8 listen to against publishing to as many", 1.2),
    ("entering a phase/publishing/64", "the same with 64", 1.2),
    ("entering a phase/publishing/1000", "the same with 1000", 1.2),
    ("wiring/a lambda/1", "a wired reaction (one condition, two parameters) against the same as a lambda", 3),
    ("wiring/parsing alone/10000", "loading and checking 10 k wires against parsing the same text alone", 1.5),
    ("wiring/delivering 10000/reload",
     "a reload of 10 k wires of which ten changed, time in the frame, against delivering 10 k payloads to one handler", 1),
    ("waiting for the next/plain delivery/1",
     "waiting for the next payload and being resumed against a plain delivery", 4),
    ("ledger detached/without ledgers/8",
     "publish to 8 with ledgers compiled in and none attached, against without ledgers", 1.02),
    ("ledger attached/without ledgers/8", "the same with one attached", 2),
    ("recording/formatting the line with fmt/1",
     "a publish to 1 that is recorded, on the publishing thread, against formatting its line with fmt", 0.5),
    ("reading for stats/simdjson, one thread/100000",
     "reading a recording for `stats` against simdjson's pass over the file on one thread", 1.5),
    ("a look at what was read/reading it/100000", "a look of `courier watch` at events that it has read before, against reading them", 0.02),
    ("subscribe + unsubscribe, growth/itself at 1000/100000",
     "subscribe + unsubscribe at random at 100 k against the same at 1 k", 1.5),
    ("subscribe + unsubscribe/searched std::function/10000",
     "subscribe + unsubscribe at 10 k against a vector of `std::function` searched by id", 0.1),
]

# The rows for users: benchmark name, the work, the hand-written way.
COSTS = [
    ("publish/std::function/1", "publish to one subscriber", "one `std::function` in a vector"),
    ("publish/raw array/8", "publish to eight", "a loop over function pointers"),
    ("publish to an address/unordered_map of functions/1000000", "publish to one address of a million",
     "an `unordered_map` of vectors of `std::function`"),
    ("outbox/vector filled and looped/8", "post a payload and deliver it to eight", "a vector, filled and looped over"),
    ("inbox/mutex and vector/2", "send from two other threads", "a mutex and a vector"),
    ("setting a state/a cell with std::functions/1", "set a state that has one handler", "a value and a vector of `std::function`"),
    ("timers/heap of std::functions/500", "a call after a delay, among five hundred", "a heap of `std::function`"),
    ("entities, delivering/two vectors looped over/300000", "300 000 payloads for 100 000 objects to one system",
     "a loop over two vectors"),
    ("formulas in a chain/cells by hand/1000", "a change that passes a thousand formulas", "cells that know what they read, cut off where nothing differs"),
    ("waiting for the next/plain delivery/1", "a sequence waits for the next payload", "a plain delivery"),
    ("wiring/a lambda/1", "a reaction from a wiring file", "a lambda with the same condition and action"),
    ("ledger attached/without ledgers/8", "publish to eight with a ledger attached", "the same without"),
]


def load(path):
    with open(path, encoding="utf-8") as file:
        return json.load(file)


def figures_of(raw):
    return {b["name"].removesuffix(f"/iterations:{b['iterations']}"): b for b in raw["benchmarks"]}


def number(value):
    return f"{value:.3f}" if value < 0.1 else f"{value:.2f}"


def verdict(value, most):
    return "yes" if value <= most else "**no**"


def costs(figures, extra):
    yield f"Measured on {extra['machine']}, {extra['compiler']}, {extra['date']}."
    yield ""
    yield "| the library's way | by hand | ratio |"
    yield "|---|---|---|"
    for name, ours, theirs in COSTS:
        yield f"| {ours} | {theirs} | {number(figures[name]['ratio'])} |"


def rows(figures, extra):
    yield "| what | at most | measured | reached |"
    yield "|---|---|---|---|"
    for name, text, most in TARGETS:
        value = figures[name]["ratio"]
        yield f"| {text} | {most} | {number(value)} | {verdict(value, most)} |"
    size = max(figures[f"bytes per subscription/{n}"]["bytes"] for n in (1000, 10000, 100000))
    yield f"| bytes per subscription of a handler capturing one pointer, its handle counted (worst of 1 k, 10 k, 100 k) | 96 | {size:.0f} | {verdict(size, 96)} |"
    yield f"| compile time of `<courier/channel.hpp>` against `<functional>` + `<vector>` + `<memory>` | 1.5 | {extra['compile_ratio']:.2f} | {verdict(extra['compile_ratio'], 1.5)} |"
    yield f"| machine code per further payload type (channel, subscribe, publish) | 1536 B | {extra['code_per_payload']:.0f} B | {verdict(extra['code_per_payload'], 1536)} |"


def all_ratios(figures):
    yield "| publish, against | 0 | 1 | 4 | 8 | 64 | 1000 | 100000 |"
    yield "|---|---|---|---|---|---|---|---|"
    for side in ("raw array", "virtual listeners", "std::function", "map by type"):
        cells = [number(figures[f"publish/{side}/{n}"]["ratio"]) for n in (0, 1, 4, 8, 64, 1000, 100000)]
        yield f"| {side} | " + " | ".join(cells) + " |"
    cells = [number(figures[f"publish, member functions/raw array/{n}"]["ratio"]) for n in (1, 8, 64, 1000)]
    yield f"| raw array, handlers being member functions | – | {cells[0]} | – | {cells[1]} | {cells[2]} | {cells[3]} | – |"
    yield ""
    yield "| also | ratio |"
    yield "|---|---|"
    for name in ("nested publish, 4 deep/raw arrays",
                 "wiring/a lambda that publishes/1",
                 "subscribe + unsubscribe/searched std::function/1000",
                 "subscribe + unsubscribe/searched std::function/100000",
                 "subscribe + unsubscribe, growth/itself at 1000/10000",
                 "subscribe + unsubscribe, oldest first, growth/itself at 1000/100000",
                 "bare walk through memory, growth/itself at 1000/10000",
                 "bare walk through memory, growth/itself at 1000/100000",
                 "hub, looked up each time/local channel/8",
                 "publish to an address/unordered_map of functions/1000",
                 "unordered_map of functions, growth/itself at 1000/1000000",
                 "array by number, growth/itself at 1000/1000000",
                 "ledger attached/without ledgers/1",
                 "ledger attached/without ledgers/64"):
        yield f"| {name.replace('/', ': ', 1).replace('/', ', ')} | {number(figures[name]['ratio'])} |"


def placements(figures):
    yield "| publish against the raw array, in eight placements | at most | best | worst | reached |"
    yield "|---|---|---|---|---|"
    for count, most in ((1, 1.4), (8, 1.05), (64, 1.05), (1000, 1.05)):
        ratios = [b["quick_ratio"] for name, b in figures.items() if name.startswith("placed/") and name.endswith(f"/{count}")]
        yield f"| to {count} | {most} | {number(min(ratios))} | {number(max(ratios))} | {verdict(max(ratios), most)} |"


def section(figures, placed, extra):
    lines = [f"Measured on {extra['machine']}, {extra['compiler']}, {extra['date']}.", ""]
    lines += rows(figures, extra)
    lines += [""]
    lines += placements(placed)
    lines += ["", "All ratios (ours / theirs; below 1 is faster than by hand):", ""]
    lines += all_ratios(figures)
    lines += ["", "Bytes per subscription at an address of its own, among 1 M, its handle not counted: "
              f"{figures['bytes per addressed subscription/1000000']['bytes']:.0f}."]
    lines += ["", f"Instructions per delivery (callgrind): ours {extra['instructions_courier']:.1f}, raw array "
              f"{extra['instructions_raw']:.1f}. Instructions per publish, before the first delivery: ours "
              f"{extra['publish_courier']:.0f}, raw array {extra['publish_raw']:.0f}."]
    return "\n".join(lines)


def write_document(path, text):
    with open(path, encoding="utf-8") as file:
        document = file.read()
    head, rest = document.split(BEGIN)
    tail = rest.split(END)[1]
    with open(path, "w", encoding="utf-8") as file:
        file.write(f"{head}{BEGIN}\n{text}\n{END}{tail}")


def draw(figures, path):
    sizes = (0, 1, 4, 8, 64, 1000, 100000)
    sides = (("raw array", "#2f6f8f", "o"), ("virtual listeners", "#b5651d", "s"),
             ("std::function", "#5a8f3c", "^"), ("map by type", "#8a4f7d", "D"))
    plt.rcParams.update({"font.size": 12})
    chart, axes = plt.subplots(figsize=(12.8, 8), dpi=100)
    for side, hue, marker in sides:
        axes.plot(range(len(sizes)), [figures[f"publish/{side}/{n}"]["ratio"] for n in sizes], label=side,
                  color=hue, marker=marker, linewidth=2, markersize=8)
    axes.axhline(1.0, color="#444444", linewidth=1)
    axes.text(len(sizes) - 1, 1.02, "as fast as by hand", ha="right", va="bottom", color="#444444")
    axes.set_xticks(range(len(sizes)), [f"{n:,}".replace(",", " ") for n in sizes])
    axes.set_xlabel("subscribers")
    axes.set_ylabel("time of a publish / time of the hand-written way")
    axes.set_title("Publishing against the hand-written ways (lower is faster)")
    axes.set_ylim(bottom=0)
    axes.grid(axis="y", color="#dddddd")
    axes.spines[["top", "right"]].set_visible(False)
    axes.legend(frameon=False, title="against")
    chart.tight_layout()
    chart.savefig(path)


def main():
    figures, placed, extra = figures_of(load(sys.argv[1])), figures_of(load(sys.argv[2])), load(sys.argv[3])
    text = section(figures, placed, extra)
    print(text)
    write_document(sys.argv[4], "\n".join(costs(figures, extra)))
    write_document(sys.argv[5], text)
    draw(figures, sys.argv[6])


main()
