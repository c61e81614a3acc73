"""What to prepare today for parts that come later: cable laid with the trim off, connectors, room, and what today's
choice must allow.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.part import Phase
from ohmack.core.document.parts import Converter, FuseHolder, HeadUnit
from ohmack.core.fit.runs import plays_over_the_loom
from ohmack.core.physics.conductors import Conductor, cable_price
from ohmack.core.record import record
from ohmack.core.wording import count, listed, times_of, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@record
class Preparation:
    """One thing to prepare now: what, why, and where it is looked at; `rework` where leaving it means doing work
    twice.
    """

    path: str
    title: str
    text: str
    rework: bool = False


def _price(results: Results, wire: Conductor, link_id: str) -> str:
    price = cable_price(wire, results.runs[link_id].length.value or 0.0)
    return f"{price:.0f} {results.design.policy.currency}"


def preparations(today: Results, whole: Results | None) -> tuple[Preparation, ...]:
    """What today's work must do for the parts of a later phase.

    Parameters:
        today: the car with only what is fitted now.
        whole: the car with the later parts too; None where nothing comes later.

    Returns:
        preparations, cables first; none where everything of today is in the car, and no trim is off. Source: common
        practice.
    """
    if whole is None or today.design.all_in_car:
        return ()
    return (
        *_power(today, whole),
        *_small_cables(today, whole),
        *_room_for_fuses(today, whole),
        *_loads(whole),
        *_radio(whole),
    )


def _power(today: Results, whole: Results) -> Iterator[Preparation]:
    sized = {s.link.id: s for s in today.supplies}
    for supply in whole.supplies:
        before, chosen = sized.get(supply.link.id), supply.chosen
        if chosen is None:
            continue
        if before is None:
            length = whole.runs[supply.link.id].length.value
            metres = f" {whole.say(length, 'm')} of" if length else ""
            each = times_of(chosen.fuses)
            yield Preparation(
                at(supply.link),
                f"Lay{metres} {chosen.wire.label} for {supply.part.name}",
                f"With the trim off today the cable costs about {_price(whole, chosen.wire, supply.link.id)}; later the"
                f" same trim comes off again. Fuse out (later {each}{trimmed(chosen.fuse_a)} A), both ends insulated"
                " and labelled, a loop coiled where the part will sit.",
                True,
            )
        elif before.chosen and before.chosen.wire.area_mm2 < chosen.wire.area_mm2:
            yield Preparation(
                at(supply.link),
                f"{chosen.wire.label} for {supply.part.name} today, though {before.chosen.wire.label} would do for now",
                "With the later parts the thinner wire would have to come out again. The thicker one costs"
                f" {_price(whole, chosen.wire, supply.link.id)} instead of"
                f" {_price(whole, before.chosen.wire, supply.link.id)}.",
                True,
            )


def _small_cables(today: Results, whole: Results) -> Iterator[Preparation]:
    """Signal, remote and speaker cables that go with a later part."""
    kinds = {
        LineLink: "screened line cable",
        RemoteLink: "remote wire",
        SpeakerLink: "speaker cable",
        TapLink: "signal pickup",
    }
    coming: dict[str, list[str]] = {}
    for link in whole.design.links:
        if link.id in today.runs or type(link) not in kinds or plays_over_the_loom(whole.design, link):
            continue
        run = whole.runs[link.id]
        length = run.length.value
        part = next(
            (
                p.name
                for p in whole.design.parts
                if p.id == (link.from_id if isinstance(link, SpeakerLink) else link.to_id)
            ),
            "",
        )
        coming.setdefault(part, []).append(f"{kinds[type(link)]}{_metres(whole, length)}")
    for part, cables in coming.items():
        yield Preparation(
            "plan", f"Pull with it for {part}: {listed(cables)}",
            "Coiled, ends insulated and labelled at both ends. A connector today saves a cut then.",
        )  # fmt: skip


def _metres(whole: Results, length_m: float | None) -> str:
    return f" {whole.say(length_m, 'm')}" if length_m else ""


def _room_for_fuses(today: Results, whole: Results) -> Iterator[Preparation]:
    """Whether the holders bought now have room for the fuses of later runs."""
    holders = list(today.design.parts_of(FuseHolder))
    wanted = len(whole.supplies)
    room = sum(h.circuits for h in holders)
    if holders and wanted > len(today.supplies) and room < wanted:
        yield Preparation(
            at(holders[0]),
            f"{count(wanted, 'power fuse')} in the end, {listed([h.name for h in holders])} has room for {room}",
            "A block with room for all costs little more today; later a second holder needs a second place and a second"
            " terminal on the post.",
            True,
        )


def _loads(whole: Results) -> Iterator[Preparation]:
    """What today's drivers must allow of an amplifier that comes later."""
    for load in whole.loads:
        names = {name for d in (*load.driven, *load.beside) for name in (d.id, *d.through_net)}
        here = [p.name for p in whole.design.parts if p.id in names and p.phase is Phase.NOW]
        if load.amplifier.phase is not Phase.LATER or not here:
            continue
        allowed = load.chosen.permitted and load.chosen.power_w is not None
        advice = (
            "choose a driver that serves both, or another amplifier" if not allowed else "today’s driver goes with it"
        )
        yield Preparation(
            at(load.link),
            f"{listed(here)} on the later {load.amplifier.name}: {trimmed(round(load.chosen.load_ohm, 2))} Ω,"
            f" {load.chosen.words}",
            f"It permits {trimmed(load.lowest_ohm)} Ω and up: {advice}."
            " Bring both coils out to a terminal, so that the wiring can change without taking the driver out.",
            not allowed,
        )


def _radio(whole: Results) -> Iterator[Preparation]:
    radios = [p for p in whole.design.parts_of(HeadUnit) if p.phase is Phase.LATER]
    if not radios:
        return
    for tap in whole.design.links_of(TapLink):
        if tap.method.value == "splice":
            yield Preparation(
                at(tap), "Spliced now, cut again for the later radio",
                f"{radios[0].name} takes the same plug: a plug adapter today comes off without a cut.", True,
            )  # fmt: skip
    for converter in whole.design.parts_of(Converter):
        if converter.phase is Phase.NOW and radios[0].line_pairs:
            yield Preparation(
                at(converter),
                f"{converter.name} is bought for the time until {radios[0].name}",
                f"The later radio has {count(radios[0].line_pairs, 'line pair')} of its own; {converter.price or 0:.0f}"
                f" {whole.design.policy.currency} are gone then. Radio first, or a converter that can be sold on.",
                True,
            )
    yield Preparation(
        at(radios[0]), f"Leave the plugs whole for {radios[0].name}",
        "Aerial, microphone and camera leads are laid quickest while the dash is open; leave them coiled behind it.",
    )  # fmt: skip
