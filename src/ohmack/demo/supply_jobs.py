"""Demo jobs about the supply: a lorry cab on 24 V, an electric hatch whose converter has little left, a 48 V cart."""

from __future__ import annotations

from ohmack.core.document.design import Intake, Keep, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand, Powertrain
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import DemoJob, documented, measured
from ohmack.demo.everyday_jobs import picked, remedied

V, S, R = "vehicle", "vehicle/supply", "vehicle/radio"


def _lorry() -> DemoJob:
    """A 24 V cab: everything audio hangs on a converter, sized for the peak."""
    vehicle = new_vehicle("Stannard", "Fellrunner", 2015, Body.TRUCK, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.BASS, Wish.CLARITY), budget=1380,
        wishes_note="Sleeps in the cab four nights a week. Clear at 90 km/h, and a film in the evening.",
    )  # fmt: skip
    first = new_design("Sound for a lorry cab", vehicle, intake, Policy())
    survey = (
        measured(f"{S}/system", "24 V"),
        measured(f"{S}/post_running_v", 28.2),
        measured(f"{S}/post_resting_v", 25.4),
        documented(f"{S}/alternator_rating_a", 100.0),
        documented(f"{S}/batteries/battery/cca_a", 900.0),
        documented(f"{S}/batteries/battery/capacity_ah", 170.0),
        measured(f"{S}/car_draw_a", 38.0),
        measured(f"{S}/body_return_ohm", 0.0021),
        measured(f"{R}/tier", "aftermarket radio", how="by eye"),
        measured(f"{R}/line_pairs", 3, how="by eye"),
        measured(f"{R}/line_v", 4.0),
        measured(f"{V}/feeds/radio-switched/live", ["accessory", "on"]),
        measured(f"{V}/feeds/radio-switched/reads_v", 13.6),
        measured(f"{V}/spaces/space-rear/length_m", 0.58),
        measured(f"{V}/spaces/space-rear/height_m", 0.62),
    )
    parts, _ = picked(
        apply_edits(first, survey),
        (
            "Tessel M300",
            "Pell & Fenn Slim 8 D4",
            "Cooperage 15 closed",
            "Hob converter 24 to 12 V, 40 A",
            "Hob maxi holder",
        ),
    )
    return DemoJob("Fellrunner Freight, bay 3", "555 0174", first.title, first, (("survey", survey), *parts))


def _electric() -> DemoJob:
    """An electric SUV: a hard limit instead of an alternator, and a bass amplifier that wants most of it."""
    vehicle = new_vehicle("Voltane", "Nightjar", 2021, Body.SUV, Hand.RIGHT, Powertrain.ELECTRIC)
    intake = Intake(
        wishes=(Wish.BASS,), must_keep=(Keep.CHIMES,), budget=1120, reversible=True,
        wishes_note="Silent car, loud music. Nothing orange is touched.",
    )  # fmt: skip
    first = new_design("Bass at the converter's limit", vehicle, intake, Policy())
    survey = (
        documented(f"{S}/dc_dc_limit_a", 70.0),
        measured(f"{S}/car_draw_a", 41.0),
        measured(f"{S}/post_running_v", 13.9),
        measured(f"{S}/post_resting_v", 12.7),
        documented(f"{S}/batteries/battery/cca_a", 340.0),
        documented(f"{S}/batteries/battery/capacity_ah", 40.0),
        measured(f"{S}/body_return_ohm", 0.0011),
        measured(f"{R}/source_voltage_v", 8.8),
    )
    parts, _ = picked(
        apply_edits(first, survey),
        ("Tessel M500", "Morrowick 10 D4", "Cooperage 28 closed", "Sprig LC2 active", "Hob maxi holder"),
    )
    return DemoJob("Ottoline Brisk", "555 0112", first.title, first, (("survey", survey), *parts))


def _cart() -> DemoJob:
    """A 48 V cart with a radio and bass, both behind one converter over the whole pack."""
    vehicle = new_vehicle("Links & Lawn", "Mayfly", 2022, Body.CART, Hand.LEFT, Powertrain.ELECTRIC)
    intake = Intake(wishes=(Wish.BASS,), budget=1250, wishes_note="Parades and the caddies' feast.")
    first = new_design("Bass for the caddies' feast", vehicle, intake, Policy())
    survey = (
        measured(f"{R}/tier", "no radio", how="by eye"),
        measured(f"{S}/system", "36 or 48 V pack"),
        measured(f"{S}/post_resting_v", 50.2),
        documented(f"{S}/batteries/battery/capacity_ah", 150.0),
        *(
            measured(f"{R}/opening_{side}_mm", mm)
            for side, mm in (("width", 183.0), ("height", 54.0), ("depth", 190.0))
        ),
        *(
            measured(f"vehicle/speakers/{name}/dc_resistance_ohm", ohm)
            for name, ohm in (("spk-fl", 3.5), ("spk-fr", 3.6))
        ),
    )
    names = ("Quillon Q1 plain radio", "Cooperage Backrest 10", "Hob converter 36/48 to 12 V, 40 A", "Hob maxi holder")
    parts, _ = picked(apply_edits(first, survey), names)
    return DemoJob("Old Harrow golf ground", "555 0171", first.title, first, (("survey", survey), *parts))


def two_leads() -> DemoJob:
    """Three kilowatts: no single cable goes into the amplifier and carries its fuse, so two leads share the current."""
    vehicle = new_vehicle("Brackley", "Plover", 2019, Body.SUV, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.BASS,),
        budget=4300,
        wishes_note="Two fifteens for the summer meetings. It may take the whole boot.",
    )
    policy = Policy(drop_limit_v=0.7)
    first = new_design("Two fifteens in the boot", vehicle, intake, policy)
    survey = (
        measured(f"{S}/post_running_v", 14.3),
        measured(f"{S}/post_resting_v", 12.7),
        documented(f"{S}/alternator_rating_a", 240.0),
        documented(f"{S}/batteries/battery/cca_a", 800.0),
        documented(f"{S}/batteries/battery/capacity_ah", 80.0),
        measured(f"{S}/body_return_ohm", 0.0006),
        measured(f"{S}/battery_strap_ohm", 0.0002),
        measured(f"{S}/car_draw_a", 42.0),
        measured(f"{R}/tier", "aftermarket radio", how="by eye"),
        measured(f"{R}/line_pairs", 3, how="by eye"),
        measured(f"{R}/line_v", 4.0),
    )
    names = ("Tessel M3000", "Morrowick 15 D4", "Morrowick 15 D4", "Box built in the shop")
    parts, made = picked(apply_edits(first, survey), (*names, "Hob strip holder, wide"))
    sizes = {"length_m": 0.52, "width_m": 0.96, "height_m": 0.44, "net_volume_l": 168.0, "mass_kg": 42.0}
    cut = tuple(Edit(path=f"parts/box/{name}", value=value) for name, value in sizes.items())
    leads, _ = remedied(apply_edits(made, cut), ("fuse-below-current",))
    rounds = (("survey", survey), *parts, ("box drawn", cut), *leads)
    return DemoJob("Perrin Oakshott", "555 0188", first.title, first, rounds)


def supply_jobs() -> tuple[DemoJob, ...]:
    """The jobs, in the order they came in."""
    return (_lorry(), _electric(), _cart())
