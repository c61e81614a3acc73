"""A demo job of a box that is built: a vented wedge against a pickup's back wall."""

from __future__ import annotations

from ohmack.core.document.design import Intake, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import DemoJob, documented, measured
from ohmack.demo.everyday_jobs import picked

R, S, V = "vehicle/radio", "vehicle/supply", "vehicle"


def box_jobs() -> tuple[DemoJob, ...]:
    """Jobs with a box of their own."""
    return (_back_wall(),)


def _back_wall() -> DemoJob:
    vehicle = new_vehicle("Brackley", "Ferryman", 2017, Body.PICKUP, Hand.LEFT)
    intake = Intake(
        wishes=(Wish.BASS,),
        wishes_note="Rear bench is never used. A box across the back wall, as low as it goes, and it must not rattle.",
        budget=1100,
    )
    first = new_design("A box across the back wall", vehicle, intake, Policy())
    survey = (
        measured(f"{R}/tier", "aftermarket radio", how="by eye"),
        measured(f"{R}/line_pairs", 3, how="by eye"),
        measured(f"{R}/line_v", 4.0),
        measured(f"{R}/clip_step", "30 of 35", how="by ear"),
        measured(f"{S}/post_running_v", 14.2),
        measured(f"{S}/post_resting_v", 12.6),
        documented(f"{S}/batteries/battery/cca_a", 680.0),
        measured(f"{S}/body_return_ohm", 0.0018),
        measured(f"{S}/battery_strap_ohm", 0.0004),
        measured(f"{V}/feeds/radio-switched/live", ["accessory", "on"]),
        documented(f"{V}/feeds/radio-switched/limit_a", 0.5),
        measured(f"{V}/ground_points/ground-rear/kind", "bare-metal stud", how="by eye"),
        measured(f"{V}/passages/bulkhead/needs_drilling", False, how="by eye"),
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
