"""Demo jobs of loads and boxes: a vented wedge against a pickup's back wall; doors, dash, a centre and two subwoofers
bridged.
"""

from __future__ import annotations

from ohmack.core.document.design import Intake, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.speaker_sets import OWN, SHARED, add_sets
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import DemoJob, catalogue, measured, surveyed
from ohmack.demo.everyday_jobs import picked

V = "vehicle"


def box_jobs() -> tuple[DemoJob, ...]:
    """Jobs with a box of their own."""
    return (_back_wall(), _dash_and_doors())


def _back_wall() -> DemoJob:
    vehicle = new_vehicle("Brackley", "Ferryman", 2017, Body.PICKUP, Hand.LEFT)
    intake = Intake(
        wishes=(Wish.BASS,),
        wishes_note="Rear bench is never used. A box across the back wall, as low as it goes, and it must not rattle.",
        budget=1380,
    )
    first = new_design("A box across the back wall", vehicle, intake, Policy())
    survey = (
        *surveyed(4.0, "30 of 35", 14.2, 12.6, 680.0, 0.0018),
        *(
            measured(f"{V}/spaces/space-rear/{name}", size, how="by eye")
            for name, size in (
                ("length_m", 0.34),
                ("width_m", 1.3),
                ("height_m", 0.58),
                ("opening_width_m", 0.9),
                ("opening_height_m", 1.0),
            )
        ),
    )
    design = apply_edits(first, survey)
    parts, design = picked(design, ("Tessel M500", "Morrowick 12 D2", "Box built in the shop", "Hob strip holder"))
    box = next(part.id for part in design.parts if part.kind == "box")
    built = tuple(
        Edit(path=f"parts/{box}/{name}", value=value)
        for name, value in (
            ("box_type", "vented"), ("tuning_hz", 32.0), ("vents/diameter_mm", 125.0), ("length_m", 0.30),
            ("boards/top_length_m", 0.22), ("width_m", 0.86), ("height_m", 0.44), ("boards/braces", 1),
            ("boards/fronts", 2), ("mass_kg", 31.0), ("net_volume_l", 57.0), ("position/y_m", 0.0),
        )
    )  # fmt: skip
    return DemoJob(
        "Juno Askew, two dogs and a kayak", "555 0193", first.title, first,
        (("survey", survey), *parts, ("box drawn", built)),
    )  # fmt: skip


def _dash_and_doors() -> DemoJob:
    """Small speakers in the dash on the doors' channels, a centre on one of its own, two subwoofers bridged."""
    vehicle = new_vehicle("Dravel", "Lanner", 2013, Body.ESTATE, Hand.LEFT)
    intake = Intake(
        wishes=(Wish.CLARITY, Wish.BASS),
        wishes_note="Voices must come from the windscreen, not from the knees. The children sleep in the back row.",
        budget=2380,
    )
    first = new_design("Voices from the windscreen", vehicle, intake, Policy())
    survey = surveyed(4.0, "34 of 40", 14.3, 12.7, 760.0, 0.0011)
    dash = ("spk-dash-mid-left", "spk-dash-mid-right")
    sizes = tuple(
        measured(f"{V}/speakers/{name}/{size}", value)
        for name in (*dash, "spk-centre-centre")
        for size, value in (("cut_out_mm", 73.0), ("depth_mm", 48.0), ("trim_clearance_mm", 14.0))
    ) + tuple(measured(f"{V}/speakers/spk-f{side}/cut_out_mm", 128.0) for side in "lr")
    survey += add_sets(apply_edits(first, survey), {"dash-mid": SHARED, "centre": OWN}) + sizes
    design = apply_edits(first, survey)
    doors = ("spk-fl", "spk-fr")
    chosen = (
        ("Pell & Fenn Coax 65, pair", doors), ("Pell & Fenn Dash 80, pair", dash),
        ("Pell & Fenn Dash 80, one", ("spk-centre-centre",)), ("Hob bipolar capacitor 220 µF, pair", dash),
    )  # fmt: skip
    trees = {tree["name"]: tree for tree in catalogue()}
    rounds: list[tuple[str, tuple[Edit, ...]]] = []
    for name, places in chosen:
        placed = place_part(design, {**trees[name], "at_ids": list(places)})
        design = apply_edits(design, placed)
        rounds.append((f"{name} added", placed))
    four, design = picked(design, ("Tessel Four 70",))
    centre = {"id": "speaker-centre", "kind": "speaker", "from_id": "amp", "to_id": "spk-centre-centre", "channel": 3}
    shared = (
        *(Edit(path=f"links/speaker-{name}/channel", value=n) for n, name in enumerate(dash, 1)),
        Edit(op="add", path="links", value=centre),
    )
    design = apply_edits(design, shared)
    bass, design = picked(
        design, ("Tessel Two 200", "Morrowick 10 D4", "Morrowick 10 D4", "Cooperage 45 vented", "Hob strip holder")
    )
    return DemoJob(
        "Ottoline Marsh, reads to three", "555 0188", first.title, first,
        (("survey", survey), *rounds, *four, ("dash on the doors' channels", shared), *bass,
         ("the box with two openings", (Edit(path="parts/box/openings", value=2),))),
    )  # fmt: skip
