"""The function ledger: which functions live on when modules are taken out, replaced or bypassed, and what keeps them alive.

A search over the module graph; no car is hard-coded. A node is the radio, a module, a feed or a speaker; an edge is a factory
link that carries something, or a module's own output pair to a speaker. An optical ring carries only while it is closed.
"""

from __future__ import annotations

from collections import OrderedDict, deque
from collections.abc import Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from ohmack.core.document import Design
from ohmack.core.document.factory import ChannelPlace, FactoryLinkKind, ModuleKind
from ohmack.core.document.functions import Act, CarFunction, FunctionKind, Intervention, KeepAlive
from ohmack.core.reference import read_toml

FRONT = (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT, ChannelPlace.CENTRE)
AUDIO_BY_WIRE = (FactoryLinkKind.ANALOGUE.value, FactoryLinkKind.SPEAKER.value)
OPENING = (KeepAlive.STAYS, KeepAlive.BOARD, KeepAlive.INTERFACE)  # what lets a module go on talking


class Fate(StrEnum):
    """What becomes of a function, best first."""

    KEPT = "kept"
    ADAPTED = "kept with an adapter"
    LOST = "lost"
    UNCLEAR = "not traced"


@dataclass(frozen=True, slots=True)
class Edge:
    """One way between two nodes."""

    id: str
    kind: str
    a: str
    b: str


@dataclass(frozen=True, slots=True)
class Verdict:
    """One function under a plan: its fate, why, the way it takes, where that breaks, what restores it."""

    function: CarFunction
    fate: Fate
    why: str
    way: tuple[str, ...]
    broken_at: str
    measures: tuple[tuple[str, KeepAlive], ...] = ()


def about(kind: FunctionKind) -> dict[str, object]:
    """What is on file for a kind of function."""
    found: dict[str, object] = read_toml("functions")["kinds"][kind.value]
    return found


class ModuleGraph:
    """The factory system under a set of interventions."""

    def __init__(self, design: Design, interventions: Iterable[Intervention] = ()) -> None:
        self.design, self.vehicle = design, design.vehicle
        self.acts = {i.id: i for i in interventions}
        vehicle = self.vehicle
        self.names = {vehicle.radio.id: vehicle.radio.name}
        for pool in (vehicle.modules, vehicle.feeds, vehicle.speakers):
            self.names |= {item.id: item.name for item in pool}
        self.absent = {m.id for m in vehicle.modules if m.fitted.value is False}
        self.edges = tuple(self._edges())

    def _edges(self) -> Iterator[Edge]:
        for link in self.vehicle.factory_links:
            if link.carries.value is not False and not {link.from_id, link.to_id} & self.absent:
                yield Edge(link.id, link.kind.value, link.from_id, link.to_id)
        places = {c.id: (s.id, c.place) for s in self.vehicle.sources for c in s.channels}
        for speaker in self.vehicle.speakers:
            if speaker.channel_id in places:
                source_id, _ = places[speaker.channel_id]
                if source_id not in self.absent:
                    yield Edge(f"pair-{speaker.id}", "pair", source_id, speaker.id)

    # -- what is left standing -----------------------------------------------------------------------------------

    def talks(self, node: str) -> bool:
        """Whether a node is there and goes on talking to its neighbours."""
        if node in self.absent:
            return False
        act = self.acts.get(node)
        return act is None or act.act is Act.BYPASSED or any(k in OPENING for k in act.keep_alive)

    @cached_property
    def _amplifiers(self) -> frozenset[str]:
        return frozenset(m.id for m in self.vehicle.modules if m.amplifies)

    def passes(self, node: str, kind: str) -> bool:
        """Whether a kind of link still runs through a node, whether it talks itself or is looped or bridged."""
        if self.talks(node):
            return True
        act = self.acts.get(node)
        if act is None:
            return False
        if act.act is Act.REPLACED and node in self._amplifiers and kind in AUDIO_BY_WIRE:
            return True  # the new amplifier takes the same lines
        return (KeepAlive.LOOPED if kind == FactoryLinkKind.RING.value else KeepAlive.PLUG) in act.keep_alive

    def drives(self, source_id: str, speaker_id: str) -> bool:
        """Whether a source's output pair still drives a speaker."""
        act = self.acts.get(source_id)
        if act is None:
            return self.talks(source_id)
        if act.act is Act.REPLACED and source_id in self._amplifiers:
            return self.talks(source_id) or any(
                e.kind in AUDIO_BY_WIRE and source_id in (e.a, e.b) for e in self.edges
            )  # the new amplifier stands in its place
        if KeepAlive.CENTRE not in act.keep_alive or act.act is not Act.BYPASSED:
            return False
        speaker = next(s for s in self.vehicle.speakers if s.id == speaker_id)
        channel = next((c for c in self.vehicle.channels if c.id == speaker.channel_id), None)
        return channel is not None and channel.place in FRONT

    @cached_property
    def rings(self) -> tuple[frozenset[str], ...]:
        """The nodes of every optical ring."""
        near: dict[str, set[str]] = {}
        for edge in self.edges:
            if edge.kind == FactoryLinkKind.RING.value:
                near.setdefault(edge.a, set()).add(edge.b)
                near.setdefault(edge.b, set()).add(edge.a)
        found: list[frozenset[str]] = []
        while near:
            todo, seen = [next(iter(near))], set[str]()
            while todo:
                node = todo.pop()
                if node not in seen:
                    seen.add(node)
                    todo += near[node]
            found.append(frozenset(seen))
            for node in seen:
                del near[node]
        return tuple(found)

    def ring_gaps(self, ring: frozenset[str]) -> tuple[str, ...]:
        """Nodes of a ring that do not have exactly two fibres; a ring with a gap carries nothing."""
        ends: dict[str, int] = dict.fromkeys(ring, 0)
        for edge in self.edges:
            if edge.kind == FactoryLinkKind.RING.value and edge.a in ring:
                ends[edge.a] += 1
                ends[edge.b] += 1
        return tuple(sorted(node for node, fibres in ends.items() if fibres != 2))

    @cached_property
    def _dark(self) -> frozenset[str]:
        """Nodes of rings that are open."""
        dark: set[str] = set()
        for ring in self.rings:
            if self.ring_gaps(ring) or not all(self.passes(node, FactoryLinkKind.RING.value) for node in ring):
                dark |= ring
        return frozenset(dark)

    def powered(self, node: str) -> bool:
        """Whether a chain of feeds reaches a node; one without a feed on file counts as fed."""
        return self._powered(node, frozenset())

    def _powered(self, node: str, above: frozenset[str]) -> bool:
        if node in above:
            return False  # feeds in a circle feed nothing
        if any(feed.id == node for feed in self.vehicle.feeds):
            return True
        if not self.talks(node):
            return False
        feeds = [e.a for e in self.edges if e.kind == FactoryLinkKind.FEED.value and e.b == node]
        return not feeds or any(self._powered(feeder, above | {node}) for feeder in feeds)

    def open_edges(self, kinds: frozenset[str]) -> Iterator[Edge]:
        """The edges of some kinds that still carry; output pairs always among them."""
        for edge in self.edges:
            if edge.kind == "pair":
                if self.drives(edge.a, edge.b):
                    yield edge
            elif edge.kind in kinds and self.passes(edge.a, edge.kind) and self.passes(edge.b, edge.kind):
                if edge.kind == FactoryLinkKind.RING.value and edge.a in self._dark:
                    continue
                yield edge

    def way(self, start: str, end: str, kinds: frozenset[str]) -> tuple[str, ...] | None:
        """The shortest open way between two nodes, as node ids; None where there is none."""
        near: dict[str, list[str]] = {}
        for edge in self.open_edges(kinds):
            near.setdefault(edge.a, []).append(edge.b)
            near.setdefault(edge.b, []).append(edge.a)
        speakers = {s.id for s in self.vehicle.speakers}
        came: dict[str, str] = {start: ""}
        queue = deque([start])
        while queue:
            node = queue.popleft()
            if node == end:
                steps = [node]
                while came[steps[-1]]:
                    steps.append(came[steps[-1]])
                return tuple(reversed(steps))
            if node in speakers and node != start:
                continue  # nothing passes through a speaker
            for other in near.get(node, ()):
                if other not in came and (other == end or not self.talks(other) or self.powered(other)):
                    came[other] = node
                    queue.append(other)
        return None

    def works(self, function: CarFunction) -> tuple[str, ...] | None:
        """The way a function takes, None where it does not work."""
        alone = function.heard_at_id is None or function.heard_at_id == function.made_by_id
        needed = (function.made_by_id, *function.needs_ids)
        speakers = {s.id for s in self.vehicle.speakers}
        if not all(node in speakers or (self.talks(node) and self.powered(node)) for node in needed):
            return None
        if alone:
            return (function.made_by_id,)
        end = function.heard_at_id or ""
        if end not in speakers and not (self.talks(end) and self.powered(end)):
            return None
        travels = about(function.kind)["travels"]
        assert isinstance(travels, list)
        return self.way(function.made_by_id, end, frozenset(travels))


def functions_of(design: Design) -> list[CarFunction]:
    """The functions the car has, as far as is known."""
    return [f for f in design.vehicle.functions if f.has_it.value is not False]


_judged: OrderedDict[tuple[int, ...], tuple[tuple[object, ...], tuple[Verdict, ...]]] = OrderedDict()
JUDGED_SIZE = 256


def judge_functions(design: Design) -> tuple[Verdict, ...]:
    """The fate of every function under the design's interventions; remembered by what it rests on, as a sweep shares most.

    Parameters:
        design: the design.

    Returns:
        one verdict a function: its factory way, where the plan breaks it, and the single measures that restore it.
    """
    v = design.vehicle
    rests_on = (v.radio, v.modules, v.factory_links, v.functions, v.speakers, v.feeds, design.interventions)
    key = tuple(id(part) for part in rests_on)
    known = _judged.get(key)
    if known is not None and all(a is b for a, b in zip(known[0], rests_on, strict=True)):
        return known[1]
    before = ModuleGraph(design)
    after = ModuleGraph(design, design.interventions)
    verdicts = tuple(_verdict(design, before, after, f) for f in functions_of(design))
    _judged[key] = (rests_on, verdicts)  # held, so no other object can take its ids
    while len(_judged) > JUDGED_SIZE:
        with suppress(KeyError):  # another thread was quicker
            _judged.popitem(last=False)
    return verdicts


def _verdict(design: Design, before: ModuleGraph, after: ModuleGraph, function: CarFunction) -> Verdict:
    intact = before.works(function)
    if intact is None:
        return Verdict(function, Fate.UNCLEAR, "nothing on file carries it", (), "")
    if not design.interventions:
        return Verdict(function, Fate.KEPT, "untouched", intact, "")
    adapters = [
        i
        for i in design.interventions
        if KeepAlive.INTERFACE in i.keep_alive and i.id in (*intact, *function.needs_ids)
    ]
    way = after.works(function)
    if way is not None:
        if adapters:
            return Verdict(function, Fate.ADAPTED, f"through the interface for {after.names[adapters[0].id]}", way, "")
        return Verdict(
            function,
            Fate.KEPT,
            _kept_by(design, after, way, function)
            or ("its way stays as it was" if way == intact else "it takes another way"),
            way,
            "",
        )
    taken_over = _by_new_radio(design, function)
    if taken_over is not None:
        fate, why = taken_over
        return Verdict(function, fate, why, intact, "")
    node, why = _break(after, function, intact)
    return Verdict(function, Fate.LOST, why, intact, node, tuple(_measures(design, function)))


def _kept_by(design: Design, graph: ModuleGraph, way: tuple[str, ...], function: CarFunction) -> str:
    """The measure a function lives on by, in words; empty where nothing on its way is touched."""
    for act in design.interventions:
        if act.id in (*way, *function.needs_ids) and act.keep_alive:
            return f"{graph.names[act.id]}: {act.keep_alive[-1].value}"
    return ""


def _by_new_radio(design: Design, function: CarFunction) -> tuple[Fate, str] | None:
    """How a new radio takes a function over, where the old radio alone stood in its way."""
    radio_id = design.vehicle.radio.id
    words = about(function.kind)["new_radio"]
    act = next((i for i in design.interventions if i.id == radio_id), None)
    if act is None or act.act is not Act.REPLACED or not words:
        return None
    if words == "own":
        return Fate.KEPT, "the new radio has its own"
    as_if = tuple(i for i in design.interventions if i.id != radio_id)
    if ModuleGraph(design, as_if).works(function) is None:
        return None
    return Fate.ADAPTED, f"needs {words}"


def _break(graph: ModuleGraph, function: CarFunction, intact: tuple[str, ...]) -> tuple[str, str]:
    """(node, sentence): the first thing on the factory way that no longer works."""
    for node in (*function.needs_ids, *intact):
        act = graph.acts.get(node)
        if act is not None and not graph.talks(node):
            return node, f"it goes through {graph.names[node]}, which is {act.act.value}"
    for a, b in zip(intact, intact[1:], strict=False):
        if b in {s.id for s in graph.vehicle.speakers} and not graph.drives(a, b):
            return a, f"it is heard from {graph.names[b]}, which {graph.names[a]} no longer drives"
    for ring in graph.rings:
        if ring & set(intact):
            gone = next((n for n in sorted(ring) if not graph.passes(n, FactoryLinkKind.RING.value)), "")
            if gone:
                return gone, f"the optical ring is open where {graph.names[gone]} was"
    for node in intact:
        if not graph.powered(node):
            return node, f"{graph.names[node]} has lost its feed"
    return intact[0], "its way is cut"


def fitting_measures(design: Design, intervention: Intervention) -> tuple[KeepAlive, ...]:
    """The measures that make sense for what happens to a module."""
    module = next((m for m in design.vehicle.modules if m.id == intervention.id), None)
    if intervention.act is Act.BYPASSED:
        return (KeepAlive.CENTRE,)
    in_ring = any(intervention.id in ring for ring in ModuleGraph(design).rings)
    found = [KeepAlive.STAYS] if module is not None else []
    if in_ring:
        found.append(KeepAlive.LOOPED)
    if module is not None and module.kind is ModuleKind.CHANGER:
        found.append(KeepAlive.PLUG)
    return (*found, KeepAlive.BOARD, KeepAlive.INTERFACE)


def _measures(design: Design, function: CarFunction) -> Iterator[tuple[str, KeepAlive]]:
    """Single measures that bring a lost function back, the simplest first."""
    for intervention in design.interventions:
        for measure in fitting_measures(design, intervention):
            if measure in intervention.keep_alive:
                continue
            more = intervention.model_copy(update={"keep_alive": (*intervention.keep_alive, measure)})
            tried = tuple(more if i.id == intervention.id else i for i in design.interventions)
            if ModuleGraph(design, tried).works(function) is not None:
                yield intervention.id, measure


def hangs_on(design: Design) -> dict[str, tuple[CarFunction, ...]]:
    """For the radio and every module: the functions that die when it alone is taken out and nothing is done about it."""
    nodes = [design.vehicle.radio.id, *(m.id for m in design.vehicle.modules if m.fitted.value is not False)]
    before = ModuleGraph(design)
    working = [f for f in functions_of(design) if before.works(f) is not None]
    result = {}
    for node in nodes:
        graph = ModuleGraph(design, (Intervention(id=node),))
        result[node] = tuple(f for f in working if graph.works(f) is None)
    return result


def graph_troubles(design: Design) -> Iterator[tuple[str, str, str]]:
    """(about, title, text) of what cannot be right in the survey's module graph: ring gaps, circles of feeds."""
    graph = ModuleGraph(design)
    for ring in graph.rings:
        if gaps := graph.ring_gaps(ring):
            names = ", ".join(graph.names[n] for n in gaps)
            yield (
                gaps[0],
                "The optical ring has a gap",
                f"Every module of a ring has two fibres; {names} has not. Look for the missing fibre or module.",
            )
    feeders: dict[str, set[str]] = {}
    for edge in graph.edges:
        if edge.kind == FactoryLinkKind.FEED.value:
            feeders.setdefault(edge.b, set()).add(edge.a)
    for node in sorted(feeders):
        if node in _above(node, feeders):
            yield (
                node,
                f"{graph.names[node]} feeds itself",
                "The feeds on file run in a circle; one of them starts elsewhere.",
            )


def _above(node: str, feeders: dict[str, set[str]]) -> set[str]:
    seen: set[str] = set()
    todo = list(feeders.get(node, ()))
    while todo:
        here = todo.pop()
        if here not in seen:
            seen.add(here)
            todo += feeders.get(here, ())
    return seen
