"""Rules on places and the speakers for them: a place that waits for one, a speaker that goes nowhere."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import Driver, Subwoofer
from ohmack.core.document.small_parts import LineIsolator, MountingRing
from ohmack.core.document.vehicle import Speaker, SpeakerPlace
from ohmack.core.figures.finding import BESIDE, Draft, Remedy, find_part, note, rule, set_to, stop, watch
from ohmack.core.fit.waiting import USUAL_PAIR, waiting_places
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

MANY = 3  # places that are counted and not named


@rule("place-waiting", "plan", PRACTICE)
def place_waiting(results: Results) -> Iterator[Draft]:
    """A new place has no speaker yet."""
    waiting = waiting_places(results.design)
    never = waiting if results.later is None else waiting_places(results.later.design)
    for kind, later in dict.fromkeys((speaker.place, speaker not in never) for speaker in waiting):
        alike = [speaker for speaker in waiting if speaker.place is kind and (speaker not in never) == later]
        names = [speaker.name for speaker in alike]
        shown = listed(names if len(names) < MANY else [names[0], f"{len(names) - 1} more"])
        if later:
            yield note(
                alike[0].id,
                f"{shown}: a speaker comes later",
                "Until then nothing loads a channel there, and nothing is heard.",
            )
            continue
        yield stop(
            alike[0].id,
            f"{shown}: no speaker for {'it' if len(alike) == 1 else 'them'} yet",
            "As far as is on file the car had none there: nothing loads a channel, and nothing is heard. Pick what"
            " goes in; or enter what was there, leave it silent on purpose, or take the place out in Survey.",
            _from_the_plan(results, alike) or find_part("Find a speaker", "driver", BESIDE),
        )


def _from_the_plan(results: Results, waiting: Sequence[Speaker]) -> Remedy | None:
    """A press that puts a planned speaker there: one of which enough pieces lie over, or one that does not go in where
    it is planned.
    """
    ids = [speaker.id for speaker in waiting]
    bought = [part for part in results.design.parts_of(Driver) if not part.in_car]
    for part in bought:
        if (part.pieces or USUAL_PAIR) - len(part.at_ids) >= len(ids):
            return Remedy(f"Put {part.name} there", (set_to(at(part, lambda it: it.at_ids), [*part.at_ids, *ids]),))
    refused = {fit.part_id for fit in results.fits if fit.state == "over"}
    would_wait = {speaker.id for speaker in results.design.vehicle.speakers if speaker.new_place}
    for part in bought:
        if part.id in refused and would_wait.isdisjoint(part.at_ids) and (part.pieces or USUAL_PAIR) >= len(ids):
            return Remedy(f"Move {part.name} there", (set_to(at(part, lambda it: it.at_ids), ids),))
    return None


@rule("driver-homeless", "plan", PRACTICE)
def driver_homeless(results: Results) -> Iterator[Draft]:
    """A speaker, or a ring for one, was picked and goes nowhere yet."""
    parts: tuple[Driver | MountingRing, ...] = (
        *results.design.parts_of(Driver), *results.design.parts_of(MountingRing)
    )  # fmt: skip
    taken = {name for part in results.design.parts_of(Driver) for name in part.at_ids}
    room = any(speaker.id not in taken for speaker in results.design.vehicle.speakers)
    for part in parts:
        if not part.at_ids:
            ring = isinstance(part, MountingRing)
            if not ring and not room:
                none = not results.design.vehicle.speakers
                yield stop(
                    part.id,
                    f"{part.name} goes nowhere: {'no place for one is on file' if none else 'every place is taken'}",
                    f"{'' if none else 'Each place of the car has its speaker in this plan. '}Add a place for it in"
                    " Survey, or leave it out.",
                    Remedy("Take it out", (Edit(op="remove", path=at(part)),)),
                )
                continue
            yield stop(
                part.id,
                f"{part.name} goes {'under nothing' if ring else 'nowhere'} yet",
                f"Say which {'speakers' if ring else 'positions'} it goes {'under' if ring else 'into'}, so that depth,"
                f" {'front and hole' if ring else 'cut-out and load'} can be checked.",
                Remedy("Say where", path=at(part)),
            )


@rule("box-for-a-speaker", "plan", PRACTICE)
def box_for_a_speaker(results: Results) -> Iterator[Draft]:
    """A bare speaker for a box that nobody sells or built, or one sold in a box for a hole of the car."""
    spots = {speaker.id: speaker for speaker in results.design.vehicle.speakers}
    for part in results.design.parts_of(Driver):
        at_places = [spots[name] for name in part.at_ids if name in spots]
        wrong = [s for s in at_places if (s.place is not SpeakerPlace.BOX if part.own_box else s.in_new_box)]
        if not wrong:
            continue
        where, many = listed([s.name for s in wrong]), len(wrong) > 1
        if part.own_box:
            yield stop(
                part.id,
                f"{part.name}: a speaker in its box goes into no hole, {where}",
                "A box stands in the car. Take speakers for the holes, or give the boxes places of their own.",
                find_part("Find one for the holes" if many else "Find one for the hole", "driver", part.id),
            )
            continue
        yield watch(
            part.id,
            f"{where}: no {'boxes' if many else 'box'} for {part.name}",
            f"{'These places are boxes' if many else 'This place is a box'} and the speaker is sold bare: what holds it"
            " is in no order, and no sum knows its air. Take one that is sold in a box; where the shop builds"
            f" {'them' if many else 'it'} or {'they are' if many else 'it is'} there, say so at the part.",
            find_part("Find boxed ones" if many else "Find a boxed one", "driver", part.id),
        )


@rule("place-twice", "plan", PRACTICE)
def place_twice(results: Results) -> Iterator[Draft]:
    """Two parts of a kind want the one place; only the first is judged."""
    design = results.design
    names = {speaker.id: speaker.name for speaker in design.vehicle.speakers}
    names |= {channel.id: channel.name for source in design.vehicle.sources for channel in source.channels}
    taken: dict[tuple[str, str], PartBase] = {}
    for part in design.parts:
        kind = "speaker" if isinstance(part, (Driver, Subwoofer)) else part.kind
        places = _places(part)
        doubled = [place for place in places if (kind, place) in taken]
        taken |= {(kind, place): part for place in places if place not in doubled}
        if not doubled:
            continue
        first = taken[kind, doubled[0]]
        where = listed([names.get(place, "one line") for place in doubled])
        yield stop(
            f"{part.id}/{doubled[0]}",
            f"{where}: {first.name} and {part.name} in one place",
            f"Everything there was judged with the first one. {WHY_ONE.get(part.kind, 'One of them goes elsewhere.')}",
            _one_only(first, part, [place for place in places if place not in doubled]),
        )


WHY_ONE = {
    "mounting ring": "Take one ring as thick as both, or one inside the other with its own papers.",
    "series capacitor": "Two of them are another value: take one of that.",
    "series coil": "Two of them are another value: take one of that.",
    "line isolator": "Each costs bass; one does what two do.",
}


def _places(part: PartBase) -> tuple[str, ...]:
    if isinstance(part, LineIsolator):
        return (part.in_line_id,) if part.in_line_id is not None else ()
    return tuple(getattr(part, "at_ids", ()))


def _one_only(first: PartBase, part: PartBase, rest: Sequence[str]) -> Remedy:
    """A press that leaves the place to the first; one that is in the car is looked at, as it may have to come out."""
    if first.in_car and not part.in_car:
        return Remedy(f"Look at {first.name}", path=at(first))
    if rest:
        return Remedy(f"Leave it to {first.name}", (set_to(f"{at(part)}/at_ids", list(rest)),))
    return Remedy(f"Take {part.name} out", (Edit(op="remove", path=at(part)),))
