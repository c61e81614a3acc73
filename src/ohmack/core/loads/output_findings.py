"""Rules on outputs and what they meet in the car: a return the speakers share, small speakers beside doors, channels
that drive nothing.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver, HeadUnit
from ohmack.core.document.vehicle import SMALL_PLACES, Speaker, SpeakerPlace
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.loads.pads import louder_by_db, pad_before
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import amount, count, listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

WIDE_PLACES = (SpeakerPlace.DOOR, SpeakerPlace.SIDE, SpeakerPlace.SHELF)


@rule("shared-return", "loads", PRACTICE)
def shared_return(results: Results) -> Iterator[Draft]:
    """Speakers of the car share one return, and an output that must not be grounded would meet it."""
    design = results.design
    radio = design.vehicle.radio
    if radio.shared_return.value is not True:
        return
    path = at(radio, lambda it: it.shared_return)
    unit = next(design.parts_of(HeadUnit), None)
    old = [drive.speaker.name for drive in results.drives if drive.by_new_radio and not drive.speaker.new_place]
    if unit is not None and old:
        yield stop(
            path,
            f"{unit.name} on speakers that share one return",
            f"Each of its pairs is bridged: neither wire is ground, and on a shared return its outputs short each"
            f" other. {listed(old)} {'need' if len(old) > 1 else 'needs'} two wires of their own to the radio.",
            Remedy("Look at the speakers' wires", path=path),
        )
    wired: dict[str, list[SpeakerLink]] = {}
    for link in design.links_of(SpeakerLink):
        if link.factory_wire:
            wired.setdefault(link.from_id, []).append(link)
    for amplifier_id, links in wired.items():
        part = design.part(amplifier_id)
        yield stop(
            f"{path}/{amplifier_id}",
            f"{part.name if part is not None else 'The amplifier'} over factory wires that share one return",
            "Bridged or balanced outputs short each other there. Pull a pair of its own to each speaker.",
            Remedy(
                f"Pull fresh wire to {count(len(links), 'speaker')}",
                tuple(set_to(at(link, lambda it: it.factory_wire), False) for link in links),
            ),
        )


def _together(results: Results) -> Iterator[tuple[str, tuple[str, ...]]]:
    """What plays from one output or one factory pair in parallel: what it is about, and the places."""
    for load in results.loads:
        if len(load.driven) > 1 and load.chosen.wiring.kind == "parallel":
            yield load.link.id, tuple(driven.id for driven in load.driven)
    for row in results.channel_loads:
        if row.new and len(row.speakers) > 1:
            yield row.channel.id, tuple(speaker.id for speaker in row.speakers)


@rule("small-over-doors", "loads", PRACTICE)
def small_over_doors(results: Results) -> Iterator[Draft]:
    """Small speakers in the dash or the pillars in parallel with door speakers: as much voltage, more sensitive."""
    design = results.design
    speakers = {speaker.id: speaker for speaker in design.vehicle.speakers}
    drives = {drive.speaker.id: drive for drive in results.drives}
    for about, names in _together(results):
        here = [speakers[name] for name in names if name in speakers]
        small = [
            s for s in here
            if s.place in SMALL_PLACES and pad_before(design, s.id) is None and not drives[s.id].net
            and not drives[s.id].tweeter
        ]  # fmt: skip
        doors = [s for s in here if s.in_door]
        if not small or not doors:
            continue
        over_db = _over_db(results, small[0], doors[0])
        if over_db is not None and over_db <= 0:
            continue
        by = f" by about {amount(over_db, 'db')}" if over_db is not None else ""
        yield watch(
            f"{about}/{small[0].id}",
            f"{small[0].name} would play over {doors[0].name.lower()}{by}",
            "In parallel both take the same voltage, and a small speaker makes more of it where the ear listens. Their"
            " level cannot be set apart: a channel of their own, or a pad before them.",
            Remedy("Look at its channel", path=at(small[0])),
        )


def _over_db(results: Results, small: Speaker, door: Speaker) -> float | None:
    """How far one speaker plays over another at equal voltage [db]; None where a sensitivity is not known."""
    new = {name: part for part in results.design.parts_of(Driver) for name in part.at_ids}
    high, low = new.get(small.id), new.get(door.id)
    if high is None or low is None or high.sensitivity_db is None or low.sensitivity_db is None:
        return None
    return louder_by_db(high.sensitivity_db, low.sensitivity_db, high.impedance_ohm, low.impedance_ohm, 0.0)


def _own_left(design: Design) -> bool:
    """Whether both sides of the car have speakers of its own for the whole range that no amplifier of the plan
    drives.
    """
    taken = {link.to_id for link in design.links_of(SpeakerLink)}
    taken |= {name for part in design.parts_of(Driver) for name in part.at_ids}
    left = (
        s for s in design.vehicle.speakers if s.place in WIDE_PLACES and s.channel_id is not None and s.id not in taken
    )
    return len({speaker.side for speaker in left}) > 1


@rule("channels-unused", "loads", PRACTICE)
def channels_unused(results: Results) -> Iterator[Draft]:
    """Channels of an amplifier that drive nothing, and what bridging would bring."""
    design = results.design
    for one in results.amplifier_loads:
        amplifier = one.amplifier
        used = design.channels_taken(amplifier.id)
        free = [n for n in range(1, amplifier.channels + 1) if n not in used]
        if not free or amplifier.plugs_in:
            continue
        lone = next(
            (o for o in one.outputs if not o.link.bridged and o.link.channel % 2 and o.link.channel + 1 in free), None
        )
        group = amplifier.group_of(lone.link.channel) if lone is not None else None
        rows = [(r.load_ohm, r.power_w) for r in group.bridged_ratings] if group is not None else []
        more = ""
        if lone is not None and group is not None and group.lowest_bridged_ohm is not None and rows:
            load_ohm = lone.chosen.load_ohm
            if load_ohm >= group.lowest_bridged_ohm * (1 - 1e-9):
                most_w = max(watts for ohm, watts in rows if ohm >= group.lowest_bridged_ohm)
                more = f" Bridged, {lone.driven_name} would get up to {trimmed(most_w)} W."
        yield note(
            amplifier.id,
            f"{amplifier.name}: {count(len(free), 'channel')} of {amplifier.channels}"
            f" {'drives' if len(free) == 1 else 'drive'} nothing",
            f"Channel{'s' if len(free) > 1 else ''} {listed([str(n) for n in free])}. They are there for a later"
            f" stage, or a smaller amplifier does.{more}",
            Remedy("Drive the car's own speakers too", connect=amplifier.id, own=True)
            if len(free) > 1 and _own_left(design)
            else Remedy("Look at the channels", sheet="loads"),
        )
