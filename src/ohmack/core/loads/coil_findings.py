"""Rules on coils of one driver on several outputs: every coil once, and one signal for all of them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Subwoofer
from ohmack.core.figures.finding import Draft, Remedy, note, rule, stop, watch
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

ALIKE = 1.01  # outputs whose full voltages differ by more than this do not play one signal


@rule("split-coils", "loads", PRACTICE)
def split_coils(results: Results) -> Iterator[Draft]:
    """The coils of a driver on several outputs: one used twice, one left out, or signals that are not one."""
    for sub in results.design.parts_of(Subwoofer):
        links = [link for link in results.design.links_of(SpeakerLink) if link.to_id == sub.id]
        if not links or (len(links) == 1 and not links[0].coils):
            continue
        numbers = range(1, len(sub.coils) + 1)
        uses = [n for link in links for n in (link.coils or numbers)]
        look = Remedy("Look at its wire", path=at(links[-1]))
        if strange := sorted({n for n in uses if n not in numbers}):
            yield stop(
                f"{sub.id}/coils", f"{sub.name} has no coil {listed([str(n) for n in strange])}",
                "A wire of the plan leads to a coil that is not there.", look,
            )  # fmt: skip
        if twice := sorted({n for n in uses if uses.count(n) > 1}):
            yield stop(
                f"{sub.id}/twice",
                f"Coil {listed([str(n) for n in twice])} of {sub.name} hangs on two outputs",
                "Two outputs on one coil drive each other. One of them fails.",
                look,
            )
        if left := [n for n in numbers if n not in uses]:
            yield watch(
                f"{sub.id}/left",
                f"Coil {listed([str(n) for n in left])} of {sub.name} hangs on nothing",
                "The driver plays with part of its coils and takes only their part of its power; its data no longer"
                " holds for the box.",
                look,
            )
        if len(links) > 1 and not twice:
            yield _signals(results, sub, links)


@rule("driven-twice", "loads", PRACTICE)
def driven_twice(results: Results) -> Iterator[Draft]:
    """A speaker of the car hangs on two outputs of amplifiers."""
    design = results.design
    links, names = list(design.links_of(SpeakerLink)), {part.id: part.name for part in design.parts}
    seated = {name: sub.id for sub in design.parts_of(Subwoofer) for name in sub.at_ids}
    for speaker in design.vehicle.speakers:
        here = [link for link in links if link.to_id == speaker.id]
        here += [link for link in links if here and link.to_id == seated.get(speaker.id)]
        if len(here) < 2:
            continue
        channels = list(dict.fromkeys(f"channel {k.channel} of {names.get(k.from_id, k.from_id)}" for k in here))
        twice = "Two outputs on one speaker drive each other. One of them fails."
        yield stop(
            f"{speaker.id}/twice",
            f"{speaker.name} hangs on {listed(channels)}{' twice' if len(channels) == 1 else ''}",
            twice if len(channels) > 1 else "It is counted as two speakers, and a wire too many is laid.",
            Remedy("Take the last one off", (Edit(op="remove", path=at(here[-1])),)),
        )


def _signals(results: Results, sub: Subwoofer, links: Sequence[SpeakerLink]) -> Draft:
    loads = [load for load in results.loads if any(link in load.links for link in links)]
    look = Remedy("Look at the outputs", sheet="loads")
    if reason := _unlike(links, loads):
        return stop(
            sub.id,
            f"{sub.name}: its coils get two signals, {reason}",
            "Both coils move one cone: where they differ, one works against the other and both get hot. Put them on"
            " channels of a kind, set alike, or on one channel.",
            look,
        )
    return note(
        sub.id,
        f"{sub.name}: a coil each on {len(links)} channels, which have to play one signal",
        "Feed both from one line, or sum left and right; set their gain and filters alike and check it with the meter"
        " before the coils are joined to them.",
        look,
    )


def _unlike(links: Sequence[SpeakerLink], loads: Sequence[LoadResult]) -> str:
    if len({link.from_id for link in links}) > 1:
        return "from two amplifiers"
    if len({(link.high_pass_hz, link.low_pass_hz) for link in links}) > 1:
        return "their filters differ"
    if len({link.bridged for link in links}) > 1:
        return "one of them bridged"
    volts = [load.full_scale.value for load in loads]
    known = [v for v in volts if v is not None]
    return "their channels are not of a kind" if known and max(known) > ALIKE * min(known) else ""
