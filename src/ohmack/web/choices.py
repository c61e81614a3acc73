"""What one thing may be tied to: the choices of the editor, by the kind of thing that is selected."""

from __future__ import annotations

from dataclasses import dataclass

from ohmack.core.document import Design
from ohmack.core.document.cabin import Alteration
from ohmack.core.document.factory import FactoryLink, Tell
from ohmack.core.document.functions import CarFunction
from ohmack.core.document.harness import Cavity, Connector
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import Driver, PartBase, Phase, Stands
from ohmack.core.document.paths import get
from ohmack.core.document.vehicle import Speaker, Vehicle
from ohmack.core.errors import UnknownName

Options = list[tuple[str, str]]


@dataclass(frozen=True)
class Choice:
    """One reference to choose: its path, label, options, and what is chosen."""

    path: str
    label: str
    options: Options
    chosen: str | tuple[str, ...] | None
    many: bool = False
    empty: str = ""  # what choosing nothing means; "" where something must be chosen


def channel_options(design: Design) -> Options:
    """Every output pair, those of factory amplifiers with their box."""
    v = design.vehicle
    options = [(c.id, c.name) for c in v.radio.channels]
    return options + [(c.id, f"{c.name} ({m.name})") for m in v.modules for c in m.channels]


def thing_options(design: Design) -> Options:
    """Everything of the car that a link or a finding may name."""
    v = design.vehicle
    options = [(v.radio.id, v.radio.name), *((m.id, m.name) for m in v.modules)]
    for pool in (v.channels, v.feeds, v.ground_points, v.speakers):
        options += [(item.id, item.name) for item in pool]
    return options


def module_options(design: Design) -> Options:
    """What a factory link may join."""
    v = design.vehicle
    return [(v.radio.id, v.radio.name), *((m.id, m.name) for m in v.modules), *((f.id, f.name) for f in v.feeds)]


def choices_of(design: Design, path: str) -> list[Choice]:
    """The references one can set on the thing at a path."""
    try:
        thing = get(design, path)
    except UnknownName:
        return []
    v = design.vehicle
    if isinstance(thing, PartBase):
        return [*_of_part(thing, path, v), *_standing(thing, path)]
    match thing:
        case Speaker():
            others = [(s.id, s.name) for s in v.speakers if s.id != thing.id]
            return [
                Choice(
                    f"{path}/channel_id", "Driven by", channel_options(design), thing.channel_id, empty="nothing known"
                ),
                Choice(f"{path}/paired_with_id", "Paired with", others, thing.paired_with_id, empty="none"),
            ]
        case Alteration():
            return [
                Choice(
                    f"{path}/about_id", "Concerns", thing_options(design), thing.about_id, empty="nothing in the plan"
                )
            ]
        case CarFunction():
            made = [(v.radio.id, v.radio.name), *((m.id, m.name) for m in v.modules)]
            heard = [*made, *((s.id, s.name) for s in v.speakers)]
            return [
                Choice(f"{path}/made_by_id", "Made by", made, thing.made_by_id),
                Choice(f"{path}/heard_at_id", "Heard or seen at", heard, thing.heard_at_id, empty="itself"),
                Choice(f"{path}/needs_ids", "Also needs", made, thing.needs_ids, many=True),
            ]
        case FactoryLink():
            pool = module_options(design)
            return [
                Choice(f"{path}/from_id", "From", pool, thing.from_id),
                Choice(f"{path}/to_id", "To", pool, thing.to_id),
            ]
        case PowerLink() if len(v.supply.batteries) > 1:
            return [
                Choice(f"{path}/battery_id", "Fed from", [(b.id, b.name) for b in v.supply.batteries], thing.battery_id)
            ]
        case Cavity():
            feeds = [(f.id, f.name) for f in v.feeds]
            return [
                Choice(f"{path}/channel_id", "Speaker pair", channel_options(design), thing.channel_id, empty="none"),
                Choice(f"{path}/feed_id", "Is the feed", feeds, thing.feed_id, empty="none"),
            ]
        case Connector():
            plugs = [(v.radio.id, v.radio.name), *((m.id, m.name) for m in v.modules)]
            return [Choice(f"{path}/at_id", "Plugs into", plugs, thing.at_id, empty="not known")]
        case Tell():
            return [
                Choice(f"{path}/shown_by", "Yes on", [(k.id, k.name) for k in v.variants], thing.shown_by, many=True)
            ]
        case _:
            return []


def _of_part(part: PartBase, path: str, vehicle: Vehicle) -> list[Choice]:
    if not isinstance(part, Driver):
        return []
    places = [(s.id, s.name) for s in vehicle.speakers]
    return [Choice(f"{path}/at_ids", "Goes into", places, part.at_ids, many=True)]


def _standing(part: PartBase, path: str) -> list[Choice]:
    """When a part comes, where it stands, and whose it is."""
    yes_no = [("false", "the shop's"), ("true", "the customer's own")]
    return [
        Choice(f"{path}/phase", "Fitted", [(p.value, p.value) for p in Phase], part.phase.value),
        Choice(f"{path}/stands", "Status", [(s.value, s.value) for s in Stands], part.stands.value),
        Choice(f"{path}/by_customer", "Whose", yes_no, "true" if part.by_customer else "false"),
    ]
