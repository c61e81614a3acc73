"""Boxes proposed for the drivers of a plan: closed and vented, each with what it gives and what it costs in air."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from math import pi

from ohmack.core.box.circuit import Drive, Solved, solved
from ohmack.core.document.boxes import Box, Stuffing, VentShape
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.errors import OutOfRange
from ohmack.core.figures.finding import set_to
from ohmack.core.physics.alignments import (
    BESSEL_Q,
    BUTTERWORTH_Q,
    closed_q,
    closed_volume_m3,
    flat_vented,
    tuned_box,
    tuned_for,
)
from ohmack.core.physics.box_limits import MOST_AIR_SPEED_M_S
from ohmack.core.physics.boxes import Chamber, Enclosure, vent_length_m
from ohmack.core.physics.small_signal import SmallSignal
from ohmack.core.record import record

PIPES_MM = (50.0, 68.0, 75.0, 100.0, 125.0, 152.0)  # inner diameters pipes are sold in; common practice
SMALL_Q = 0.95  # a closed box for little room; common practice
LONGEST = 1.3  # of the cube root of the volume: a pipe with one bend; common practice
MOST_L = 400.0  # nobody builds more into a car


@record
class Pipe:
    """Round vents that go into the box."""

    count: int
    diameter_mm: float
    length_mm: float
    air_speed_m_s: float  # fastest at full level

    @property
    def takes_l(self) -> float:
        """The air they take inside, walls not counted [l]."""
        return self.count * pi / 4 * self.diameter_mm**2 * self.length_mm / 1e6

    @property
    def slow_enough(self) -> bool:
        """Whether nobody hears the air in it."""
        return self.air_speed_m_s <= MOST_AIR_SPEED_M_S


@record
class Proposal:
    """One box: what it is, its air, what it gives with the drivers of the plan at full level."""

    box_type: str
    words: str
    net_l: float
    tuning_hz: float | None
    q: float | None
    solved: Solved
    pipe: Pipe | None  # None for a closed box, or where none is short enough

    @property
    def xmax_share(self) -> float | None:
        """Travel at full level over what the papers give; None where they do not say."""
        xmax_mm = self.solved.xmax_mm
        return None if xmax_mm is None else self.solved.travel_mm / xmax_mm


def edits_of(box: Box, proposal: Proposal) -> tuple[Edit, ...]:
    """Edits that make a box of the plan the proposed one.

    Parameters:
        box: the box.
        proposal: what it becomes.

    Returns:
        kind, air, tuning and vents; its outside stays as it is, see `cabin.built_as`.
    """
    found = [
        set_to(at(box, lambda it: it.box_type), proposal.box_type),
        set_to(at(box, lambda it: it.net_volume_l), round(proposal.net_l, 1)),
        set_to(at(box, lambda it: it.stuffing), Stuffing.NONE.value),
    ]
    if proposal.tuning_hz is not None:
        found.append(set_to(at(box, lambda it: it.tuning_hz), round(proposal.tuning_hz, 1)))
    if proposal.pipe is not None:
        found += [
            set_to(at(box, lambda it: it.vents.shape), VentShape.ROUND.value),
            set_to(at(box, lambda it: it.vents.count), proposal.pipe.count),
            set_to(at(box, lambda it: it.vents.diameter_mm), proposal.pipe.diameter_mm),
            set_to(at(box, lambda it: it.vents.length_mm), None),
        ]
    return tuple(found)


@lru_cache(maxsize=64)
def proposals(driver: SmallSignal, drive: Drive, own_l: float, room_l: float | None) -> tuple[Proposal, ...]:
    """Boxes for a driver.

    Parameters:
        driver: the drivers of the plan as one.
        drive: what stands behind them.
        own_l: net volume of the box of the plan [l].
        room_l: net volume the surveyed space has room for [l]; None where it is not known.

    Returns:
        closed ones by Q, the flat vented one where the driver has one, the best tuning of the plan's own volume and of
        the space's; smallest first.

    Source: closed by Q, Small 1972; vented flat, Small 1973 (both from memory); tunings by search.
    """
    found = [*_closed(driver, drive, room_l), *_vented(driver, drive, own_l, room_l)]
    return tuple(sorted(found, key=lambda one: (one.net_l, one.box_type)))


def _closed(driver: SmallSignal, drive: Drive, room_l: float | None) -> Iterator[Proposal]:
    wanted = (
        (BESSEL_Q, "closed, the most even in time, and the largest"),
        (BUTTERWORTH_Q, "closed, flat as low as a closed box goes"),
        (SMALL_Q, "closed, for little room: a hump before it falls"),
    )
    volumes = []
    for q, words in wanted:
        try:
            volumes.append((1000 * closed_volume_m3(driver, q), words))
        except OutOfRange:
            continue  # every closed box has a higher Q
    if room_l is not None:
        volumes.append((room_l, "closed, all the space has room for"))
    for litres, words in volumes:
        if litres <= MOST_L:
            whole = solved(driver, Enclosure(Chamber(litres / 1000)), drive, None, None, False)
            yield Proposal("closed", words, litres, None, closed_q(driver, litres / 1000), whole, None)


def _vented(driver: SmallSignal, drive: Drive, own_l: float, room_l: float | None) -> Iterator[Proposal]:
    tunings = []
    try:
        flat = flat_vented(driver)
        tunings.append((1000 * flat.volume_m3, flat.tuning_hz, "vented, as flat as this driver allows"))
    except OutOfRange:
        pass  # of so high a Q that none is flat
    volumes = [(own_l, "vented, in the volume of this box")]
    if room_l is not None and abs(room_l / own_l - 1) > 0.1:
        volumes.append((room_l, "vented, all the space has room for"))
    tunings += [(litres, tuned_for(driver, litres / 1000).tuning_hz, words) for litres, words in volumes]
    for litres, tuning, words in tunings:
        if litres <= MOST_L:
            box = tuned_box(litres / 1000, tuning)
            whole = solved(driver, box, drive, tuning, None, True)
            yield Proposal("vented", words, litres, tuning, None, whole, _pipe(whole, litres, tuning))


def _pipe(whole: Solved, litres: float, tuning_hz: float) -> Pipe | None:
    """The widest pipes that are short enough for the box: the slowest air that can be built."""
    outlet, speed = whole.enclosure.outlet, whole.air_speed_m_s
    if outlet is None or speed is None:
        return None
    longest_m = LONGEST * (litres / 1000) ** (1 / 3)
    found = None
    for count in (1, 2):
        for diameter_mm in PIPES_MM:
            area = pi * (diameter_mm / 2000) ** 2
            length = vent_length_m(litres / 1000, tuning_hz, area, count)
            if 0 < length <= longest_m and (found is None or count * area > 1.02 * found[1]):
                pipe = Pipe(count, diameter_mm, 1000 * length, speed * outlet.whole_area_m2 / (count * area))
                found = pipe, count * area
    return None if found is None else found[0]
