"""Rules on boxes: what a driver does in one, its vents, its air, its boards; and what nobody could judge."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.box.circuit import JUDGED_FROM_HZ, opens, vent_mm
from ohmack.core.box.judged import CIRCUIT, BoxResult, shape_of
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Subwoofer
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.physics.box_limits import MOST_AIR_SPEED_M_S
from ohmack.core.physics.small_signal import disagreements
from ohmack.core.reference import PRACTICE, Grade, Source
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

ROOM_BEHIND = Source("geometry; room behind a magnet common practice", Grade.PRACTICE)
VOLUME_OFF = 0.05  # of the net volume; the tuning moves by half of it; common practice
BOOMY_Q = 1.1  # a closed box of a higher one booms; common practice
BEHIND_MM = 25.0  # free behind a magnet with its vent; common practice
LONG_VENT = 0.9  # of the box's longest inside, beyond it a vent has to be bent; common practice


@rule("box-not-judged", "loads", PRACTICE)
def box_not_judged(results: Results) -> Iterator[Draft]:
    """What a box makes of its driver is not known: the papers lack small-signal parameters."""
    for one in results.boxes:
        if one.unlike:
            yield note(
                one.box.id,
                f"Nobody judged what {one.name} does: {one.unlike}",
                "Its drivers can be computed as one where they are alike and driven alike.",
                Remedy("Look at the outputs", sheet="loads"),
            )
        if one.lacks:
            names = listed([name for _, name in one.lacks])
            yield note(
                one.box.id,
                f"Nobody judged what {one.name} makes of {one.subs[0].name}",
                f"Its papers give no {names}. Reach, travel of the cone and the vent rest on them.",
                Remedy("Enter them", path=one.lacks[0][0]),
            )


@rule("box-driver-papers", "loads", CIRCUIT)
def box_driver_papers(results: Results) -> Iterator[Draft]:
    """Small-signal parameters that contradict each other."""
    for one in results.boxes:
        if one.solved is None:
            continue
        sub = one.subs[0]
        mms_kg = None if sub.mms_g is None else sub.mms_g / 1000 * _masses(one)
        for wrong in disagreements(one.solved.driver, qts=sub.qts, mms_kg=mms_kg):
            name, path, scale, unit, others = (
                ("Qts", at(sub, lambda it: it.qts), 1.0, "", "Qms and Qes")
                if wrong.quantity == "qts"
                else ("moving mass", at(sub, lambda it: it.mms_g), 1000 / _masses(one), " g", "fs, Vas and Sd")
            )
            stated, follows = wrong.stated * scale, wrong.follows * scale
            yield watch(
                path,
                f"{sub.name}: {name} {stated:.3g}{unit} in its papers, {follows:.3g}{unit} by {others}",
                "One of them is wrong, and what the box does hangs on it. Look at the papers, or measure.",
                Remedy("Look at it", path=path),
            )


def _masses(one: BoxResult) -> float:
    """How many times a driver's mass the whole of them moves."""
    assert one.solved is not None
    sub = one.subs[0]
    own = 1.0 if sub.sd_cm2 is None else one.solved.driver.sd_m2 * 10_000 / sub.sd_cm2
    return own * (2.0 if one.box.chambers.value == "isobaric pairs" else 1.0)


@rule("box-travel", "loads", CIRCUIT)
def box_travel(results: Results) -> Iterator[Draft]:
    """The cone goes further at full level than its papers allow."""
    for one in results.boxes:
        solved = one.solved
        if solved is None or solved.xmax_mm is None or solved.travel_mm <= solved.xmax_mm * 1.005:
            continue
        xmax_mm = solved.xmax_mm
        held_w = solved.held_w(xmax_mm)
        yield watch(
            one.subs[0].id,
            f"{one.subs[0].name} would go {solved.travel_mm:.1f} mm at {solved.travel_at_hz:.0f} Hz;"
            f" its papers give {xmax_mm:.1f} mm",
            f"At full level, from {JUDGED_FROM_HZ:.0f} Hz up. About {results.say(held_w, 'w')} hold it, a smaller or"
            " higher tuned box, or a subsonic filter set higher.",
            Remedy("Look at the box", sheet="box"),
        )


@rule("box-vent-speed", "loads", PRACTICE)
def box_vent_speed(results: Results) -> Iterator[Draft]:
    """Air runs through a vent so fast that it is heard."""
    for one in results.boxes:
        figure = results.book.figures.get(f"{one.box.id}/air_speed_m_s")
        if figure is not None and figure.value is not None and figure.value > MOST_AIR_SPEED_M_S:
            times = figure.value / MOST_AIR_SPEED_M_S
            yield watch(
                one.box.id,
                f"Air runs through the vents of {one.name} at {figure.value:.0f} m/s",
                f"Above about {MOST_AIR_SPEED_M_S:.0f} m/s it is heard at full level. {times:.1f} times the area, and"
                f" as many times the length, would hold it there.",
                Remedy("Look at the vents", path=at(one.box, lambda it: it.vents)),
            )


@rule("box-vent-length", "loads", CIRCUIT)
def box_vent_length(results: Results) -> Iterator[Draft]:
    """Vents that would have to be shorter than nothing, or longer than the box."""
    for one in results.boxes:
        box = one.box
        if not opens(box) or box.vents.length_mm is not None:
            continue
        length_mm = vent_mm(box)
        inside_mm = 1000 * max(box.length_m, box.width_m, box.height_m or 0.0) * LONG_VENT
        where = Remedy("Look at the vents", path=at(box, lambda it: it.vents))
        if length_mm is not None and length_mm < 0:
            yield stop(
                at(box, lambda it: it.vents),
                f"{box.name}: no vent of this size is short enough for {box.tuning_hz:.0f} Hz",
                "Even a bare hole tunes lower. Take more or larger vents, a smaller volume, or tune lower.",
                where,
            )
        elif length_mm is not None and length_mm > inside_mm:
            yield watch(
                at(box, lambda it: it.vents),
                f"{box.name}: each vent is {length_mm:.0f} mm long, the box {inside_mm:.0f} mm inside",
                "It has to be bent, or take smaller or fewer vents where the speed of the air allows.",
                where,
            )


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
        where = Remedy("Look at its size", path=at(one.box, lambda it: it.boards))
        if deep is not None and deep + BEHIND_MM > clear_mm:
            yield (stop if deep > clear_mm else watch)(
                f"{one.box.id}/depth",
                f"{sub.name} is {deep:.0f} mm deep, {one.name} {clear_mm:.0f} mm inside",
                f"Behind the magnet it wants about {BEHIND_MM:.0f} mm to breathe. A deeper box, or a ring before the"
                " front.",
                where,
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


@rule("box-boomy", "loads", PRACTICE)
def box_boomy(results: Results) -> Iterator[Draft]:
    """A closed box so small that it booms."""
    for one in results.boxes:
        q = results.book.figures.get(f"{one.box.id}/q")
        if q is not None and q.value is not None and q.value > BOOMY_Q:
            yield watch(
                one.box.id,
                f"{one.name} is small for {_named(one.subs)}: Q {q.value:.2f}",
                "Above about 1.1 bass booms on one note and does not reach low. A larger box, more stuffing, or another"
                " driver.",
                Remedy("Look at the box", sheet="box"),
            )


def _named(subs: tuple[Subwoofer, ...]) -> str:
    return listed([sub.name for sub in subs])
