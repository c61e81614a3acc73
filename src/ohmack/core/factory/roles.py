"""The roles a way's parts fill: what fills one, in the plan and in the car already."""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import Driver
from ohmack.core.document.strategy import StrategyKey

ROLE_KINDS = {  # (part kind, accessory category) that fills a role
    "driver": ("driver", ""),  # first of all: what is to drive it is chosen by it
    "amplifier": ("amplifier", ""),
    "subwoofer": ("subwoofer", ""),
    "box": ("box", ""),
    "converter": ("converter", ""),
    "fuse holder": ("fuse holder", ""),
    "radio": ("radio", ""),
    "wire kit": ("accessory", "consumables"),
    "plug adapter": ("accessory", "adapter"),
    "amplifier adapter": ("accessory", "amplifier adapter"),
    "plug-in amplifier": ("plug-in amplifier", ""),
    "line adapter": ("accessory", "line adapter"),
    "processor": ("processor", ""),
    "powered subwoofer": ("powered subwoofer", ""),
    **{
        name: ("accessory", name)
        for name in (
            "interface",
            "aerial adapter",
            "digital aerial",
            "ring coupler",
            "extension loom",
            "shorting plug",
            "camera adapter",
        )
    },
}
ORDER = tuple(ROLE_KINDS)
PAIR = 2  # speakers, left and right
ON_ONE = (StrategyKey.ALL_AMPLIFIED, StrategyKey.ALL_NEW)  # the ways in which one amplifier plays doors and bass
# What makes the sound of a way: with all of these in the car a way is gone already.
SOUNDING = ("driver", "amplifier", "plug-in amplifier", "subwoofer", "powered subwoofer", "radio")


def fits_role(role: str, part: PartBase) -> bool:
    """Whether a part is of the kind a role wants."""
    kind, category = ROLE_KINDS[role]
    return getattr(part, "kind", "") == kind and (not category or getattr(part, "category", "") == category)


def _that_fill(design: Design, role: str) -> Iterator[PartBase]:
    """The parts of a design that fill a role under the way that is chosen."""
    for part in design.parts:
        if role == "processor" and isinstance(part, Amplifier) and part.processor:
            yield part  # it has one inside
        elif fits_role(role, part) and not (role == "amplifier" and _too_few(design, part)):
            yield part


def channels_wanted(key: StrategyKey | None) -> int:
    """How many channels an amplifier needs for a way: a pair for the doors, and one for the bass with them."""
    return PAIR + 1 if key in ON_ONE else PAIR if key is StrategyKey.DOORS_AMPLIFIED else 1


def _too_few(design: Design, part: PartBase) -> bool:
    """Whether an amplifier has too few channels for what the chosen way drives by it."""
    return isinstance(part, Amplifier) and part.channels < channels_wanted(design.strategy)


def takes_the_pair(design: Design, key: StrategyKey | None) -> bool:
    """Whether the amplifiers of a plan take the radio's speaker level as it is, so that a way needs no converter.

    Parameters:
        design: the design.
        key: the way; one for the doors asks those with channels enough, one for bass all there are.

    Returns:
        False where there is no such amplifier yet.
    """
    amplifiers = [a for a in design.parts_of(Amplifier) if not a.plugs_in]
    if key in (StrategyKey.DOORS_AMPLIFIED, StrategyKey.ALL_AMPLIFIED):
        return any(a.takes_speaker_level for a in amplifiers if a.channels >= channels_wanted(key))
    bass = key is StrategyKey.RADIO_PICKUP and bool(amplifiers)
    return bass and all(a.takes_speaker_level for a in amplifiers)


def filled(design: Design, role: str) -> bool:
    """Whether a part of the design fills a role already; speakers that are in the car leave other doors to fill."""
    if role == "converter" and takes_the_pair(design, design.strategy):
        return True
    there = list(_that_fill(design, role))
    return in_the_car(design, role) if there and all(part.in_car for part in there) else bool(there)


def in_the_car(design: Design, role: str) -> bool:
    """Whether what fills a role was in the car before this job: of speakers, those of every door that plays."""
    there = [part for part in _that_fill(design, role) if part.in_car]
    if role != "driver" or not there:
        return bool(there)
    new = {name for part in there if isinstance(part, Driver) for name in part.at_ids}
    return all(s.id in new for s in design.vehicle.speakers if s.in_door and not s.left_silent)
