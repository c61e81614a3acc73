"""The Design: intake, vehicle, parts, links, policy. It is the same JSON in the database, the file and the tests."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import Field, model_validator

from ohmack.core.document.drop_readings import DropReading
from ohmack.core.document.facts import Model, Name, Note
from ohmack.core.document.functions import Intervention, KeepAlive
from ohmack.core.document.handover import HandOver
from ohmack.core.document.harness import Hunt
from ohmack.core.document.links import FeedLink, Link, LinkBase, RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.outgoing import Outgoing
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import PART_TYPES, Accessory, Part
from ohmack.core.document.policy import Policy
from ohmack.core.document.proof import Proof
from ohmack.core.document.registry import (
    Each,
    Gone,
    Many,
    Reference,
    Registry,
    child,
    named_by,
    reference_of,
    scan,
    walk,
)
from ohmack.core.document.strategy import StrategyKey, Weights
from ohmack.core.document.use import Use
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.document.work import Work

FORMAT: Literal["ohmack-design"] = "ohmack-design"
VERSION: Literal[2] = 2

P = TypeVar("P", bound=PartBase)
# What a reference may name, by the kinds of part (or thing) it may be; each group is built in this order.
GROUPS: dict[str, tuple[str, ...]] = {
    "radio or module": ("radio", "module"),
    "joined": ("radio", "module", "feed"),
    "maker": ("radio", "module"),
    "heard at": ("radio", "module", "speaker"),
    "amplifier": ("amplifier", "plug-in amplifier"),
    "converter": ("converter", "processor"),
    "switch-on source": ("feed", "converter", "radio part", "interface"),
    "switched": ("amplifier", "powered subwoofer", "converter", "radio part"),
    "speaker-level input": ("converter", "powered subwoofer", "amplifier"),
    "line source": ("converter", "radio part", "amplifier adapter", "radio"),
    "line input": ("amplifier", "powered subwoofer", "converter"),
    "power source": ("battery", "distribution block", "voltage converter"),
    "consumer": ("amplifier", "powered subwoofer"),
    "powered": ("amplifier", "powered subwoofer", "distribution block"),
    "ground": ("ground point", "distribution block"),
    "fed": ("converter", "powered subwoofer", "plug-in amplifier", "accessory", "radio part"),
    "driven": ("subwoofer", "speaker"),
    "in line": ("channel", "speaker"),
}
L = TypeVar("L", bound=LinkBase)


class Wish(StrEnum):
    BASS = "more bass"
    CLARITY = "clarity"
    SCREEN = "a modern screen"
    HIDDEN = "hidden"
    ORIGINAL = "keep it original"
    RELIABLE = "reliable for years"


GOALS = (Wish.BASS, Wish.CLARITY, Wish.SCREEN)  # what must come out; the other wishes say in what manner


class Keep(StrEnum):
    """What must keep working."""

    CHIMES = "chimes"
    PARKING = "parking sensors"
    HANDS_FREE = "hands-free"
    WHEEL_BUTTONS = "steering-wheel buttons"
    CAMERA = "reversing camera"
    RECEPTION = "radio reception"
    FADE = "fade and balance"


class Intake(Model):
    """What the customer wants."""

    wishes: tuple[Wish, ...] = Field((), title="Wishes")
    wishes_note: Note = Field("", title="In the customer's words")
    must_keep: tuple[Keep, ...] = Field((), title="Must keep working")
    budget: Annotated[float, Field(gt=0, le=1_000_000)] | None = Field(None, title="Budget")
    reversible: bool = Field(False, title="Must be reversible")
    later_note: Note = Field("", title="What may come later")

    @property
    def goals(self) -> tuple[Wish, ...]:
        """The wishes that say what must come out of the work."""
        return tuple(wish for wish in self.wishes if wish in GOALS)


class Design(Model):
    """One immutable revision of a plan."""

    format: Literal["ohmack-design"] = FORMAT
    version: Literal[2] = VERSION
    title: Name = ""
    option_name: Name = Field("", title="Option's name")
    option_note: Note = Field("", title="In a line for the customer")
    intake: Intake = Field(default_factory=Intake)
    vehicle: Vehicle
    parts: Annotated[tuple[Part, ...], Many("part", "parts")] = Field((), max_length=100)
    links: Annotated[tuple[Link, ...], Many("link", "links")] = Field((), max_length=200)
    coming_out: Annotated[tuple[Outgoing, ...], Many("what comes out", "things that come out", shared=False)] = Field(
        (), max_length=300
    )
    drop_readings: Annotated[tuple[DropReading, ...], Many("drop reading", "drop readings", shared=False)] = Field(
        (), max_length=60
    )
    interventions: Annotated[
        tuple[Intervention, ...], Many("what happens to a module", "interventions", shared=False)
    ] = Field((), max_length=40)
    strategy: StrategyKey | None = Field(None, title="Strategy")
    weights: Weights | None = None
    use: Use = Field(default_factory=Use)
    work: Work = Field(default_factory=Work)
    proof: Proof = Field(default_factory=Proof)
    handover: HandOver = Field(default_factory=HandOver)
    policy: Policy = Field(default_factory=Policy)

    def parts_of(self, kind: type[P]) -> Iterator[P]:
        """The parts of one kind, in order."""
        known: dict[type[P], tuple[P, ...]] = self.kept("_parts_of", self.parts, dict)
        if kind not in known:
            known[kind] = tuple(part for part in self.parts if isinstance(part, kind))
        return iter(known[kind])

    @property
    def radio_hidden(self) -> bool:
        """Whether the factory radio goes on working out of sight, a new one in its place."""
        acts = (i for i in self.interventions if i.id == self.vehicle.radio.id)
        return any(KeepAlive.STAYS in act.keep_alive for act in acts)

    @property
    def relayed(self) -> tuple[str, ...]:
        """The sources that switch by a relay: of switch-on wires, and feeds behind one that something draws from."""
        by_relay = {feed.id for feed in self.vehicle.feeds if feed.relay_on_id is not None}
        fed = [link.from_id for link in self.links_of(FeedLink) if link.from_id in by_relay] if by_relay else []
        return tuple(dict.fromkeys([*(link.from_id for link in self.links_of(RemoteLink) if link.relay), *fed]))

    def part(self, part_id: str) -> Part | None:
        """A part by id."""
        return self.kept("_part", self.parts, lambda: {part.id: part for part in self.parts}).get(part_id)

    def links_of(self, kind: type[L]) -> Iterator[L]:
        """The links of one kind, in order."""
        known: dict[type[L], tuple[L, ...]] = self.kept("_links_of", self.links, dict)
        if kind not in known:
            known[kind] = tuple(link for link in self.links if isinstance(link, kind))
        return iter(known[kind])

    def channels_taken(self, amplifier_id: str) -> frozenset[int]:
        """The channels of an amplifier something hangs on, known or not what load that is."""
        return frozenset(n for link in self.links_of(SpeakerLink) if link.from_id == amplifier_id for n in link.takes)

    @property
    def all_in_car(self) -> bool:
        """Whether everything of it was in the car before this job, and stays there."""
        here = bool(self.parts) and not self.coming_out
        return here and all(thing.in_car for thing in (*self.parts, *self.links))

    @property
    def changes_something(self) -> bool:
        """Whether anything is planned: something goes into the car, is there, or comes out."""
        return bool(self.parts or self.coming_out)

    def new_parts_of(self, kind: type[P]) -> Iterator[P]:
        """The parts of one kind that this job puts in."""
        return (part for part in self.parts_of(kind) if not part.in_car)

    def new_links_of(self, kind: type[L]) -> Iterator[L]:
        """The links of one kind that this job lays."""
        return (link for link in self.links_of(kind) if not link.in_car)

    def taken_ids(self) -> set[str]:
        """Every id of the one namespace."""
        registry = scan(Design)
        return {thing.id for _, things in registry.shared(registry.reached(self)) for thing in things}

    def named(self) -> dict[str, list[str]]:
        """The ids a reference may name, by group; parts by kind too."""
        return self._named(scan(Design).reached(self))

    def _named(self, reached: list[list[Any]]) -> dict[str, list[str]]:
        own: dict[str, list[str]] = {}
        for group, things in scan(Design).shared(reached):
            own.setdefault(group, []).extend(thing.id for thing in things)
        groups = {**own, "variant": [v.id for v in self.vehicle.variants]}
        groups["thing"] = [name for ids in own.values() for name in ids]
        for kind in PART_TYPES:
            groups["radio part" if kind == "radio" else kind] = [p.id for p in self.parts if p.kind == kind]
        groups["interface"] = [p.id for p in self.parts_of(Accessory) if p.remote_out_limit_a is not None]
        groups["amplifier adapter"] = [p.id for p in self.parts_of(Accessory) if p.is_amplifier_adapter]
        for group, kinds in GROUPS.items():
            groups[group] = [name for kind in kinds for name in groups[kind]]
        return groups

    @model_validator(mode="after")
    def _ids_are_unique_and_known(self) -> Self:
        registry = scan(Design)
        reached = registry.reached(self)
        named = self._named(reached)
        if twice := _twice(named["thing"]):
            raise ValueError(f"two things share the id {twice}")
        for collection in registry.collections:
            for items in () if collection.many.shared else reached[collection.way]:
                if twice := _twice([item.id for item in items]):
                    of = next(found.item for found in walk(self, collection.steps) if found.holder is items)
                    whose = f" of {of.name}" if hasattr(of, "name") else ""
                    raise ValueError(f"two {collection.many.plural}{whose} share the id {twice}")
        known = {group: frozenset(ids) for group, ids in named.items()}
        for reference in registry.references:
            if reference.ref.to not in known:
                continue  # what is known only within one list is checked there
            for holder in reached[reference.way]:
                for name in named_by(reference, holder):
                    if name not in known[reference.ref.to]:
                        who = _who(self, registry, reference, holder)
                        raise ValueError(f"{who} names the {reference.ref.to} “{name}”, which is not in the design")
        self._links_end_at_ports({thing.id: thing for _, things in registry.shared(reached) for thing in things})
        for speaker in self.vehicle.speakers:
            if speaker.paired_with_id == speaker.id:
                raise ValueError(f"speaker {speaker.id} is paired with itself")
        if self.vehicle.hunt is not None:
            _check_hunt(self.vehicle.hunt, self.vehicle)
        return self

    def _links_end_at_ports(self, things: dict[str, Any]) -> None:
        """Every link begins and ends at a port its thing has."""
        for link in self.links:
            for field, own in zip(("from_port", "to_port"), ends_of(link), strict=True):
                port, thing = getattr(link, field), things[own]
                kind, has = port.rstrip("-0123456789"), ", ".join(sorted(thing.ports)) or "none"
                if kind not in thing.ports:
                    raise ValueError(f"link {link.id} names the port “{port}” of {own}, which has {has}")
                if kind != (usual := type(link).model_fields[field].default):
                    raise ValueError(f"link {link.id} joins {usual}, not “{port}” of {own}")


def _twice(ids: list[str]) -> str:
    """The ids that are there more than once, in words; empty where none is."""
    return ", ".join(sorted({name for name in ids if ids.count(name) > 1})) if len(set(ids)) < len(ids) else ""


def _who(design: Design, registry: Registry, reference: Reference, holder: Any) -> str:
    """What names something that is not there, in words."""
    found = next(found for found in walk(design, reference.steps) if found.holder is holder)
    if found.item is None:
        return "the hunt"
    depth = max(i for i, step in enumerate(reference.steps) if isinstance(step, Each))
    collection = registry.collection_at(found.path[:depth])
    group = collection.many.group if collection else "thing"
    if group in ("reading", "hunted wire"):
        return "the hunt"
    return f"{group} {child(found.item, 'id')}"


def _check_hunt(hunt: Hunt, vehicle: Vehicle) -> None:
    """What wires and readings of a hunt name among themselves."""
    cavities = {c.id for k in vehicle.connectors if k.id == hunt.connector_id for c in k.cavities}
    wires = {wire.id for wire in hunt.wires}
    if twice := _twice(list(hunt.speaker_ids)):
        raise ValueError(f"two speakers share the id {twice}")
    for wire in hunt.wires:
        if wire.cavity_id is not None and wire.cavity_id not in cavities:
            raise ValueError(f"{wire.name} names a cavity the connector does not have")
    for named in (*hunt.touching_ids, *hunt.to_body_ids):
        if named not in wires:
            raise ValueError(f"the wire {named} is thought to touch something and is not in the hunt")
    for reading in hunt.readings:
        if missing := {reading.wire_a_id, *reading.clip} - wires:
            raise ValueError(
                f"a reading names the wire {', '.join(sorted(str(m) for m in missing))}, which is not in the hunt"
            )
        if reading.speaker_id is not None and reading.speaker_id not in hunt.speaker_ids:
            raise ValueError("a reading names a speaker that is not in the hunt")


def required_ends(link: Link) -> Iterator[str]:
    """The ids of everything a link cannot do without."""
    for field in type(link).model_fields:
        ref = reference_of(type(link), field)
        if ref is not None and ref.gone is Gone.GOES_TOO:
            value = getattr(link, field)
            yield from value if isinstance(value, tuple) else (value,)


def ends_of(link: Link) -> tuple[str, str]:
    """(from, to): the ids a link runs between; of several outputs the first."""
    start = link.from_ids[0] if isinstance(link, TapLink) else link.from_id
    return start, link.to_id
