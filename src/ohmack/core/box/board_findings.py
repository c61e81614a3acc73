"""Rules on the boards of a box: what they leave inside, whether its driver goes in, the corners of its side."""

from __future__ import annotations

from collections.abc import Iterator
from math import ceil
from typing import TYPE_CHECKING

from ohmack.core.box.circuit import opens, vent_area_m2
from ohmack.core.box.judged import BoxResult
from ohmack.core.box.shapes import shape_of
from ohmack.core.document.boxes import Chambers, VentShape
from ohmack.core.document.handles import at
from ohmack.core.figures.finding import BESIDE, Draft, Remedy, find_part, note, rule, set_to, stop, watch
from ohmack.core.fit.built_to_space import rebuilt
from ohmack.core.fit.made_to_measure import BEHIND_MM, FLANGE, Pipes, made_to_measure
from ohmack.core.physics.prism import PrismShape
from ohmack.core.physics.round_openings import go_in
from ohmack.core.reference import PRACTICE, Grade, Source
from ohmack.core.wording import count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

ROOM_BEHIND = Source("geometry; room behind a magnet common practice", Grade.PRACTICE)
FLANGES = Source("plane geometry; how wide flanges are common practice", Grade.PRACTICE)
MOST_WIDE_M = 3.0  # a box's field holds
VOLUME_OFF = 0.05  # of the net volume; the tuning moves by half of it; common practice
OFF_M = 0.002  # what two sizes of one box may differ by


def _anew(results: Results, one: BoxResult) -> Remedy:
    """The remedy that builds a box anew for its drivers, with the air it is reckoned with or more; where it is no
    block, or none goes into its space, its boards are looked at.
    """
    takes, has = results.book.figures.get(f"{one.box.id}/vents_l"), one.box.vents
    vents = None
    if opens(one.box) and has.shape is VentShape.ROUND and has.diameter_mm is not None:
        takes_l = takes.value if takes is not None else None
        vents = Pipes(has.count, has.diameter_mm, takes_l or 0.0)
    block = made_to_measure(results.design, one.box, one.subs, one.box.net_volume_l, vents)
    if block is None:
        return Remedy("Look at its size", path=at(one.box, lambda it: it.boards))
    size = " × ".join(f"{1000 * side:.0f}" for side in (block.length_m, block.width_m, block.height_m))
    return Remedy(f"Build it {size} mm", rebuilt(one.box, block))


@rule("box-volume", "loads", PRACTICE)
def box_volume(results: Results) -> Iterator[Draft]:
    """The volume that is reckoned with is not the one its boards enclose."""
    for one in results.boxes:
        box = one.box
        if one.refused is not None:
            yield stop(
                at(box, lambda it: it.boards),
                f"{box.name} has no inside: {one.refused}",
                "The boards take all of it. Look at its size and at the thickness.",
                Remedy("Look at the boards", path=at(box, lambda it: it.boards)),
            )
        if one.made is not None and one.subs and one.subs[0].displaced_l is None:
            path = at(one.subs[0], lambda it: it.displaced_l)
            yield note(
                path,
                f"Nobody knows what {one.name} leaves its driver: the air {one.subs[0].name} takes is not on file",
                "Its papers name it, or 1 to 3 l for a driver of 25 to 30 cm. Until then the net volume is as typed.",
                Remedy("Enter it", path=path),
            )
        if one.net is None or one.net.value is None:
            continue
        if one.net.value <= 0:
            yield stop(
                at(box, lambda it: it.net_volume_l),
                f"{box.name} is smaller than what goes into it",
                "Drivers, vents and braces take more air than its boards enclose.",
                Remedy("Look at it", path=at(box)),
            )
        elif abs(one.net.value / box.net_volume_l - 1) > VOLUME_OFF:
            yield watch(
                at(box, lambda it: it.net_volume_l),
                f"{box.name} is reckoned with {results.say(box.net_volume_l, 'l')}; its boards leave"
                f" {results.say(one.net.value, 'l')}",
                "Net of drivers, vents and braces. Take the one that is built, or change its size.",
                Remedy(
                    f"Reckon with {results.say(one.net.value, 'l')}",
                    (set_to(at(box, lambda it: it.net_volume_l), round(one.net.value, 1)),),
                ),
            )


@rule("box-driver-fits", "loads", ROOM_BEHIND)
def box_driver_fits(results: Results) -> Iterator[Draft]:
    """A driver that is deeper, or wider, than the inside of the box that is built for it."""
    for one in results.boxes:
        shape = shape_of(one.box)
        if one.made is None or shape is None or not one.subs:
            continue
        sub = one.subs[0]
        deep, hole = sub.mounting_depth_mm, sub.cut_out_mm
        half_m = (hole or 0.0) / 4000  # the magnet is about half as wide as the hole
        clear_mm = 1000 * min(
            shape.depth_at_m(shape.height_m / 2 + half_m), shape.depth_at_m(shape.height_m / 2 - half_m)
        )
        where = _anew(results, one)
        if deep is not None and deep + BEHIND_MM > clear_mm:
            yield (stop if deep > clear_mm else watch)(
                f"{one.box.id}/depth",
                f"{sub.name} is {deep:.0f} mm deep, {one.name} {clear_mm:.0f} mm inside",
                f"Behind the magnet it wants about {BEHIND_MM:.0f} mm to breathe. A deeper box, or a ring before the"
                " front.",
                where,
            )
        lacks = [words for words, value in (("mounting depth", deep), ("cut-out", hole)) if value is None]
        if lacks:
            path = at(sub, lambda it: it.mounting_depth_mm) if deep is None else at(sub, lambda it: it.cut_out_mm)
            yield watch(
                f"{one.box.id}/papers",
                f"Nobody judged whether {sub.name} goes into {one.name}: its papers give no {listed(lacks)}",
                "Measure the driver itself before a board is cut.",
                Remedy("Enter it", path=path),
            )
        room_mm = 1000 * (min(shape.width_m, shape.height_m) - 2 * shape.board_m)
        if hole is not None and hole > room_mm:
            yield stop(
                f"{one.box.id}/opening",
                f"{sub.name} wants a hole of {hole:.0f} mm, the front of {one.name} is {room_mm:.0f} mm inside its"
                " boards",
                "The hole would cut into the boards around it.",
                where,
            )


@rule("box-openings", "loads", FLANGES)
def box_openings(results: Results) -> Iterator[Draft]:
    """More drivers than a box has openings for, or than go beside each other into its front."""
    for one in results.boxes:
        box, subs, shape = one.box, one.subs, shape_of(one.box)
        holes_mm = [sub.cut_out_mm for sub in subs if sub.cut_out_mm is not None]
        number = len(subs)
        if box.chambers is Chambers.ISOBARIC:
            number, holes_mm = number // 2, holes_mm[: number // 2]
        if number < 2:
            continue
        if box.boards.thickness_mm is None:
            if number > box.openings:
                has = count(box.openings, "opening")
                yield stop(
                    at(box, lambda it: it.openings),
                    f"{number} drivers into {box.name}, which has {has}",
                    "A bought box takes as many as it has openings for. Take another one beside it, or say how many it"
                    " has.",
                    find_part("Find another box", "box", BESIDE),
                )
            continue
        if shape is None or len(holes_mm) < number:
            path = at(box, lambda it: it.height_m)
            if shape is not None:
                path = at(next(s for s in subs if s.cut_out_mm is None), lambda it: it.cut_out_mm)
            lacks = "the box's height" if shape is None else "a cut-out"
            yield watch(
                f"{box.id}/openings",
                f"Nobody judged whether {number} drivers go into the front of {box.name}: {lacks} is not on file",
                "Measure before a board is cut.",
                Remedy("Enter it", path=path),
            )
            continue
        wide_mm, high_mm = (1000 * (side - 2 * shape.board_m) for side in (shape.width_m, shape.height_m))
        between_mm = FLANGE * max(holes_mm)
        if min(wide_mm, high_mm) <= 0 or go_in(holes_mm, wide_mm, high_mm, between_mm):
            continue
        wants_mm = sum(holes_mm) + between_mm * (number - 1)
        whole_m = ceil(wants_mm + 2000 * shape.board_m) / 1000
        fits = max(holes_mm) <= high_mm and whole_m <= MOST_WIDE_M
        yield stop(
            f"{box.id}/openings",
            f"{number} drivers want {wants_mm:.0f} mm beside each other, the front of {box.name} is {wide_mm:.0f} ×"
            f" {high_mm:.0f} mm inside its boards",
            f"{listed([f'{mm:.0f} mm' for mm in holes_mm])} of opening, {between_mm:.0f} mm between for their flanges.",
            Remedy(f"Make it {1000 * whole_m:.0f} mm wide", (set_to(at(box, lambda it: it.width_m), whole_m),))
            if fits
            else _anew(results, one),
        )


@rule("box-corners", "loads", PRACTICE)
def box_corners(results: Results) -> Iterator[Draft]:
    """The corners of a box's side span another size than the one that was checked against its space."""
    for one in results.boxes:
        shape, box = shape_of(one.box), one.box
        if not isinstance(shape, PrismShape) or one.made is None or box.height_m is None:
            continue
        if abs(shape.bottom_m - box.length_m) <= OFF_M and abs(shape.height_m - box.height_m) <= OFF_M:
            continue
        yield watch(
            at(box, lambda it: it.boards.corners),
            f"{box.name}: its corners span {1000 * shape.bottom_m:.0f} × {1000 * shape.height_m:.0f} mm, its size on"
            f" file is {1000 * box.length_m:.0f} × {1000 * box.height_m:.0f}",
            "The size on file is what is tried in the space and drawn on the car.",
            Remedy(
                "Take the size of its corners",
                (
                    set_to(at(box, lambda it: it.length_m), round(shape.bottom_m, 4)),
                    set_to(at(box, lambda it: it.height_m), round(shape.height_m, 4)),
                ),
            ),
        )


@rule("box-vents", "loads", FLANGES)
def box_vents(results: Results) -> Iterator[Draft]:
    """Vents nobody knows the size of, and those that do not go into a box's front beside its drivers, where the cut
    sheet puts them.
    """
    for one in results.boxes:
        box, shape, vents = one.box, shape_of(one.box), one.box.vents
        if opens(box) and one.subs and vent_area_m2(vents) is None:
            yield (note if box.boards.thickness_mm is None else watch)(
                f"{box.id}/vents",
                f"Nobody judged the vents of {box.name}: their size is not on file",
                "How long they are, whether they go in and whether the air in them is heard rest on it.",
                Remedy("Enter it", path=at(box, lambda it: it.vents)),
            )
            continue
        if box.box_type != "vented" or box.boards.thickness_mm is None or shape is None or not one.subs:
            continue
        fronts = len(one.subs) // 2 if box.chambers is Chambers.ISOBARIC else len(one.subs)
        drivers_mm = [sub.cut_out_mm for sub in one.subs[:fronts] if sub.cut_out_mm is not None]
        wide_mm, high_mm = (1000 * (side - 2 * shape.board_m) for side in (shape.width_m, shape.height_m))
        if not drivers_mm or len(drivers_mm) < fronts or min(wide_mm, high_mm) <= 0:
            continue  # said by itself
        between_mm = FLANGE * max(drivers_mm)
        if not go_in(drivers_mm, wide_mm, high_mm, between_mm):
            continue  # nor do the drivers alone
        slot = vents.shape is VentShape.SLOT
        if slot and vents.height_mm is not None and vents.width_mm is not None:
            left_mm = high_mm - vents.height_mm - 1000 * shape.board_m  # along an edge, behind a board of its own
            fits = vents.width_mm * vents.count <= wide_mm and left_mm > 0
            fits = fits and go_in(drivers_mm, wide_mm, left_mm, between_mm)
            size = f"{vents.width_mm:.0f} × {vents.height_mm:.0f} mm"
        else:
            round_mm = [vents.diameter_mm or 0.0] * vents.count
            fits = go_in([*drivers_mm, *round_mm], wide_mm, high_mm, between_mm)
            size = f"{round_mm[0]:.0f} mm"
        if not fits:
            holes = listed([f"{mm:.0f} mm" for mm in drivers_mm])
            yield watch(
                f"{box.id}/vents",
                f"{count(vents.count, 'vent')} of {size} {'do' if vents.count > 1 else 'does'} not go into the front of"
                f" {box.name} beside {holes}",
                f"It is {wide_mm:.0f} × {high_mm:.0f} mm inside its boards, with {between_mm:.0f} mm between openings;"
                " more than two are tried in rows only. Put them into a side or the back, or make the box larger.",
                _anew(results, one),
            )
