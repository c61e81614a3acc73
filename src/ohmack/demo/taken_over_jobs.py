"""Demo jobs on what somebody else built: an amplifier that cuts out on the cable of a cheap kit."""

from __future__ import annotations

from ohmack.core.document.design import Intake, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import DemoJob, catalogue, measured, surveyed
from ohmack.demo.everyday_jobs import Rounds, remedied

FOUND = ("Tessel M500", "Morrowick 12 D2", "Cooperage 45 vented")


def _cuts_out() -> DemoJob:
    """A second-hand people carrier with a subwoofer in it: the amplifier cuts out, its fuse is twice the wire's."""
    vehicle = new_vehicle("Calder", "Wren", 2012, Body.PEOPLE_CARRIER, Hand.LEFT)
    intake = Intake(
        wishes=(Wish.BASS, Wish.RELIABLE),
        wishes_note="Bought like this. It cuts out on long notes and the cable gets warm. Is it safe?",
        budget=220,
    )
    first = new_design("An amplifier somebody else fitted cuts out", vehicle, intake, Policy())
    survey = surveyed(3.5, "31 of 40", 14.2, 12.6, 620.0, 0.0013)
    design = apply_edits(first, survey)
    trees, rounds = {tree["name"]: tree for tree in catalogue()}, list[tuple[str, tuple[Edit, ...]]]()
    for name in FOUND:
        edits = added(design, dict(trees[name]), in_car=True)
        design = apply_edits(design, edits)
        rounds.append((f"{name} found in the boot", edits))
    load = evaluate(design).results.loads[0]
    series = next(option.key for option in load.options if option.load_ohm > 2.0)
    read = (
        Edit(path="links/power-amp/wire/size", value="8 AWG"),
        Edit(path="links/power-amp/wire/material", value="copper_clad_aluminium"),
        Edit(path="links/power-amp/fuse/rating_a", value=100.0),
        measured("links/power-amp/fuse/from_source_m", 0.4, how="by eye"),
        measured("links/power-amp/tape_length_m", 4.9, how="by eye"),
        Edit(path="links/ground-amp/wire/size", value="8 AWG"),
        Edit(path="links/ground-amp/wire/material", value="copper_clad_aluminium"),
        Edit(path=f"links/{load.link.id}/wire/size", value="14 AWG"),
        Edit(path=f"links/{load.link.id}/wiring", value=series),
        measured(f"links/{load.link.id}/reads_ohm", 3.5),
    )
    design = apply_edits(design, read)
    mended: Rounds
    mended, _ = remedied(design, ("fuse-over-wire", "drop-over-policy", "ground-lead"))
    return DemoJob(
        "Tove Amberg", "555 0192", first.title, first,
        (("survey", survey), *rounds, ("what lies there read", read), *mended),
    )  # fmt: skip


def taken_over_jobs() -> tuple[DemoJob, ...]:
    """All of them."""
    return (_cuts_out(),)
