"""The factory system as a graph under a set of interventions: what still talks, drives, passes and is fed.

A node is the radio, a module, a feed or a speaker; an edge is a factory link that carries something, or a module's
own output pair to a speaker. An optical ring carries only while it is closed.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator

from ohmack.core.document import Design
from ohmack.core.document.factory import ChannelPlace, FactoryLinkKind
from ohmack.core.document.functions import Act, CarFunction, FunctionKind, Intervention, KeepAlive
from ohmack.core.document.looking import Remembered
from ohmack.core.lazy import lazy
from ohmack.core.record import record
from ohmack.core.reference import read_toml

FRONT = (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT, ChannelPlace.CENTRE)
AUDIO_BY_WIRE = (FactoryLinkKind.ANALOGUE.value, FactoryLinkKind.SPEAKER.value)
RING, FEED = FactoryLinkKind.RING.value, FactoryLinkKind.FEED.value
OPENING = (KeepAlive.STAYS, KeepAlive.BOARD, KeepAlive.INTERFACE)  # what lets a module go on talking


@record
class Edge:
    """One way between two nodes."""

    id: str
    kind: str
    a: str
    b: str


def about(kind: FunctionKind) -> dict[str, object]:
    """What is on file for a kind of function."""
    found: dict[str, object] = read_toml("functions")["kinds"][kind.value]
    return found


_edges_of: Remembered[tuple[Edge, ...]] = Remembered(64)  # the same under every plan


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
        rests_on = (vehicle.radio, vehicle.modules, vehicle.factory_links, vehicle.speakers)
        self.edges = _edges_of.get(rests_on, (), lambda: tuple(self._edges()))
        self._talking: dict[str, bool] = {}
        self._fed: dict[str, bool] = {}
        self._nearby: dict[frozenset[str], dict[str, list[str]]] = {}

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
        known = self._talking.get(node)
        if known is None:
            act = self.acts.get(node)
            goes_on = act is None or act.act is Act.BYPASSED or any(k in OPENING for k in act.keep_alive)
            known = self._talking[node] = goes_on and node not in self.absent
        return known

    @lazy
    def _speakers(self) -> frozenset[str]:
        return frozenset(s.id for s in self.vehicle.speakers)

    @lazy
    def _feeds(self) -> frozenset[str]:
        return frozenset(feed.id for feed in self.vehicle.feeds)

    @lazy
    def _feeders(self) -> dict[str, list[str]]:
        """By node, what feeds it."""
        found: dict[str, list[str]] = {}
        for edge in self.edges:
            if edge.kind == FEED:
                found.setdefault(edge.b, []).append(edge.a)
        return found

    @lazy
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
        return (KeepAlive.LOOPED if kind == RING else KeepAlive.PLUG) in act.keep_alive

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

    @lazy
    def rings(self) -> tuple[frozenset[str], ...]:
        """The nodes of every optical ring."""
        near: dict[str, set[str]] = {}
        for edge in self.edges:
            if edge.kind == RING:
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
        return tuple(sorted(node for node, fibres in self.fibres(ring).items() if fibres != 2))

    @property
    def has_master(self) -> bool:
        """Whether the radio is the master of its ring; it is taken to be until somebody found another."""
        return self.vehicle.radio.ring_master.value is not False

    def fibres(self, ring: frozenset[str]) -> dict[str, int]:
        """How many fibres each node of a ring has."""
        ends: dict[str, int] = dict.fromkeys(ring, 0)
        for edge in self.edges:
            if edge.kind == RING and edge.a in ring:
                ends[edge.a] += 1
                ends[edge.b] += 1
        return ends

    @lazy
    def _dark(self) -> frozenset[str]:
        """Nodes of rings that are open."""
        dark: set[str] = set()
        for ring in self.rings:
            master = self.vehicle.radio.id  # a ring on which the radio sits talks only with it, however it is looped
            headless = master in ring and self.has_master and not self.talks(master)
            if headless or self.ring_gaps(ring) or not all(self.passes(node, RING) for node in ring):
                dark |= ring
        return frozenset(dark)

    def powered(self, node: str) -> bool:
        """Whether a chain of feeds reaches a node; one without a feed on file counts as fed."""
        known = self._fed.get(node)
        if known is None:
            known = self._fed[node] = self._powered(node, frozenset())
        return known

    def _powered(self, node: str, above: frozenset[str]) -> bool:
        if node in above:
            return False  # feeds in a circle feed nothing
        if node in self._feeds:
            return True
        if not self.talks(node):
            return False
        feeds = self._feeders.get(node, ())
        return not feeds or any(self._powered(feeder, above | {node}) for feeder in feeds)

    def open_edges(self, kinds: frozenset[str]) -> Iterator[Edge]:
        """The edges of some kinds that still carry; output pairs always among them."""
        for edge in self.edges:
            if edge.kind == "pair":
                if self.drives(edge.a, edge.b):
                    yield edge
            elif edge.kind in kinds and self.passes(edge.a, edge.kind) and self.passes(edge.b, edge.kind):
                if edge.kind == RING and edge.a in self._dark:
                    continue
                yield edge

    def _near(self, kinds: frozenset[str]) -> dict[str, list[str]]:
        """By node, its neighbours over open edges of some kinds."""
        known = self._nearby.get(kinds)
        if known is None:
            known = self._nearby[kinds] = {}
            for edge in self.open_edges(kinds):
                known.setdefault(edge.a, []).append(edge.b)
                known.setdefault(edge.b, []).append(edge.a)
        return known

    def way(self, start: str, end: str, kinds: frozenset[str]) -> tuple[str, ...] | None:
        """The shortest open way between two nodes, as node ids; None where there is none."""
        near, speakers = self._near(kinds), self._speakers
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
        speakers = self._speakers
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


def graph_troubles(design: Design) -> Iterator[tuple[str, str, str]]:
    """(about, title, text) of what cannot be right in the survey's module graph: ring gaps, circles of feeds."""
    graph = ModuleGraph(design)
    for ring in graph.rings:
        fibres = graph.fibres(ring)
        many = [n for n in graph.ring_gaps(ring) if fibres[n] > 2]
        if many:
            names = ", ".join(f"{graph.names[n]} has {fibres[n]}" for n in many)
            yield (
                many[0],
                "A module of the optical ring has too many fibres",
                f"Every module of a ring has two, one in and one out; {names}. One of the joins on file is not there.",
            )
        elif gaps := graph.ring_gaps(ring):
            names = ", ".join(graph.names[n] for n in gaps)
            yield (
                gaps[0],
                "The optical ring has a gap",
                f"Every module of a ring has two fibres; {names} has not. Look for the missing fibre or module.",
            )
    for edge in graph.edges:
        if edge.a == edge.b:
            yield (
                edge.a,
                f"{graph.names[edge.a]} drives itself",
                f"The {edge.kind} on file starts and ends there; one of its ends is another module.",
            )
    feeders: dict[str, set[str]] = {}
    for edge in graph.edges:
        if edge.kind == FEED:
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
