"""Is everything there that the figures need?"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from ohmack.core.document import Basis, Design
from ohmack.core.document.boxes import Box
from ohmack.core.document.factory import Module, Radio, Tier
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.interventions import factory_amplifier_gone
from ohmack.core.document.parts import (
    Subwoofer,
)
from ohmack.core.document.paths import design_facts
from ohmack.core.document.vehicle import Supply, SystemVoltage
from ohmack.core.figures.finding import Draft, Remedy, Severity, find_part, note, rule, set_to, stop, watch
from ohmack.core.figures.gaps import GOOD_TO_KNOW, weight
from ohmack.core.figures.later import fit_now
from ohmack.core.fit.places import first_place
from ohmack.core.fit.waiting import waiting_places
from ohmack.core.loads.driven import DC_HIGH, DC_LOW
from ohmack.core.reference import PRACTICE, read_toml
from ohmack.core.supply.own_runs import feeds_of_the_old
from ohmack.core.survey.ages import usual_of
from ohmack.core.units import unit_of
from ohmack.core.wording import count, counted, digits, listed, lowered, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

OPENING = (
    at_the(Radio, lambda it: it.opening_width_mm),
    at_the(Radio, lambda it: it.opening_height_mm),
    at_the(Radio, lambda it: it.opening_depth_mm),
)
MEASURED_OUT = ("depth_mm", "window_depth_mm", "trim_clearance_mm", "cut_out_mm")  # with the speaker out, by a ruler


@rule("fact-missing", "survey", PRACTICE)
def fact_missing(results: Results) -> Iterator[Draft]:
    """A fact that a figure needs is not known."""
    needed: dict[str, tuple[str, list[str]]] = {}
    worst: dict[str, Severity] = {}
    waiting = {at(place, lambda it: it.impedance_ohm) for place in waiting_places(results.design)}  # see place-waiting
    for figure in results.book.figures.values():
        weighs = weight(figure)
        if weighs is None:
            continue
        for gap in figure.missing:
            needed.setdefault(gap.path, (gap.name, []))[1].append(_within(results.design, figure.name))
            worst[gap.path] = min(worst.get(gap.path, weighs), weighs, key=lambda severity: severity.rank)
    vehicle = results.design.vehicle
    spaces = [(watch, at(space), space.name, (f"{at(space)}/",), 1) for space in vehicle.spaces]
    places = [
        (stop, at(place), place.name, tuple(f"{at(place)}/{name}" for name in MEASURED_OUT), 2)
        for place in vehicle.speakers
    ]
    for draft, about, what, heads, least in (*spaces, *places, (stop, OPENING[0], "dash opening", OPENING, 1)):
        of_it = [path for path in needed if path.startswith(heads)]  # measured at one go: asked for at one go
        if len(of_it) >= least:
            names = [needed.pop(path)[0].removeprefix(what).lstrip(":, ") for path in of_it]
            yield draft(
                about,
                f"Not measured: {what}",
                f"To be measured: {'; '.join(names)}. Until then nobody knows whether what goes there fits.",
                Remedy("Enter it", path=of_it[0]),
            )
    for path, (name, figures) in needed.items():
        if path in waiting:
            continue
        unique = list(dict.fromkeys(figures))
        shown = listed([*unique[:3], f"{len(unique) - 3} more"] if len(unique) > 3 else unique)
        draft = {Severity.STOP: stop, Severity.WATCH: watch, Severity.NOTE: note}[worst[path]]
        yield draft(
            path, f"Not known: {name}", f"Without it there is no figure for {shown}.", Remedy("Enter it", path=path)
        )


def _within(design: Design, name: str) -> str:
    """A figure's name within a sentence; one that begins with a part's name stays as it is."""
    return name if any(name.startswith(part.name) for part in design.parts) else lowered(name)


@rule("driver-boxless", "plan", PRACTICE)
def driver_boxless(results: Results) -> Iterator[Draft]:
    """A subwoofer is planned without a box."""
    design = results.design
    subs, boxes = [s for s in design.parts_of(Subwoofer) if not s.at_ids], list(design.parts_of(Box))
    if subs and not boxes:
        title = f"{counted([s.name for s in subs])}: no box"
        if all(sub.in_car for sub in subs):
            yield stop(
                subs[0].id,
                title,
                "What it sits in decides how it sounds and how far it moves. Measure the box that is there, outside and"
                " its port, and type it in.",
                Remedy("Type in what is there", sheet="parts/new", query="kind=box&in_car=yes"),
            )
            return
        yield stop(
            subs[0].id,
            title,
            "A bare driver has no bass and tears itself apart. Pick the box it goes into, or type it in.",
            fit_now(results, "box") or find_part("Find a box", "box"),
        )


@rule("nothing-judged", "plan", PRACTICE)
def nothing_judged(results: Results) -> Iterator[Draft]:
    """Parts are on the list, and nothing of them plays, feeds or fits anything."""
    design = results.design
    judged = (
        results.loads,
        results.channel_loads,
        results.supplies,
        results.signals,
        results.direct_inputs,
        results.feeds,
        results.self_fed,
        [fit for fit in results.fits if fit.checks or fit.in_cup],
    )
    first = next((part for part in design.parts if not part.in_car), None)
    if first is not None and not any(judged):
        yield stop(
            first.id,
            "Nothing to build yet",
            f"{count(len(design.parts), 'part')} on the list, and nothing they load, feed or fit into was judged. Pick"
            " what plays: a driver, a radio, an amplifier, a subwoofer.",
            Remedy("Find a part", sheet="find"),
        )


@rule("part-unplaced", "plan", PRACTICE)
def part_unplaced(results: Results) -> Iterator[Draft]:
    """A part has no place on the plan yet."""
    vehicle = results.design.vehicle
    for part in results.design.parts:
        place = first_place(part.kind, vehicle)
        if part.position is None and place is not None:
            yield stop(
                part.id,
                f"{part.name} has no place yet",
                "Its cables cannot be measured on the plan. Put it where it usually sits, then drag it.",
                Remedy("Place it", (set_to(at(part, lambda it: it.position), place),)),
            )


@rule("figure-refused", "supply", PRACTICE)
def figure_refused(results: Results) -> Iterator[Draft]:
    """A model was asked outside its range, or a figure came out empty: nothing was judged there."""
    collapsed = {supply.part.id for supply in results.supplies if supply.collapse}  # these have findings of their own
    collapsed |= {load.scope for load in results.loads if load.unread or not load.chosen.stays}
    seen = set()
    for figure in results.book.figures.values():
        scope, _, name = figure.id.rpartition("/")
        if not figure.refused or figure.inherited or scope in collapsed or (scope, figure.refused) in seen:
            continue
        seen.add((scope, figure.refused))
        draft = watch if name in GOOD_TO_KNOW else stop
        yield draft(figure.id, f"No figure for {figure.name[0].lower()}{figure.name[1:]}", figure.refused)


def _scale(design: Design) -> float | None:
    """How the 12 V ranges on file scale to the car's system; None where they say nothing about it."""
    system = design.vehicle.supply.system.value
    return {None: 1.0, SystemVoltage.V12: 1.0, SystemVoltage.V24: 2.0}.get(system)


def _kind_of(owner: object, guide: dict[str, Any]) -> str:
    """What the ranges of a fact begin with for its owner: a factory amplifier gives more than a radio, lines to one
    less.
    """
    if isinstance(owner, Module) and "module_low" in guide:
        return "module_"
    lines = isinstance(owner, Radio) and owner.tier.value is Tier.AMPLIFIED
    return "line_" if lines and "line_low" in guide else ""


@rule("reading-implausible", "survey", PRACTICE)
def reading_implausible(results: Results) -> Iterator[Draft]:
    """A measured value lies outside what such cars show."""
    guides = read_toml("facts")
    design = results.design
    drawn = at_the(Supply, lambda it: it.car_draw_a)  # by the age of the car
    unplugged = feeds_of_the_old(design) if factory_amplifier_gone(design) else []  # nothing is drawn from what fed it
    for path, fact, owner, field in design_facts(design):
        guide = guides.get(field)
        if guide is None or "below" not in guide:
            continue
        if fact.basis is not Basis.MEASURED or not isinstance(fact.value, float):
            continue
        scale = _scale(results.design) if field.startswith("post_") else 1.0
        if scale is None:
            continue  # no range on file for such a system
        of = _kind_of(owner, guide)
        low, high, unit = scale * guide[f"{of}low"], scale * guide[f"{of}high"], unit_of(field)
        if path == drawn:
            _, low, high = usual_of(design.vehicle.year).draw_a
        if low <= fact.value <= high or (fact.value == 0.0 and owner in unplugged):
            continue
        title = type(owner).model_fields[field].title or field
        side = "below" if fact.value < low else "above"
        yield watch(
            path,
            f"{title}: {results.say(fact.value, unit)} is unusual",
            f"{results.say(low, unit)} to {results.say(high, unit)} is usual."
            f" {guide.get(f'{of}{side}') or guide[side]}",
            Remedy("Look at the reading", path=path),
        )


@rule("speaker-reading", "survey", PRACTICE)
def speaker_reading(results: Results) -> Iterator[Draft]:
    """A speaker's DC resistance does not fit its nominal impedance."""
    for speaker in results.design.vehicle.speakers:
        read = speaker.dc_resistance_ohm.value
        nominal = speaker.impedance_ohm.value if read else None
        if nominal and read and not DC_LOW * nominal <= read <= DC_HIGH * nominal:
            yield watch(
                speaker.id,
                f"{speaker.name} reads {digits(read)} Ω against {trimmed(nominal)} Ω nominal",
                f"A {trimmed(nominal)} Ω speaker reads {digits(DC_LOW * nominal)} to {digits(DC_HIGH * nominal)} Ω with"
                " the leads zeroed. Check the plug is off at both ends, or the nominal is another one.",
                Remedy("Look at the fact", path=at(speaker, lambda it: it.impedance_ohm)),
            )
