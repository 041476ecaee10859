# SPDX-License-Identifier: MIT
"""Wired Courier in gdb: objects print in words, and `courier step` goes from a publish into its handlers.

In ~/.gdbinit, or typed at gdb's prompt:

    source /usr/share/wired-courier/wired_courier_gdb.py

The program must have debug information, with clang by -fstandalone-debug; the library need not."""

import os
import re

import gdb
import gdb.printing

OURS = re.compile(r"^courier::v\d+_\d+_\d::")
BLOCKED_BY_ITSELF, BLOCKED_BY_OWNER = 1, 2  # enum slot_block


def text(value):
    """A std::string or std::string_view."""
    names = {field.name for field in value.type.strip_typedefs().fields()}
    if "_M_dataplus" in names:  # libstdc++
        return value["_M_dataplus"]["_M_p"].string(length=int(value["_M_string_length"]))
    if "_M_str" in names:
        return value["_M_str"].string(length=int(value["_M_len"]))
    printer = gdb.default_visualizer(value)  # of another standard library
    return str(printer.to_string()).strip('"') if printer is not None else "?"


def place(where):
    """A std::source_location as FILE:LINE."""
    inside = where[where.type.strip_typedefs().fields()[0]]
    if inside == 0:
        return "an unknown place"
    data = inside.dereference()
    fields = {re.sub(r"^_?M?_+", "", field.name): field for field in data.type.strip_typedefs().fields()}
    return "%s:%d" % (os.path.basename(data[fields["file_name"]].string()), int(data[fields["line"]]))


def blocked(slot):
    state = int(slot["blocked"])
    return ", paused" if state & BLOCKED_BY_ITSELF else ", its subscriber is paused" if state & BLOCKED_BY_OWNER else ""


def owner_of(slot):
    return text(slot["owner"]["name"]) or "a subscriber without a name" if slot["owner"] != 0 else "no subscriber"


def subject_of(slot):
    """What a subscriber has subscribed to, or what else it owns."""
    name = text(slot["list"]["core"]["name"])
    parts = {"timed calls": "timed call", "sequences": "sequence", "pipelines": "pipeline", "refreshers": "refresher"}
    return parts.get(name, "'%s'" % name)


def core_of(value):
    """The core of a channel, or of what a `held` refers to."""
    return value["core_"] if value.type.strip_typedefs().code == gdb.TYPE_CODE_STRUCT else value


def slots_of(core):
    """The subscriptions of a channel that are live, in the order of delivery."""
    where = str(core.type.target().strip_typedefs().tag or core.type.target())
    gone = gdb.parse_and_eval("&'%sgone_mark'" % where[: where.rindex("::") + 2])
    stages = core["lists"]
    while stages != 0:
        for i in range(int(stages["size"])):
            if int(stages["entries"][i]["state"]) != int(gone):
                yield stages["slots"][i]
        stages = stages["next"]


def lines(slots):
    for number, slot in enumerate(slots):
        yield "[%d]" % number, "%s, subscribed at %s%s" % (owner_of(slot), place(slot["where"]), blocked(slot))


class Channel:
    """A channel, with or without addresses; a publisher prints as one."""

    word = "channel"

    def __init__(self, value):
        self.core = core_of(value["core_"])

    def to_string(self):
        if int(self.core["closed"]) != 0:
            return "%s that is gone" % self.word
        return "%s '%s' (%d subscribed)" % (self.word, text(self.core["name"]), int(self.core["live"]))

    def children(self):
        return lines(slots_of(self.core)) if int(self.core["closed"]) == 0 else iter(())


class Publisher(Channel):
    word = "publisher on channel"


class Subscription:
    def __init__(self, value):
        self.slot = value["slot_"]

    def to_string(self):
        if self.slot == 0:
            return "no subscription"
        channel = text(self.slot["list"]["core"]["name"])
        return "subscription to '%s', made at %s%s" % (channel, place(self.slot["where"]), blocked(self.slot))


class Subscriber:
    def __init__(self, value):
        self.party = value["party_"]

    def slots(self):
        slot = self.party["first"]
        while slot != 0:
            yield slot
            slot = slot["next"]

    def to_string(self):
        state = ", paused" if int(self.party["paused"]) else ", asleep" if int(self.party["asleep"]) else ""
        return "subscriber '%s'%s (owns %d)" % (text(self.party["name"]), state, int(self.party["count"]))

    def children(self):
        for number, slot in enumerate(self.slots()):
            yield "[%d]" % number, "%s at %s%s" % (subject_of(slot), place(slot["where"]), blocked(slot))


class Value:
    """A state, a formula, a list or a map: its name and what it holds."""

    def __init__(self, word, value, field):
        self.word, self.value, self.field = word, value, field

    def to_string(self):
        return "%s '%s'" % (self.word, text(self.value["name_"]))

    def children(self):
        yield "value", self.value[self.field]
        core = self.value["core_"] if gdb.types.has_field(self.value.type, "core_") else None
        if core is not None:
            yield from lines(slots_of(core))


class Phases:
    def __init__(self, value):
        self.core = value["core_"]["core_"]

    def to_string(self):
        return "phases '%s' in '%s'" % (text(self.core["name"]), text(self.core["names"][int(self.core["now"])]))


class Timetable:
    def __init__(self, value):
        self.core = value["core_"]

    def to_string(self):
        seconds = int(self.core["now"]) / 1e9
        return "timetable '%s' at %.3f s (%d waiting)" % (text(self.core["name"]), seconds, int(self.core["live"]))


class Outbox:
    def __init__(self, value):
        self.core = value["core_"]

    def to_string(self):
        return "outbox '%s' (%d delivered in %d rounds)" % (
            text(self.core["name"]), int(self.core["delivered"]), int(self.core["rounds"]))


class Group:
    def __init__(self, value):
        self.value = value

    def to_string(self):
        return "group '%s'" % text(self.value["name_"])


class Shown:
    """The text and the parts that a printer gives, or why it has none."""

    def __init__(self, printer, value):
        try:
            made = printer(value)
            self.told = made.to_string()
            self.parts = list(made.children()) if hasattr(made, "children") else []
        except gdb.error as missing:
            self.told = "not readable (%s; clang needs -fstandalone-debug)" % missing
            self.parts = []

    def to_string(self):
        return self.told

    def children(self):
        return iter(self.parts)


def printers():
    made = gdb.printing.RegexpCollectionPrettyPrinter("wired-courier")

    def add(name, printer, template=True):
        pattern = r"^courier::v\d+_\d+_\d::%s%s$" % (name, "<.*>" if template else "")
        made.add_printer(name, pattern, lambda value: Shown(printer, value))

    add("channel", Channel)
    add("addressed_channel", Channel)
    add("publisher", Publisher)
    add("addressed_publisher", Publisher)
    add("subscription", Subscription, False)
    add("subscriber", Subscriber, False)
    add("state", lambda value: Value("state", value, "value_"))
    add("formula", lambda value: Value("formula", value, "value_"))
    add("announced_list", lambda value: Value("list", value, "items_"))
    add("announced_map", lambda value: Value("map", value, "items_"))
    add("phases", Phases)
    add("timetable", Timetable, False)
    add("outbox", Outbox, False)
    add("group", Group)
    return made


def path_of(symtab):
    """Without detours: a compiler that was given a relative path notes "build/../include"."""
    return os.path.normpath(symtab.fullname()) if symtab is not None else ""


def folders_of_library():
    """Where the headers lie, and beside them the sources, if they are there. The library and the game may have been
    built in different places."""
    files = [path_of(line.symtab) for line in gdb.decode_line("detail::call_handler")[1] or []]
    return tuple({file[: file.index("/include/courier/")] for file in files if "/include/courier/" in file})


def is_on_the_way(frame, libraries):
    """Code of the library, or of the standard library between it and a handler. Short debug information (-g1)
    gives functions without their namespaces, so the file counts as well."""
    name = frame.name() or ""
    file = path_of(frame.find_sal().symtab)
    sources = r"/(include/courier|src/(base|data|delivery|ferry|flow|gateway|later|ledger|recording|routing|values|wiring))/"
    is_ours = any(file.startswith(folder) and re.match(sources, file[len(folder):]) for folder in libraries)
    return is_ours or OURS.match(name) is not None or name.startswith("std::") or "/include/c++/" in file


def is_in_program(function):
    try:
        gdb.decode_line(function)
        return True
    except gdb.error:  # a game without sequences has none of theirs
        return False


class CourierCommand(gdb.Command):
    """Commands for programs with Wired Courier."""

    def __init__(self):
        super().__init__("courier", gdb.COMMAND_RUNNING, prefix=True)


class StepCommand(gdb.Command):
    """Step until control reaches another line of your code.

As `step`; but at a publish or a delivery it goes into the first handler, from the end of a handler into the next
one, and after the last one to the line behind the publish. Sequences, refreshers and timed calls count as handlers. Lines of the library are passed over, even
where they have debug information. Return repeats it."""

    most_steps = 1000
    entries = ("call_handler", "timed_call_of::run", "awaiting::await_resume", "refresher_of::renew_it")

    def __init__(self):
        super().__init__("courier step", gdb.COMMAND_RUNNING)
        self.calls = []  # breakpoints at every call of a function of the user's
        self.newest = None
        self.libraries = ()

    def note(self, event):
        self.newest = event

    def invoke(self, argument, from_tty):
        if not self.calls or not all(one.is_valid() for one in self.calls):
            self.libraries = folders_of_library()
            places = ["detail::" + name for name in self.entries]
            self.calls = [gdb.Breakpoint(place, internal=True) for place in places if is_in_program(place)]
        self.enable(True)
        quiet = gdb.parameter("suppress-cli-notifications")
        gdb.execute("set suppress-cli-notifications on")  # what is on the way
        gdb.events.stop.connect(self.note)
        try:
            self.step_to_code_of_the_user()
        finally:
            gdb.events.stop.disconnect(self.note)
            gdb.execute("set suppress-cli-notifications %s" % ("on" if quiet else "off"))
            self.enable(False)
        if self.is_alive():
            gdb.execute("frame")

    def enable(self, on):
        for one in self.calls:
            one.enabled = on

    def is_alive(self):
        return gdb.selected_inferior().pid != 0

    def breakpoints(self):
        return [one.number for one in getattr(self.newest, "breakpoints", [])]

    def is_interrupted(self):
        """By a breakpoint of the user's, or a signal."""
        return isinstance(self.newest, gdb.SignalEvent) or any(number > 0 for number in self.breakpoints())

    def has_come_to_handler(self):
        return any(one.number in self.breakpoints() for one in self.calls)

    def step_to_code_of_the_user(self):
        self.run("step")
        handler = None  # the frame that calls the handler which is being entered
        for _ in range(self.most_steps):
            if not self.is_alive() or self.is_interrupted():
                return
            frame = gdb.newest_frame()
            if self.has_come_to_handler():
                handler = frame
            if not is_on_the_way(frame, self.libraries):
                if gdb.find_pc_line(frame.pc()).pc == frame.pc():
                    return
                self.run("step")  # the rest of a line with a publish
            elif handler is not None and handler.is_valid():
                self.run("step")
            else:
                self.leave(frame)

    def leave(self, frame):
        """To the code of the user's that is around, unless a handler comes first."""
        while frame.older() is not None and is_on_the_way(frame.older(), self.libraries):
            frame = frame.older()
        frame.select()
        self.run("finish")

    def run(self, command):
        self.newest = None
        gdb.execute(command, to_string=True)


gdb.printing.register_pretty_printer(None, printers(), replace=True)
CourierCommand()
StepCommand()
