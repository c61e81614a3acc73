"""Rules on what was in the car before: cables nobody read, cables of parts that stay planned as new."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.build.fuses_there import unread_fuses
from ohmack.core.document import Design
from ohmack.core.document.handles import at, sure
from ohmack.core.document.links import Link
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.fit.runs import plays_over_the_loom
from ohmack.core.loads.meter import wired_as
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

BETWEEN = frozenset({"charge", "capacitor"})  # of the others the figures are missing without it


@rule("laid-unread", "supply", PRACTICE)
def laid_unread(results: Results) -> Iterator[Draft]:
    """A cable lies in the car, and nobody said of which size."""
    purposes = {row.link_id: row.purpose for row in reversed(results.wire_rows)}
    for link in results.design.links:
        if not link.unread or link.kind not in BETWEEN or link.id not in purposes:
            continue
        run = results.runs[link.id]
        yield (stop if link.kind == "charge" else watch)(
            link.id,
            f"{purposes[link.id]} from {run.start_name} to {run.end_name} lies in the car: its size is not known",
            "What it carries and loses cannot be judged. Read its jacket, or bare an end and count strands: what is"
            " printed on cheap cable is often more than there is. Or plan it anew.",
            Remedy("Enter what is there", path=at(link, lambda it: it.wire.size)),
        )


@rule("fuse-unread", "supply", PRACTICE)
def fuse_unread(results: Results) -> Iterator[Draft]:
    """A cable lies in the car, and nobody read the fuse in it."""
    said = watch if results.design.all_in_car else note
    for one in unread_fuses(results):
        goes_in = "" if one.rating_a is None else f": one of {one.rating_a:g} A goes in its place"
        yield said(
            one.link.id,
            f"The fuse in the cable to {one.fed} was not read{goes_in}",
            "What is in it now is not judged. Read the number on it, and how far from the source it sits: one larger"
            " than its wire carries lets the wire burn first.",
            Remedy("Enter what is there", path=at(one.link, lambda it: sure(it.fuse).rating_a)),
        )


@rule("coils-unread", "loads", PRACTICE)
def coils_unread(results: Results) -> Iterator[Draft]:
    """Coils were wired before, in one of several ways, and nobody said in which."""
    for load in (load for load in results.loads if load.unread):
        names, ohm = listed([d.name for d in load.driven]), load.link.reads_ohm.value
        ways = "; ".join(f"{option.reads}: {option.words}" for option in load.options)
        title = f"How the coils of {names} are wired in the car is not known"
        text = f"Load and power hang on it. Read the pair at the amplifier's end, leads off; {ways}."
        remedy = Remedy("Choose what is there", sheet="loads")
        if ohm is not None:
            fit = wired_as(load, ohm, results.lead_ohm(load))
            shown = f"{names}: the pair reads {results.say(ohm, 'ohm')}"
            if len(fit) == 1:
                title, text = f"{shown}, as {fit[0].words} would", "Load and power hang on it: say that it is so."
                remedy = Remedy("It is wired so", (set_to(at(load.link, lambda it: it.wiring), fit[0].key),))
            elif not fit:
                title = f"{shown}, which no wiring of its coils shows"
                text = (
                    f"{ways}. Read it again, leads zeroed and plugs off; a coil may be open or shorted. No amplifier"
                    " goes on before it reads right."
                )
                remedy = Remedy("Read it again", path=at(load.link, lambda it: it.reads_ohm))
        yield stop(load.link.id, title, text, remedy)


@rule("laid-for-what-stays", "plan", PRACTICE)
def laid_for_what_stays(results: Results) -> Iterator[Draft]:
    """A part stays in the car, and every cable at it is planned as new."""
    design = results.design
    new = {part.id for part in design.parts if not part.in_car}
    for part in (part for part in design.parts if part.in_car):
        mine = list(_cables_of(design, part.id))
        if not mine or any(link.in_car for link in mine):
            continue
        there = [link for link in mine if new.isdisjoint((link.to_id, getattr(link, "from_id", "")))]
        if there:
            yield note(
                part.id,
                f"{part.name} is in the car already, {count(len(there), 'cable')} at it planned as new",
                "They are bought, cut and laid as the plan stands. Where they lie there too, say so, and then enter"
                " what sizes and fuses they are.",
                Remedy("They lie there too", tuple(set_to(at(link, lambda it: it.in_car), True) for link in there)),
            )


def _cables_of(design: Design, part_id: str) -> Iterator[Link]:
    """The links at a part that are cables of their own."""
    for link in design.links:
        if part_id in (link.to_id, getattr(link, "from_id", "")) and not plays_over_the_loom(design, link):
            yield link
