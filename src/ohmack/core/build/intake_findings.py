"""Rules on what the customer was promised."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.build.laid_ways import new_crossings, passed_before
from ohmack.core.document.design import Keep
from ohmack.core.document.factory import Tier
from ohmack.core.document.grounding import bored_now
from ohmack.core.document.handles import at
from ohmack.core.document.links import Pickup, TapLink
from ohmack.core.document.parts import Accessory
from ohmack.core.document.policy import with_tax
from ohmack.core.document.vehicle import GroundKind
from ohmack.core.factory.function_edits import promised_absent
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("cost-over-budget", "plan", PRACTICE)
def cost_over_budget(results: Results) -> Iterator[Draft]:
    """Parts and cable cost more than the budget, with the tax the customer pays on them."""
    budget, policy = results.design.intake.budget, results.design.policy
    paid = with_tax(policy, results.cost.value) if results.cost and results.cost.value is not None else None
    if budget is not None and paid is not None and paid > budget:
        yield watch(
            "intake/budget",
            f"{paid:.0f} {policy.currency} of {budget:.0f} {policy.currency}",
            f"{paid - budget:.0f} {policy.currency} over with parts alone, tax in it, and labour comes on top. Talk"
            " before ordering.",
            Remedy("See the parts", sheet="plan"),
        )
    unpriced = [p.name for p in results.design.parts if p.price is None and not p.in_car and not p.by_customer]
    if unpriced:
        names = [f"{many} × {name}" if many > 1 else name for name, many in Counter(unpriced).items()]
        yield note("cost", "Not every part has a price", f"Counted as nothing: {listed(names)}.")


@rule("splice-on-reversible", "plan", PRACTICE)
def splice_on_reversible(results: Results) -> Iterator[Draft]:
    """A factory wire is cut on a job that must be reversible."""
    if not results.design.intake.reversible:
        return
    vehicle = results.design.vehicle
    for tap in results.design.new_links_of(TapLink):
        at_radio = vehicle.source_of(tap.from_ids[0]) is vehicle.radio
        if tap.method is not Pickup.SPLICE or (at_radio and vehicle.radio.tier.value is Tier.NONE):
            continue  # where the works gave no radio, its leads are not of the works either
        title = "A splice on a car that must go back to original"
        if at_radio and not vehicle.has_known_plug:
            yield stop(
                tap.id,
                title,
                "The customer was promised a reversible job, and for a radio without a works plug nobody makes an"
                " adapter. Take a way at line level, or agree with the customer that this wire is cut.",
                Remedy("See the other ways", sheet="strategies"),
            )
        else:
            yield stop(
                tap.id,
                title,
                "The customer was promised a reversible job; a plug adapter leaves the factory loom whole.",
                Remedy("Use a plug adapter", (set_to(at(tap, lambda it: it.method), Pickup.PLUG_ADAPTER.value),)),
            )


@rule("drilled-on-reversible", "plan", PRACTICE)
def drilled_on_reversible(results: Results) -> Iterator[Draft]:
    """A hole is drilled on a job that must be reversible."""
    design = results.design
    if not design.intake.reversible:
        return
    for point in bored_now(design):
        if point.kind.value is GroundKind.SELF_TAPPING:
            yield stop(
                point.id,
                f"{point.name}: a screw hole on a car that must go back to original",
                "The customer was promised a reversible job. Take a works bolt, or a stud that is there.",
                Remedy("Look at the point", path=at(point, lambda it: it.kind)),
            )
    taken = {crossing.passage_id for crossing in new_crossings(results)} - passed_before(results)
    for passage in design.vehicle.passages:
        if passage.id in taken and passage.needs_drilling.value is True:
            yield stop(
                passage.id,
                f"{passage.name}: drilled on a car that must go back to original",
                "The customer was promised a reversible job. Find a works grommet.",
                Remedy("Look at the way", path=at(passage, lambda it: it.needs_drilling)),
            )
        elif passage.id in taken and passage.needs_drilling.value is None:
            yield watch(
                passage.id,
                f"Not known: whether {passage.name} must be drilled",
                "The customer was promised a reversible job. Look for a grommet before anything is ordered.",
                Remedy("Enter it", path=at(passage, lambda it: it.needs_drilling)),
            )


@rule("stud-on-reversible", "plan", PRACTICE)
def stud_on_reversible(results: Results) -> Iterator[Draft]:
    """A stud is bored for a ground on a job that must be reversible: it can be undone, and somebody must say how."""
    if not results.design.intake.reversible:
        return
    undone = {hole.step for hole in results.design.work.holes if hole.undone_by}
    for point in bored_now(results.design):
        if point.kind.value is GroundKind.STUD and f"ground-{point.id}" not in undone:
            yield note(
                point.id,
                f"{point.name}: bored on a car that must go back to original",
                "A works ground bolt leaves no hole. Where one is bored, note in Holes by what it could be undone.",
                Remedy("Look at the point", path=at(point, lambda it: it.kind)),
            )


@rule("camera-on-reversible", "plan", PRACTICE)
def camera_on_reversible(results: Results) -> Iterator[Draft]:
    """A camera's lead goes through the skin on a job that must be reversible."""
    if not results.design.intake.reversible:
        return
    for part in results.design.new_parts_of(Accessory):
        if part.category == "camera":
            yield note(
                part.id,
                f"{part.name}: no new hole on a car that must go back to original",
                "The opening of the number-plate lamp, a works grommet or a frame that holds the plate takes camera and"
                " lead. Where a hole is bored all the same, note in Holes by what it could be undone.",
                Remedy("Look at the part", path=at(part)),
            )


@rule("must-keep", "build", PRACTICE)
def must_keep(results: Results) -> Iterator[Draft]:
    """What must keep working is tried before closing."""
    absent = promised_absent(results.design)
    keep = [keep for keep in results.design.intake.must_keep if keep not in absent]
    if keep and results.design.links:
        words = listed([k.value for k in keep])
        extra = " Chimes often come from one speaker channel: leave that speaker driven." if Keep.CHIMES in keep else ""
        yield note("intake/must_keep", "Try before closing", f"Promised to keep working: {words}.{extra}")
