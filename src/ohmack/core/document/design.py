"""The Design: intake, vehicle, parts, links, policy. It is the same JSON in the database, the file and the tests."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from typing import Annotated, Literal, Self, TypeVar

from pydantic import Field, model_validator

from ohmack.core.document.facts import Model, Name, Note
from ohmack.core.document.functions import Intervention
from ohmack.core.document.harness import Hunt
from ohmack.core.document.links import FeedLink, GroundLink, Link, PowerLink, RemoteLink, TapLink
from ohmack.core.document.parts import PART_TYPES, Driver, Part, PartBase
from ohmack.core.document.policy import Policy
from ohmack.core.document.strategy import StrategyKey, Weights
from ohmack.core.document.vehicle import Vehicle

FORMAT: Literal["ohmack-design"] = "ohmack-design"
VERSION: Literal[1] = 1

P = TypeVar("P", bound=PartBase)
# What a link's end may be tied to, by the kinds of part (or thing) it may be; each group is built in this order.
PORTS: dict[str, tuple[str, ...]] = {
    "amplifier": ("amplifier", "plug-in amplifier"),
    "converter": ("converter", "processor"),
    "switch-on source": ("feed", "converter"),
    "switched": ("amplifier", "powered subwoofer", "converter", "processor"),
    "speaker-level input": ("converter", "powered subwoofer", "amplifier"),
    "line source": ("converter", "radio part"),
    "powered": ("amplifier", "plug-in amplifier", "powered subwoofer"),
    "fed": ("converter", "powered subwoofer", "plug-in amplifier", "accessory"),
    "driven": ("subwoofer", "speaker"),
}
OTHER_ENDS = {
    ("tap", "converter_id"): "speaker-level input", ("line", "converter_id"): "line source", ("feed", "converter_id"): "fed",
    ("remote", "amplifier_id"): "switched", ("power", "amplifier_id"): "powered", ("ground", "amplifier_id"): "powered",
}  # fmt: skip
L = TypeVar("L")


class Wish(StrEnum):
    BASS = "more bass"
    CLARITY = "clarity"
    SCREEN = "a modern screen"
    HIDDEN = "hidden"
    ORIGINAL = "keep it original"


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


class Design(Model):
    """One immutable revision of a plan."""

    format: Literal["ohmack-design"] = FORMAT
    version: Literal[1] = VERSION
    title: Name = ""
    option_name: Name = Field("", title="Option's name")
    option_note: Note = Field("", title="In a line for the customer")
    intake: Intake = Field(default_factory=Intake)
    vehicle: Vehicle
    parts: tuple[Part, ...] = Field((), max_length=100)
    links: tuple[Link, ...] = Field((), max_length=200)
    interventions: tuple[Intervention, ...] = Field((), max_length=40)
    strategy: StrategyKey | None = Field(None, title="Strategy")
    weights: Weights | None = None
    policy: Policy = Field(default_factory=Policy)

    def parts_of(self, kind: type[P]) -> Iterator[P]:
        """The parts of one kind, in order."""
        return (part for part in self.parts if isinstance(part, kind))

    def part(self, part_id: str) -> Part | None:
        """A part by id."""
        return next((part for part in self.parts if part.id == part_id), None)

    def links_of(self, kind: type[L]) -> Iterator[L]:
        """The links of one kind, in order."""
        return (link for link in self.links if isinstance(link, kind))

    def ids(self) -> dict[str, list[str]]:
        """Every id of the one namespace, by what it names."""
        vehicle = self.vehicle
        groups = {
            "part": [p.id for p in self.parts],
            "link": [link.id for link in self.links],
            "battery": [b.id for b in vehicle.supply.batteries],
            "speaker": [s.id for s in vehicle.speakers],
            "feed": [f.id for f in vehicle.feeds],
            "ground point": [g.id for g in vehicle.ground_points],
            "passage": [p.id for p in vehicle.passages],
            "channel": [c.id for source in (vehicle.radio, *vehicle.modules) for c in source.channels],
            "module": [m.id for m in vehicle.modules],
            "factory link": [k.id for k in vehicle.factory_links],
            "zone": [z.id for z in vehicle.zones],
            "space": [s.id for s in vehicle.spaces],
            "alteration": [a.id for a in vehicle.alterations],
            "function": [f.id for f in vehicle.functions],
            "connector": [c.id for c in vehicle.connectors],
            "radio": [vehicle.radio.id],
        }
        return groups

    @model_validator(mode="after")
    def _ids_are_unique_and_known(self) -> Self:
        known = self.ids()
        every = [name for ids in known.values() for name in ids]
        if twice := sorted({name for name in every if every.count(name) > 1}):
            raise ValueError(f"two things share the id {', '.join(twice)}")
        for kind in PART_TYPES:
            known["radio part" if kind == "radio" else kind] = [p.id for p in self.parts if p.kind == kind]
        known["radio or module"] = [self.vehicle.radio.id, *known["module"]]
        for group, kinds in PORTS.items():
            known[group] = [name for kind in kinds for name in known[kind]]
        for link in self.links:
            for group, name in (*required_ends(link), *optional_ends(link)):
                if name not in known[group]:
                    raise ValueError(f"link {link.id} names the {group} “{name}”, which is not in the design")
        for about, group, wanted in _references(self):
            allowed = every if group == "thing" else known[group]
            if wanted is not None and wanted not in allowed:
                raise ValueError(f"{about} names the {group} “{wanted}”, which is not in the design")
        for what, ids in _own_ids(self):
            if twice := sorted({name for name in ids if ids.count(name) > 1}):
                raise ValueError(f"two {what} share the id {', '.join(twice)}")
        return self


def _references(design: Design) -> Iterator[tuple[str, str, str | None]]:
    """(who, group, id) of everything vehicle and parts name besides links."""
    vehicle = design.vehicle
    for speaker in vehicle.speakers:
        yield f"speaker {speaker.id}", "channel", speaker.channel_id
        yield f"speaker {speaker.id}", "speaker", speaker.paired_with_id
        if speaker.paired_with_id == speaker.id:
            raise ValueError(f"speaker {speaker.id} is paired with itself")
    for link in vehicle.factory_links:
        yield f"factory link {link.id}", "thing", link.from_id
        yield f"factory link {link.id}", "thing", link.to_id
    for alteration in vehicle.alterations:
        yield f"alteration {alteration.id}", "thing", alteration.about_id
    for part in design.parts_of(Driver):
        for name in part.at_ids:
            yield f"part {part.id}", "speaker", name
    for function in vehicle.functions:
        ends: tuple[str | None, ...] = (function.made_by_id, function.heard_at_id, *function.needs_ids)
        yield from ((f"function {function.id}", "thing", end) for end in ends)
    for connector in vehicle.connectors:
        yield f"connector {connector.id}", "radio or module", connector.at_id
        for cavity in connector.cavities:
            yield f"cavity {cavity.number} of {connector.name}", "channel", cavity.channel_id
            yield f"cavity {cavity.number} of {connector.name}", "feed", cavity.feed_id
    if vehicle.hunt is not None:
        yield from _hunt_references(vehicle.hunt, vehicle)
    for intervention in design.interventions:
        yield "what happens to a module", "radio or module", intervention.id


def _hunt_references(hunt: Hunt, vehicle: Vehicle) -> Iterator[tuple[str, str, str | None]]:
    """What the wires and readings of a hunt name; its own wires are checked here."""
    yield "the hunt", "connector", hunt.connector_id
    yield from (("the hunt", "speaker", name) for name in hunt.speaker_ids)
    cavities = {c.id for k in vehicle.connectors if k.id == hunt.connector_id for c in k.cavities}
    wires = {wire.id for wire in hunt.wires}
    for wire in hunt.wires:
        if wire.cavity_id is not None and wire.cavity_id not in cavities:
            raise ValueError(f"{wire.name} names a cavity the connector does not have")
    for reading in hunt.readings:
        if missing := {reading.wire_a_id, reading.wire_b_id} - wires - {None}:
            raise ValueError(
                f"a reading names the wire {', '.join(sorted(str(m) for m in missing))}, which is not in the hunt"
            )
        if reading.speaker_id is not None and reading.speaker_id not in hunt.speaker_ids:
            raise ValueError("a reading names a speaker that is not in the hunt")


def _own_ids(design: Design) -> Iterator[tuple[str, list[str]]]:
    """Lists whose ids only have to differ among themselves."""
    vehicle = design.vehicle
    yield "variants", [v.id for v in vehicle.variants]
    yield "tell-tales", [t.id for t in vehicle.tells]
    yield "answers", [a.id for a in vehicle.answers]
    yield "volume readings", [r.id for r in vehicle.volume_steps]
    for connector in vehicle.connectors:
        yield f"cavities of {connector.name}", [c.id for c in connector.cavities]
    if vehicle.hunt is not None:
        yield "wires", [w.id for w in vehicle.hunt.wires]
        yield "readings", [r.id for r in vehicle.hunt.readings]
        yield "speakers", list(vehicle.hunt.speaker_ids)
    yield "interventions", [i.id for i in design.interventions]


def required_ends(link: Link) -> Iterator[tuple[str, str]]:
    """(group, id) of everything a link cannot do without."""
    for field, group in (("amplifier_id", "amplifier"), ("converter_id", "converter"), ("driver_id", "driven")):
        if (name := getattr(link, field, None)) is not None:
            yield OTHER_ENDS.get((link.kind, field), group), name
    if isinstance(link, PowerLink):
        yield "battery", link.battery_id
    if isinstance(link, GroundLink):
        yield "ground point", link.ground_point_id
    if isinstance(link, FeedLink):
        yield "feed", link.feed_id
    if isinstance(link, RemoteLink):
        yield "switch-on source", link.source_id
    if isinstance(link, TapLink):
        yield from (("channel", channel) for channel in link.channel_ids)


def optional_ends(link: Link) -> Iterator[tuple[str, str]]:
    """(group, id) of what a link names but survives without."""
    if isinstance(link, (PowerLink, FeedLink)) and link.fuse and link.fuse.holder_id:
        yield "fuse holder", link.fuse.holder_id
    if isinstance(link, FeedLink) and link.ground_point_id:
        yield "ground point", link.ground_point_id
