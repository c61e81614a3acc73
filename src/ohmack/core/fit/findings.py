"""Rules on mechanical fit: millimetres with a basis, a check and not a promise."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations
from math import ceil, floor
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.boxed import boxed
from ohmack.core.document.boxes import Box
from ohmack.core.document.cabin import Space
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import Driver, HeadUnit, PoweredSubwoofer, Subwoofer
from ohmack.core.document.small_parts import MountingRing
from ohmack.core.document.vehicle import Speaker, SpeakerPlace, Vehicle
from ohmack.core.figures.finding import Draft, Remedy, adding, find_part, note, rule, set_to, stop, watch
from ohmack.core.fit.built_to_space import built_to, rebuilt
from ohmack.core.fit.clearances import GEOMETRY, HOLE_PLAY_MM, SCREWS_MM, FitCheck, FitResult, ring_under
from ohmack.core.fit.made_to_measure import made_to_measure
from ohmack.core.fit.unmeasured import to_measure
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


USUAL_RING_MM, THIN_RING_MM = 12.0, 4.0  # of wood or plastic; a thinner one holds no screw; common practice


def _millimetres(check: FitCheck) -> str:
    value = check.spare.value or 0.0
    return f"{abs(value) * (1000 if check.spare.unit == 'm' else 1):.0f} mm"


def _mends(results: Results, fit: FitResult, check: FitCheck) -> tuple[Remedy, str]:
    """What mends a part that does not go in, and what it rests on: no other part is looked for by a guess."""
    remedy, unread = _ring(results, fit, check), to_measure(results.design, check)
    if remedy.sheet != "find" or unread is None:
        return remedy, ""
    return Remedy("Measure it", path=unread.path), f" A usual size: of this car nobody measured “{unread.name}”."


def _ring(results: Results, fit: FitResult, check: FitCheck) -> Remedy:
    """What mends a part that does not go in: a ring for depth or front room where one does, a box built otherwise."""
    design = results.design
    part, space = design.part(fit.part_id), next((s for s in design.vehicle.spaces if s.id == fit.place_id), None)
    if space is not None and isinstance(part, Box | PoweredSubwoofer):
        return _in_its_space(design, part, space)
    speaker = next((s for s in design.vehicle.speakers if s.id == fit.place_id), None)
    rung = fit.ring is not None and fit.ring[0] <= fit.ring[1]
    if isinstance(part, Driver) and part.role == "tweeter" and part.cup_height_mm is not None and not rung:
        return Remedy("Mount it in its cup, on the surface", (set_to(at(part, lambda it: it.on_surface), True),))
    if speaker is None or fit.ring is None or check.name == "Cut-out":
        kind = part.kind if part is not None else "driver"
        return find_part("Find one that goes in", kind, fit.part_id)
    bought = ring_under(design, speaker)
    if bought is not None and "ring" in check.name.lower():
        return Remedy("Choose another ring", path=at(bought))
    thin, thick = fit.ring
    if thin > thick:
        return find_part("No ring helps: find a shallower speaker", "driver", fit.part_id)
    if bought is not None:
        return Remedy(f"Take a ring {thin:.0f} to {thick:.0f} mm thick", path=at(bought))
    now_mm = speaker.adapter_ring_mm.value or 0.0
    nearest_mm = float(ceil(thin) if now_mm < thin else floor(thick))
    return _planned(results, speaker, min(max(nearest_mm, thin), thick))


def _in_its_space(design: Design, part: Box | PoweredSubwoofer, space: Space) -> Remedy:
    """What mends a box that does not go in: building it to the space where the shop builds it, else another."""
    if isinstance(part, Box) and part.boards.thickness_mm is not None:
        inside = [sub for box, subs in boxed(design) if box is part for sub in subs]
        taken_l = sum(sub.displaced_l or 0.0 for sub in inside)
        block = made_to_measure(design, part, inside, part.net_volume_l, space=space) or built_to(
            design, space, part.boards.thickness_mm, part.net_volume_l or 0.0, taken_l
        )
        if block is not None:
            return Remedy("Build it to the space", rebuilt(part, block))
    return find_part("Find one that goes in", part.kind, part.id)


def _planned(results: Results, speaker: Speaker, ring_mm: float) -> Remedy:
    """The remedy that plans a ring of a thickness, or none, under a speaker and its like on the other side."""
    words = f"Plan a ring of {trimmed(round(ring_mm, 1))} mm" if ring_mm else "Plan no ring"
    planned = {"value": ring_mm, "basis": "assumed", "note": "planned ring"}
    places = [speaker, *_alike(results, speaker)]
    return Remedy(words, tuple(set_to(at(place, lambda it: it.adapter_ring_mm), planned) for place in places))


def _alike(results: Results, speaker: Speaker) -> Iterator[Speaker]:
    """Places the same part goes into with the same room, under which the same ring goes."""
    fits = {fit.place_id: fit for fit in results.fits}
    here = fits.get(speaker.id)
    for other in results.design.vehicle.speakers:
        there = fits.get(other.id)
        if other is speaker or here is None or there is None or other.adapter_ring_mm.value:
            continue
        same = (there.part_id, there.ring, there.loose, there.through) == (
            here.part_id, here.ring, here.loose, here.through
        )  # fmt: skip
        if same and other.cut_out_mm.value == speaker.cut_out_mm.value:
            yield other


def _carrying(results: Results, speaker: Speaker) -> Remedy:
    """A ring that carries a speaker's screws: the usual one, or as thick as the room in front allows."""
    fit = next((f for f in results.fits if f.place_id == speaker.id and f.ring is not None), None)
    thin, thick = fit.ring if fit is not None and fit.ring is not None else (0.0, 0.0)
    ring_mm = float(floor(min(max(USUAL_RING_MM, ceil(thin)), thick)))
    if ring_mm < max(THIN_RING_MM, thin):
        return Remedy("Plan a ring", path=at(speaker, lambda it: it.adapter_ring_mm))
    return _planned(results, speaker, ring_mm)


@rule("fit", "survey", GEOMETRY)
def does_it_fit(results: Results) -> Iterator[Draft]:
    """A part does not go where it is planned, or only just."""
    for fit in results.fits:
        for check in fit.checks:
            if check.state not in ("over", "tight"):
                continue
            remedy, guessed = _mends(results, fit, check)
            sizes = f"It needs {check.need}; there is {check.have}.{guessed}"
            if check.state == "over":
                yield stop(
                    fit.part_id,
                    f"{fit.title}: {check.name.lower()}, {_millimetres(check)} missing",
                    f"{sizes} A check on paper: hold the part in before cutting.",
                    remedy,
                )
            else:
                yield watch(
                    fit.part_id,
                    f"{fit.title}: {check.name.lower()}, only {_millimetres(check)} spare",
                    f"{sizes} The shop keeps {results.design.policy.fit_margin_mm:.0f} mm: cones move and rulers lie.",
                    remedy,
                )


@rule("in-its-cup", "survey", PRACTICE)
def in_its_cup(results: Results) -> Iterator[Draft]:
    """A tweeter sits on the surface: no rule of geometry says whether it is in the way there."""
    for part in results.design.new_parts_of(Driver):
        on = [fit for fit in results.fits if fit.part_id == part.id and fit.in_cup]
        if on:
            out = "Nobody knows how far it stands out."
            if part.cup_height_mm is not None:
                out = f"{trimmed(part.cup_height_mm)} mm stand out."
            yield note(
                part.id,
                f"{part.name} on the surface: look before it is stuck down",
                f"{out} Hold it there, close the door, sit in the seat, look past it and listen. Not across"
                " the seam of a cover with an airbag behind it, and not on one: it would fly.",
            )


@rule("ring-hollow", "plan", PRACTICE)
def ring_hollow(results: Results) -> Iterator[Draft]:
    """A ring's papers leave nothing of it between its opening and its rim."""
    for ring in results.design.parts_of(MountingRing):
        if ring.is_hollow:
            yield stop(
                ring.id,
                f"{ring.name}: an opening of {trimmed(ring.opening_mm)} mm in a ring of {trimmed(ring.outer_mm)} mm",
                "Nothing would be left of it. One of the two is wrong: measure the ring.",
                Remedy("Enter it", path=at(ring, lambda it: it.outer_mm)),
            )


@rule("headrest-fit", "plan", PRACTICE)
def headrest_fit(results: Results) -> Iterator[Draft]:
    """Speakers go into headrests, of which there is nothing to measure against on file."""
    seats = {s.id: s.name for s in results.design.vehicle.speakers if s.place is SpeakerPlace.HEADREST}
    for part in results.design.parts_of(Driver):
        if names := [seats[name].lower() for name in part.at_ids if name in seats]:
            yield watch(
                part.id,
                f"{part.name}: whether it fits the headrests was not judged",
                f"It is {trimmed(part.mounting_depth_mm)} mm deep and {trimmed(part.frame_mm)} mm across, for"
                f" {listed(names)}. Open one cushion and hold it in before ordering the rest.",
            )


@rule("box-opening", "plan", PRACTICE)
def box_opening(results: Results) -> Iterator[Draft]:
    """The opening of a box is so much wider than a driver needs that its frame does not reach the wood."""
    design = results.design
    for sub in design.parts_of(Subwoofer):
        for box in design.parts_of(Box):
            figure = results.book.figures.get(f"{sub.id}/{box.id}/opening_mm")
            if figure is not None and figure.value is not None and figure.value > HOLE_PLAY_MM:
                yield stop(
                    sub.id,
                    f"{sub.name} falls through the opening of {box.name}: {figure.value:.0f} mm too wide",
                    "Its frame reaches about a centimetre past its cut-out all round. Take a box made for its size, or"
                    " a ring.",
                    find_part("Find a box", "box"),
                )


@rule("box-unheld", "plan", PRACTICE)
def box_unheld(results: Results) -> Iterator[Draft]:
    """A driver goes into a box that was bought, and nobody knows its opening or how deep it is: a shop cuts its own.
    Once something was read of the finished car it is in its box.
    """
    if results.design.proof.readings:
        return
    for box, subs in boxed(results.design):
        if box.boards.thickness_mm is not None or box.in_car:
            continue
        said: set[tuple[str, ...]] = set()  # equal drivers of one box are said once
        for sub in subs:
            lacks = [
                (words, path)
                for words, have, path in (
                    ("the opening of the box", box.cut_out_mm, at(box, lambda it: it.cut_out_mm)),
                    ("its clear depth", box.depth_mm, at(box, lambda it: it.depth_mm)),
                    ("the cut-out the driver needs", sub.cut_out_mm, at(sub, lambda it: it.cut_out_mm)),
                    ("the driver's depth", sub.mounting_depth_mm, at(sub, lambda it: it.mounting_depth_mm)),
                )
                if have is None
            ]
            key = (sub.name, *(words for words, _ in lacks))
            if lacks and key not in said:
                said.add(key)
                yield note(
                    sub.id,
                    f"Whether {sub.name} goes into {box.name} was not judged",
                    f"Not on file: {listed([words for words, _ in lacks])}. Ask for it before ordering, or hold the"
                    " driver to the box.",
                    Remedy("Enter it", path=lacks[0][1]),
                )


@rule("box-space-unknown", "survey", PRACTICE)
def box_space_unknown(results: Results) -> Iterator[Draft]:
    """A box is planned and nobody measured where it goes, or nobody knows how high it is."""
    for box in (*results.design.parts_of(Box), *results.design.parts_of(PoweredSubwoofer)):
        fit = next((f for f in results.fits if f.part_id == box.id), None)
        if fit is not None and not fit.checks:
            draft = watch if isinstance(box, PoweredSubwoofer) else note
            yield draft(
                box.id,
                f"No space on file for {box.name}",
                "Add the space it stands in, with length, width, height and way in.",
                _its_space(results.design, box),
            )


def _its_space(design: Design, box: PartBase) -> Remedy:
    """A press that puts a space on file where the box stands, all of it to be measured."""
    if box.position is None:
        return Remedy("Look at the survey", sheet="survey")
    taken = design.taken_ids()
    space = {"id": free_id("space", taken), "name": f"Space of {box.name}"[:120], "position": box.position.model_dump()}
    return Remedy("Put its space on file", (adding(at_the(Vehicle, lambda it: it.spaces), space),))


@rule("opening-unknown", "survey", PRACTICE)
def opening_standard(results: Results) -> Iterator[Draft]:
    """A radio goes into the dash: its cage, the ducts behind it and the surround for the right model year."""
    for part in results.design.new_parts_of(HeadUnit):
        yield note(
            part.id,
            "Trim surround: match it to the model year",
            "Facelifts change the surround. Hold it against the dash before anything comes out.",
        )


@rule("screws-over-hole", "plan", PRACTICE)
def screws_over_hole(results: Results) -> Iterator[Draft]:
    """The hole in the car is so wide that the speaker's screws come out over it, or all of it goes through."""
    speakers = {speaker.id: speaker for speaker in results.design.vehicle.speakers}
    alike: dict[tuple[str, bool, float], list[Speaker]] = {}  # places with the same hole, of one part: one ring for all
    for fit in results.fits:
        speaker = speakers.get(fit.place_id)
        if (fit.loose or fit.through) and speaker is not None:
            alike.setdefault((fit.part_id, fit.through, speaker.cut_out_mm.value or 0.0), []).append(speaker)
    for (part_id, through, hole_mm), places in alike.items():
        part = results.design.part(part_id)
        if not isinstance(part, Driver):
            continue
        about, where = f"{part.id}/{places[0].id}", f"{part.name} in {listed([s.name for s in places])}"
        if through:
            yield stop(
                about,
                f"{where}: it falls through the hole",
                f"The hole is {trimmed(hole_mm)} mm, its frame {trimmed(part.frame_mm)} mm"
                " across. An adapter ring carries it, or a speaker of the hole's size.",
                _carrying(results, places[0]),
            )
            continue
        yield watch(
            about,
            f"{where}: its screws come out over the hole",
            f"The hole is {trimmed(hole_mm)} mm, the speaker is made for {trimmed(part.cut_out_mm)}: its screws sit on"
            f" about {trimmed(part.cut_out_mm + SCREWS_MM)}. An adapter ring carries them.",
            _carrying(results, places[0]),
        )


@rule("parts-overlap", "plan", GEOMETRY)
def parts_overlap(results: Results) -> Iterator[Draft]:
    """Two parts stand in one place, by the sizes on file."""
    boxes: list[Box | PoweredSubwoofer] = [
        *results.design.parts_of(Box), *results.design.parts_of(PoweredSubwoofer)
    ]  # fmt: skip
    sized = [(box, box.position) for box in boxes if box.position is not None]
    for (one, here), (other, there) in combinations(sized, 2):
        along_m = (one.length_m + other.length_m) / 2 - abs(here.x_m - there.x_m)
        across_m = (one.width_m + other.width_m) / 2 - abs(here.y_m - there.y_m)
        if min(along_m, across_m) > TOUCHING_M:
            yield stop(
                other.id,
                f"{other.name} stands where {one.name} stands",
                f"By their sizes they overlap by {1000 * min(along_m, across_m):.0f} mm. Move one of them, or stand one"
                " on end and type in its sizes so.",
                Remedy("Move it", path=at(other)),
            )


TOUCHING_M = 0.02  # what places on a plan are good for, common practice
