"""A job's design taken further: onto another car of its plan, or onto the same car as it was built."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from ohmack.core.document import Basis, Design, Fact, Intake, Verified
from ohmack.core.document.edits import apply_edits
from ohmack.core.document.factory import Band, StatedAs, Tier
from ohmack.core.document.handover import HandOver
from ohmack.core.document.interventions import new_radio, with_unit
from ohmack.core.document.links import ChargeLink, FeedLink, GroundLink, Link, PowerLink, SpeakerLink, Wire
from ohmack.core.document.part import Phase, Stands
from ohmack.core.document.paths import facts, replace
from ohmack.core.document.proof import Proof, Symptom
from ohmack.core.document.vehicle import Body, Vehicle
from ohmack.core.document.work import Work
from ohmack.core.errors import NotPossible, UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.core.physics.conductors import conductor
from ohmack.core.physics.speaker_loads import RATED_INTO_OHM, power_voltage_v
from ohmack.core.planning.coming_over import come_over
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.templates import as_papers

MEASURED_THERE = ("reads_ohm", "tape_length_m")  # a pair read at the amplifier, a run taped: of one car's wires only
OFF_BY = 0.3  # a value of another kind of car may be off by, where nothing usual is on file; common practice


def onto_another_car(
    design: Design, number: str, make: str, model: str, year: int | None, customer_words: str = "",
    body: Body | None = None,
) -> Design:  # fmt: skip
    """The plan of one car for another: parts, links and places stay, the survey is asked anew. On another body the
    same parts are placed and wired anew, those of a later phase after the others.

    Parameters:
        design: the job's design.
        number: the job it comes from; it stands in the note of every fact.
        make, model, year: the other car. Of the same make and model, what was read or on papers comes as papers, never
            as measured; of another kind it is a guess, with the range any such car has, and what is of no car usual
            is not known.
        customer_words: what this customer wants, in their words.
        body: of the other car; None for the same.

    Returns:
        a first revision: nothing done, nothing proved, every part still wanted.

    Raises:
        NotPossible: a car without a name.
    """
    if not make.strip() or not model.strip():
        raise NotPossible("make" if not make.strip() else "model", "Say which make and model it is.")
    make, model, front = make.strip()[:120], model.strip()[:120], design.vehicle
    usual = new_vehicle(make, model, year, body or front.body, front.hand_of_drive, front.powertrain)
    wanted = design.intake
    intake = Intake(wishes=wanted.wishes, wishes_note=customer_words, must_keep=wanted.must_keep)
    if body is not None and body is not front.body:
        begun = new_design(design.title, usual, intake, design.policy)
        return apply_edits(begun, come_over(begun, design, [part.id for part in design.parts], bought=True))
    same = (make.strip().lower(), model.strip().lower()) == (design.vehicle.make.lower(), design.vehicle.model.lower())
    vehicle = as_papers(design.vehicle, number).model_copy(
        update={"make": make, "model": model, "year": year, "responses": ()}
    )
    if not same:
        known = {path: fact for path, fact, _, _ in facts(usual)}
        for path, fact, _, _ in list(facts(vehicle)):
            vehicle = replace(vehicle, path, _guessed(fact, known.get(path), number))
    copied = design.model_copy(
        update={
            "vehicle": vehicle, "coming_out": (), "drop_readings": (),
            "proof": Proof(), "handover": HandOver(), "option_name": "",
            "option_note": "", "work": Work(own_steps=design.work.own_steps if same else ()),
            "parts": tuple(p.model_copy(update={"stands": Stands.WANTED, "by_customer": False}) for p in design.parts),
            "intake": intake,
        }
    )  # fmt: skip
    copied = copied.model_copy(
        update={"links": tuple(link.model_copy(update={"in_car": False, "old_out": False}) for link in copied.links)}
    )
    for link in copied.links:
        for path, fact, _, field in list(facts(link)):
            fresh = type(fact)() if field in MEASURED_THERE else _guessed(fact, None, number)
            copied = replace(copied, f"links/{link.id}/{path}", fresh)
    return Design.model_validate(copied.model_dump(mode="json"), strict=False)


def _guessed(fact: Fact[Any], usual: Fact[Any] | None, number: str) -> Fact[Any]:
    """A fact of one kind of car as a guess about another: anything that is usual, or that it was there; not known where
    nothing is usual of it.
    """
    guess = _assumed(fact, number)
    if guess.value is None or guess.low is not None or guess.alternatives:
        return guess
    if usual is not None and usual.value is None:
        return usual
    value, several = guess.value, {}
    if isinstance(value, float):
        ends = (usual.low, usual.high) if usual is not None else (None, None)
        low, high = (
            end if end is not None else value * by for end, by in zip(ends, (1 - OFF_BY, 1 + OFF_BY), strict=True)
        )
        several = {"low": min(low, value), "high": max(high, value)}
    elif usual is not None:
        others = (usual.value, *usual.alternatives)
        several = {"alternatives": tuple(other for other in dict.fromkeys(others) if other != value)}
    return guess.model_copy(update=several)


def _assumed(fact: Fact[Any], number: str) -> Fact[Any]:
    """A fact of one car as a guess about another."""
    if fact.basis is Basis.ASSUMED and not fact.who:
        return fact
    return fact.model_copy(
        update={"basis": Basis.ASSUMED, "how": Verified.NOT_CHECKED, "who": "", "when": "", "note": f"as in {number}"}
    )


def as_it_was_built(design: Design, title: str, symptoms: tuple[Symptom, ...] = ()) -> Design:
    """The same car as the last job left it, for a fault reported later or for more work.

    Parameters:
        design: the job's design.
        title: what the new job is.
        symptoms: what is reported; the search for a fault begins with it.

    Returns:
        a first revision: what was fitted and laid is in the car, wires and fuses of the sizes they have; its survey is
        kept, nothing is read yet; what was planned for later stays for later.

    Raises:
        OhmackError: the design cannot be evaluated.
    """
    parts = tuple(
        p.model_copy(update={"stands": Stands.IN_THE_CAR}) if p.phase is Phase.NOW else p for p in design.parts
    )
    results = evaluate(design).results
    links = as_laid(results)
    faults = design.proof.faults  # one that was left in is in it still
    return design.model_copy(
        update={
            "title": title[:120], "vehicle": _heard_now(results), "parts": parts,
            "links": links, "coming_out": (), "work": Work(own_steps=()),
            "drop_readings": (), "strategy": None,
            "option_name": "", "option_note": "", "handover": HandOver(),
            "proof": Proof(symptoms=symptoms, faults=faults),
            "intake": Intake(must_keep=design.intake.must_keep, reversible=design.intake.reversible),
        }
    )  # fmt: skip


def _heard_now(results: Results) -> Vehicle:
    """The car with what its radio's outputs give once a new one plays there: its rating, till somebody reads it; what
    was read at the old one is gone with it.
    """
    vehicle, unit = results.design.vehicle, new_radio(results.design)
    if unit is None:
        return vehicle
    alone = vehicle.radio.tier.value in (Tier.PLAIN, Tier.AFTERMARKET)  # no amplifier of the works is behind it
    radio = with_unit(vehicle.radio, unit) if alone else vehicle.radio
    level = Fact[float](
        value=power_voltage_v(unit.power_w, RATED_INTO_OHM), basis=unit.basis, note=f"rating of {unit.name}"
    )
    return vehicle.model_copy(
        update={
            "volume_steps": (),
            "radio": radio.model_copy(
                update={
                    "source_voltage_v": level,
                    "source_stated_as": StatedAs.RMS,
                    "clip_step": Fact(value=unit.clip_step or None),
                    "tap_low_hz": Fact(),
                    "bridged": Fact(value=True),
                    "channels": tuple(
                        c.model_copy(update={"band": Fact(value=Band.FULL)}) for c in vehicle.radio.channels
                    ),
                }
            ),
        }
    )  # fmt: skip


def as_laid(results: Results) -> tuple[Link, ...]:
    """The links of a design once the work is done: what was laid now lies in the car, sizes left to Ohmack are those it
    chose.

    Parameters:
        results: the evaluated design, with what is fitted now.
    """
    labels = {row.link_id: row.size for row in reversed(results.wire_rows) if _size_of(row.size)}
    counted = {s.ground.id: s.link.wire for s in results.supplies if s.ground and s.link.wire.strand_count}
    fuses = {supply.link.id: supply.figures["fuse"].value for supply in results.supplies}
    fuses |= {feed.link.id: feed.fuse.value for feed in results.feeds}
    fuses |= {entry.link.id: entry.figures["fuse"].value for entry in results.charging if entry.figures}
    coils = {load.link.id: load.chosen.key for load in results.loads if len(load.options) > 1}
    laid = {link.id for link in results.design.links}  # not those of a later phase
    return tuple(
        _in_the_car(link, labels.get(link.id, ""), counted.get(link.id), fuses.get(link.id), coils.get(link.id))
        if link.id in laid
        else link
        for link in (results.later or results).design.links
    )


def _size_of(label: str) -> str | None:
    """The size a label of the wire list names; None for a line cable, and for strands that come to no size."""
    size = label.partition(" × ")[0].replace("mm²", "mm2")
    with suppress(UnknownName):
        return size if conductor(size) else None
    return None


def _in_the_car(link: Link, label: str, counted: Wire | None, fuse_a: float | None, coils: str | None) -> Link:
    """A link as it lies in the car, by the label of its wire; a ground lead without a size of its own has the leads of
    its run, or is as the counted strands of it.
    """
    laid: dict[str, Any] = {"in_car": True, "old_out": False}
    if not link.wire.named and label:
        leads = label.partition(" × ")[2] if isinstance(link, GroundLink) else ""
        laid["wire"] = link.wire.model_copy(update={"size": _size_of(label), "leads": int(leads or link.wire.leads)})
    elif not link.wire.named and counted is not None:
        laid["wire"] = counted
    if coils is not None and isinstance(link, SpeakerLink) and not link.wiring:
        laid["wiring"] = coils
    fuse = link.fuse if isinstance(link, PowerLink | FeedLink | ChargeLink) else None
    if fuse is not None and fuse.rating_a is None and fuse_a is not None:
        laid["fuse"] = fuse.model_copy(update={"rating_a": fuse_a})
    return link.model_copy(update=laid)
