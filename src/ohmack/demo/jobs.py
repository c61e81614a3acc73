"""The demo jobs: a complete estate, a hatch half surveyed, an electric hatch at intake."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

from ohmack.core.document import Design
from ohmack.core.document.design import Intake, Keep, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.policy import Policy
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import Body, Hand, Powertrain
from ohmack.core.factory.function_edits import functions_for
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.strategy import lay_strategy
from ohmack.core.planning.wiring import connect
from ohmack.demo.box_jobs import box_jobs
from ohmack.demo.building import DemoJob, catalogue, catalogue_part, documented, guessed, measured, place
from ohmack.demo.everyday_jobs import everyday_jobs
from ohmack.demo.factory_jobs import factory_jobs
from ohmack.demo.pin_maps import pin_map_rounds
from ohmack.demo.radio_jobs import radio_jobs
from ohmack.demo.signal_jobs import signal_jobs
from ohmack.demo.strategy_jobs import strategy_jobs
from ohmack.demo.supply_jobs import supply_jobs, two_leads
from ohmack.demo.taken_over_jobs import taken_over_jobs

CHOSEN = {
    "Hidden bass, radio stays": StrategyKey.RADIO_PICKUP,
    "Front doors stop buzzing": StrategyKey.DRIVER_SWAP,
    "Bass behind the seat": StrategyKey.AFTER_AMPLIFIER,
    "Camper sound from the leisure battery": StrategyKey.RADIO_PICKUP,
}
OTHERS = {  # a second option of a job: the first one's name, its own, and its way
    "Hidden bass, radio stays": ("Bass you feel", "A box under the seat", StrategyKey.POWERED_SUB),
    "A screen for the maps": ("Screen only", "Screen and new amplifier", StrategyKey.RADIO_BYPASS),
}
SHOP = "Nettlefold Sound & Wire, Pellmoor"


def _theatre() -> DemoJob:
    vehicle = new_vehicle("Marren", "Tilde", 2016, Body.ESTATE, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.BASS, Wish.HIDDEN, Wish.ORIGINAL),
        wishes_note="Rehearsal playback from the car park. Nothing to be seen when the boot is full of costumes.",
        must_keep=(Keep.CHIMES, Keep.PARKING, Keep.HANDS_FREE, Keep.FADE),
        budget=1350,
        reversible=True,
        later_note="Perhaps better front doors next season.",
    )
    first = new_design("Hidden bass, radio stays", vehicle, intake, Policy())
    v, s, r = "vehicle", "vehicle/supply", "vehicle/radio"
    survey = (
        documented(f"{v}/length_m", 4.66),
        documented(f"{v}/width_m", 1.80),
        documented(f"{v}/wheelbase_m", 2.72),
        documented(f"{v}/seat_airbags", True),
        place(f"{s}/batteries/battery", 0.74, -0.42),
        measured(f"{s}/system", "12 V"),
        measured(f"{s}/positive_ground", False),
        measured(f"{s}/post_running_v", 14.2),
        measured(f"{s}/post_resting_v", 12.61),
        documented(f"{s}/batteries/battery/cca_a", 560.0),
        documented(f"{s}/alternator_rating_a", 130.0),
        measured(f"{s}/car_draw_a", 44.0),
        measured(f"{s}/battery_strap_ohm", 0.0004),
        measured(f"{s}/body_return_ohm", 0.0013),
        measured(f"{r}/tier", "plain radio", how="by eye"),
        documented(f"{r}/source_voltage_v", 9.2),
        documented(f"{r}/clip_step", "27 of 40"),
        measured(f"{r}/bridged", True),
        measured(f"{r}/tap_low_hz", 25.0),
        *(documented(f"{v}/speakers/spk-{i}/impedance_ohm", 4.0) for i in ("fl", "fr", "rl", "rr")),
        measured(f"{v}/speakers/spk-rl/dc_resistance_ohm", 3.4),
        measured(f"{v}/speakers/spk-rr/dc_resistance_ohm", 3.5),
        measured(f"{v}/feeds/radio-constant/live", ["asleep", "door open", "bus awake", "accessory", "on", "cranking"]),
        measured(f"{v}/feeds/radio-switched/live", ["accessory", "on"]),
        documented(f"{v}/feeds/radio-constant/limit_a", 15.0),
        documented(f"{v}/feeds/radio-switched/limit_a", 0.5),
        measured(f"{v}/ground_points/ground-rear/kind", "bare-metal stud", how="by eye"),
        measured(f"{v}/ground_points/ground-radio/kind", "factory ground bolt", how="by eye"),
        measured(f"{v}/passages/bulkhead/needs_drilling", False, how="by eye"),
        *(
            measured(f"{v}/spaces/space-rear/{name}", size, how="by eye")
            for name, size in (
                ("length_m", 1.02),
                ("width_m", 1.04),
                ("height_m", 0.58),
                ("opening_width_m", 0.98),
                ("opening_height_m", 0.62),
            )
        ),
        place(f"{v}/ground_points/ground-rear", 4.05, -0.42),
        Edit(path=f"{v}/ground_points/ground-rear/name", value="Stud, left rear corner"),
    )
    parts = (
        catalogue_part("Tessel M500", "amp", 3.62, 0.0),
        catalogue_part("Morrowick 10 D4", "sub", 4.12, 0.22),
        catalogue_part("Cooperage 28 closed", "box", 4.12, 0.22, cut_out_mm=235.0, depth_mm=290.0),
        catalogue_part("Sprig LC2 active", "converter", 1.86, 0.13),
        catalogue_part("Hob strip holder", "holder", 0.74, -0.62),
        catalogue_part("Radio plug adapter, 16 way", "adapter", 1.66, 0.0),
        catalogue_part("Rings, sleeves, loom, ties", "consumables", 3.0, 0.0),
    )
    design = apply_edits(first, (*survey, *parts))
    wiring = (*connect(design, "converter"),)
    design = apply_edits(design, wiring)
    finish = (
        *connect(design, "amp"),
        documented("links/power-amp/fuse/from_source_m", 0.30),
        measured("links/power-amp/tape_length_m", 5.4),
        measured("links/ground-amp/tape_length_m", 0.45),
    )
    return DemoJob("Lantern Lane Players", "555 0141", "Hidden bass, radio stays", first, (
        ("survey", survey), ("parts picked", parts), ("converter wired", wiring), ("amplifier wired", finish),
    ))  # fmt: skip


def _bakery() -> DemoJob:
    vehicle = new_vehicle("Dovekin", "Pip", 2014, Body.HATCH, Hand.LEFT)
    intake = Intake(
        wishes=(Wish.BASS,),
        wishes_note=(
            "The van is in for paint, so the hatch does the morning round. More bass, boot must still take trays."
        ),
        must_keep=(Keep.RECEPTION, Keep.CHIMES),
        budget=1000,
        reversible=False,
    )
    first = new_design("Small bass beside the bread trays", vehicle, intake, Policy())
    survey = (
        documented("vehicle/length_m", 3.98), documented("vehicle/width_m", 1.72),
        measured("vehicle/supply/post_resting_v", 12.48), documented("vehicle/supply/batteries/battery/cca_a", 480.0),
    )  # fmt: skip
    parts = (
        catalogue_part("Tessel M300", "amp", 3.18, -0.30),
        catalogue_part("Pell & Fenn Slim 8 D4", "sub", 3.52, 0.25),
        catalogue_part("Cooperage 15 closed", "box", 3.52, 0.25),
        catalogue_part("Sprig LC2 active", "converter", 1.62, 0.32),
        catalogue_part("Hob maxi holder", "holder", 0.62, -0.6),
        catalogue_part("Radio plug adapter, 16 way", "adapter", 1.6, 0.0),
    )
    design = apply_edits(first, (*survey, *parts))
    wiring = connect(design, "converter")
    return DemoJob("Crumb & Daughter, bakers", "555 0177", "Small bass beside the bread trays", first, (
        ("survey begun", survey), ("parts picked", parts), ("wired", wiring),
    ))  # fmt: skip


def _electric() -> DemoJob:
    vehicle = new_vehicle("Voltane", "Moth", 2022, Body.HATCH, Hand.RIGHT, Powertrain.ELECTRIC)
    intake = Intake(
        wishes=(Wish.BASS, Wish.CLARITY, Wish.HIDDEN),
        wishes_note="Sounds thin. Leased until 2028, so everything must come out again.",
        must_keep=(Keep.CHIMES, Keep.PARKING, Keep.CAMERA, Keep.WHEEL_BUTTONS),
        budget=1120,
        reversible=True,
    )
    first = new_design("More body, nothing cut", vehicle, intake, Policy())
    limit = (
        guessed("vehicle/radio/tier", "digital or optical ring", "radio with amplifier"),
        *modules_for(first, Tier.RING),
        Edit(
            path="vehicle/supply/dc_dc_limit_a",
            value={"value": 120.0, "basis": "assumed", "low": 80.0, "high": 150.0, "how": "not checked"},
        ),
    )
    return DemoJob("Iva Thornquist", "555 0109", "More body, nothing cut", first, (("ring and limit guessed", limit),))


@cache
def demo_jobs() -> tuple[DemoJob, ...]:
    """All demo jobs, in the order they came in."""
    earlier = [_theatre(), _bakery(), _electric(), *factory_jobs()]
    planned = (
        *(_planned(job, CHOSEN.get(job.title)) for job in earlier),
        *strategy_jobs(),
        *everyday_jobs(),
        *radio_jobs(),
        *box_jobs(),
        *signal_jobs(),
        *supply_jobs(),
        *taken_over_jobs(),
        two_leads(),
    )
    return tuple(replace(job, rounds=(*job.rounds, *pin_map_rounds(job.first, job.rounds))) for job in planned)


def _planned(job: DemoJob, chosen: StrategyKey | None) -> DemoJob:
    """A job with the car's usual functions on file, and its strategy where one was chosen; its parts were picked by
    hand.
    """
    design = job.first
    for _, edits in job.rounds:
        design = apply_edits(design, edits)
    functions = functions_for(design)
    way = (Edit(path="strategy", value=chosen.value),) if chosen else ()
    more = [("functions noted", functions)] if functions else []
    more += [(f"strategy: {chosen.value}", way)] if chosen else []
    return DemoJob(job.customer, job.phone, job.title, job.first, (*job.rounds, *more))


def other_option(design: Design, name: str, key: StrategyKey) -> Design:
    """A second option of a job: the same car, another way, parts from the catalogue."""
    bare = apply_edits(design, [Edit(op="remove", path=f"parts/{part.id}") for part in design.parts])
    laid = apply_edits(bare, lay_strategy(bare, key.value, catalogue()).edits)
    return apply_edits(laid, [Edit(path="option_name", value=name)])


@cache
def demo_design(number: int = 0) -> Design:
    """The latest revision of one demo job."""
    job = demo_jobs()[number]
    design = job.first
    for _, edits in job.rounds:
        design = apply_edits(design, edits)
    return design
