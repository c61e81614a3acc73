"""What is cut by a template at full size: openings for drivers, rings, openings in trims, holes of brackets."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from ohmack.core.document.parts import Driver
from ohmack.core.document.vehicle import SpeakerPlace
from ohmack.core.document.work import Opening, OpeningKind
from ohmack.core.fit.clearances import SCREWS_MM, ring_under
from ohmack.core.physics.outlines import Outline, bracket_holes, ring, round_opening, rounded_rectangle
from ohmack.core.record import record
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results
    from ohmack.core.loads.drivers import Drive

PILOT_FIRST = ("the pilot hole in the middle", "the circle, the blade inside the line")
RING_ORDER = ("the inner circle, while there is board to clamp", "the outer circle")
CORNERS_FIRST = (
    "the four corner holes, inside the line", "the short sides", "the long sides, the waste held at the last one",
    "the edge filed to the line, covered against rattles",
)  # fmt: skip
HOLES_ORDER = ("two holes across the corner, the bracket held by them", "the other two through the bracket")


@record
class FullSize:
    """One template."""

    key: str
    name: str
    says: str  # its sizes, in words
    outline: Outline
    order: tuple[str, ...]  # of the cuts; common practice
    pieces: int = 1


def templates(results: Results) -> list[FullSize]:
    """Every template a plan asks for, and those the shop drew for itself.

    Parameters:
        results: the evaluated plan.

    Returns:
        drivers and rings, places alike together, then the shop's own. Nothing for a place whose hole fits, or
        whose sizes nobody knows.
    """
    alike: dict[tuple[str, str], list[tuple[str, FullSize]]] = {}
    for drive in _swaps(results):
        for one in _of_place(results, drive):
            alike.setdefault((one.name, one.says), []).append((drive.speaker.name, one))
    found = [
        replace(rows[0][1], name=f"{name}: {listed([place for place, _ in rows])}", pieces=len(rows))
        for (name, _), rows in alike.items()
    ]
    return [*found, *(_of_opening(opening) for opening in results.design.work.openings)]


def unknown_places(results: Results) -> list[str]:
    """The places that get a new driver, and whose hole or driver nobody has measured."""
    open_ones = [d for d in _swaps(results) if ring_under(results.design, d.speaker) is None]
    return [d.speaker.name for d in open_ones if not _measured(d)]


def _measured(drive: Drive) -> bool:
    there = drive.speaker.cut_out_mm.value is not None or drive.speaker.new_place
    return there and drive.driver is not None and drive.driver.cut_out_mm is not None


def _swaps(results: Results) -> list[Drive]:
    """The places in the car's own panels that get a new driver."""
    cut = (d for d in results.drives if d.speaker.place is not SpeakerPlace.BOX)
    return [d for d in cut if d.driver is not None and not (isinstance(d.driver, Driver) and d.driver.in_cup)]


def _of_place(results: Results, drive: Drive) -> Iterator[FullSize]:
    place, driver = drive.speaker, drive.driver
    assert driver is not None
    bought = ring_under(results.design, place)
    needs_mm, there_mm = driver.cut_out_mm, place.cut_out_mm.value
    if bought is not None and bought.is_hollow:
        return  # a finding asks for its measures
    if bought is not None:
        says = f"{bought.outer_mm:g} mm outside, {bought.opening_mm:g} mm inside, {bought.thickness_mm:g} mm thick"
        yield FullSize(f"ring-{place.id}", bought.name, says, ring(bought.outer_mm, bought.opening_mm), RING_ORDER)
    elif needs_mm is None:
        return
    elif place.new_place and there_mm is None:
        says = f"{needs_mm:g} mm for {driver.name}"
        yield FullSize(f"hole-{place.id}", "New opening", says, round_opening(needs_mm), PILOT_FIRST)
    elif there_mm is not None and needs_mm > there_mm:
        says = f"from {there_mm:g} to {needs_mm:g} mm for {driver.name}"
        yield FullSize(f"hole-{place.id}", "Opening widened", says, round_opening(needs_mm, there_mm), PILOT_FIRST[1:])
    elif there_mm is not None and there_mm - needs_mm > SCREWS_MM:
        outer_mm = there_mm + 2 * SCREWS_MM
        says = f"{outer_mm:g} mm outside over the hole of {there_mm:g} mm, {needs_mm:g} mm inside for {driver.name}"
        yield FullSize(f"ring-{place.id}", "Ring", says, ring(outer_mm, needs_mm), RING_ORDER)


def _of_opening(opening: Opening) -> FullSize:
    width, height = opening.width_mm, opening.height_mm or opening.width_mm
    gap = f", {opening.gap_mm:g} mm left on each side" if opening.gap_mm else ""
    key, name = f"own-{opening.id}", opening.name
    if opening.kind is OpeningKind.RECTANGLE:
        wide, high = width + 2 * opening.gap_mm, height + 2 * opening.gap_mm
        says = f"{width:g} × {height:g} mm{gap}: cut {wide:g} × {high:g} mm"
        return FullSize(key, name, says, rounded_rectangle(wide, high, opening.corner_mm), CORNERS_FIRST)
    if opening.kind is OpeningKind.ROUND:
        across = width + 2 * opening.gap_mm
        return FullSize(key, name, f"{width:g} mm{gap}: cut {across:g} mm", round_opening(across), PILOT_FIRST)
    if opening.kind is OpeningKind.RING:
        inner = opening.inner_mm or width / 2
        return FullSize(key, name, f"{width:g} mm outside, {inner:g} mm inside", ring(width, inner), RING_ORDER)
    bore = opening.inner_mm or 5.0
    says = f"four holes of {bore:g} mm, {width:g} × {height:g} mm apart"
    return FullSize(key, name, says, bracket_holes(width, height, bore), HOLES_ORDER)
