"""Rules on boxes: what a driver does in one, its vents, its air; and what nobody could judge."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.box.circuit import JUDGED_FROM_HZ, opens, vent_mm
from ohmack.core.box.judged import CIRCUIT, BoxResult
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Subwoofer
from ohmack.core.figures.finding import Draft, Remedy, note, rule, stop, watch
from ohmack.core.physics.box_limits import MOST_AIR_SPEED_M_S
from ohmack.core.physics.small_signal import disagreements
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

BOOMY_Q = 1.1  # a closed box of a higher one booms; common practice
FREE_AIR_QTS = 0.45  # below it a driver without a box is weak in the bass; common practice
LONG_VENT = 0.9  # of the box's longest inside, beyond it a vent has to be bent; common practice


@rule("box-not-judged", "loads", PRACTICE)
def box_not_judged(results: Results) -> Iterator[Draft]:
    """What a box makes of its driver is not known: the papers lack small-signal parameters."""
    for one in results.boxes:
        if one.unlike:
            yield note(
                one.box.id,
                f"Nobody judged what {one.name} does: {one.unlike}",
                "Its drivers are computed as one where they are alike, driven alike and wired the right way round.",
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
    """The cone goes further at full level than its papers allow, or they do not say how far it may go."""
    for one in results.boxes:
        solved = one.solved
        if solved is None:
            continue
        xmax_mm = solved.xmax_mm
        if xmax_mm is None:
            path = at(one.subs[0], lambda it: it.xmax_mm)
            yield note(
                path,
                f"Nobody judged whether {one.subs[0].name} goes too far: its papers give no Xmax",
                f"At full level its cone goes {solved.travel_mm:.1f} mm one way at {solved.travel_at_hz:.0f} Hz.",
                Remedy("Enter it", path=path),
            )
            continue
        if solved.travel_mm <= xmax_mm * 1.005:
            continue
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


@rule("free-air", "loads", PRACTICE)
def free_air(results: Results) -> Iterator[Draft]:
    """A driver in free air: whether it is made for it, and what the board has to seal."""
    for one in results.boxes:
        if one.box.box_type != "free air" or one.solved is None:
            continue
        qts = one.solved.driver.qts
        if qts < FREE_AIR_QTS:
            yield watch(
                f"{one.box.id}/qts",
                f"{_named(one.subs)} is no driver for free air: Qts {qts:.2f}",
                f"Without a box's spring it is weak in the bass below about Qts {FREE_AIR_QTS}. A closed box, or"
                " another driver.",
                Remedy("Look at the box", sheet="box"),
            )
        yield note(
            one.box.id,
            f"{one.name}: the boot is the box, so its board has to be tight",
            "Seal shelf, seat back and every hole between boot and cabin: air that gets round takes the bass away."
            " Loose things in the boot rattle, and a full boot leaves less air.",
            Remedy("Look at the box", sheet="box"),
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
