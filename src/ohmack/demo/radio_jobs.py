"""The jobs of every day that turn on the radio: a ring with thirteen speakers, an old amplifier that stays, one that
goes, and a truck with nothing in it.
"""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.design import Intake, Keep, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.functions import FunctionKind
from ohmack.core.document.policy import Policy
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.factory.function_edits import functions_for
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.strategy import lay_strategy
from ohmack.core.planning.survey import add_to_survey
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.building import DemoJob, added, catalogue, documented, found, measured

V, R, S = "vehicle", "vehicle/radio", "vehicle/supply"
AMP = f"{V}/modules/factory-amp"
OPENING = (
    measured(f"{R}/opening_width_mm", 184.0),
    measured(f"{R}/opening_height_mm", 112.0),
    measured(f"{R}/opening_depth_mm", 186.0),
)
# thirteen speakers over a ring: name, along, across, band, size
MORE = (
    ("Tweeter left", 1.48, -0.6, "high range", "dash"), ("Tweeter right", 1.48, 0.6, "high range", "dash"),
    ("Centre", 1.34, 0.0, "mid and high range", "dash"), ("Shelf left", 3.58, -0.42, "full range", "rear shelf"),
    ("Shelf right", 3.58, 0.42, "full range", "rear shelf"), ("Rear tweeter left", 2.94, -0.72, "high range", "door"),
    ("Rear tweeter right", 2.94, 0.72, "high range", "door"), ("Underseat left", 2.14, -0.4, "low range", "side panel"),
    ("Underseat right", 2.14, 0.4, "low range", "side panel"),
)  # fmt: skip


def _system(first: Design, tier: Tier) -> tuple[Edit, ...]:
    """What was seen in the dash: the kind of system with its modules, and the opening."""
    seen = (measured(f"{R}/tier", tier.value, how="by eye"), *OPENING)
    return (*seen, *modules_for(apply_edits(first, seen), tier))


def _rounds(first_rounds: tuple[tuple[str, tuple[Edit, ...]], ...], job: DemoJob, key: StrategyKey) -> DemoJob:
    """A job with a way chosen after what was found out."""
    design = job.first
    for _, edits in first_rounds:
        design = apply_edits(design, edits)
    way = lay_strategy(design, key.value, catalogue()).edits
    return DemoJob(job.customer, job.phone, job.title, job.first, (*first_rounds, (f"strategy: {key.value}", way)))


def _ring_saloon() -> DemoJob:
    """A big screen for a car whose radio is master of the ring, and without which it does not start."""
    vehicle = new_vehicle("Hallam", "Warden", 2010, Body.SALOON, Hand.LEFT)
    intake = Intake(
        wishes=(Wish.SCREEN,), must_keep=(Keep.CHIMES, Keep.PARKING, Keep.WHEEL_BUTTONS), budget=1750,
        wishes_note="My mother cannot read the little display any more. It must start every morning.",
    )  # fmt: skip
    first = new_design("A screen she can read", vehicle, intake, Policy())
    system = (*_system(first, Tier.RING), measured(f"{R}/spare_input", True, how="by ear"))
    speakers = tuple(
        edit
        for number, (name, x_m, y_m, band, place) in enumerate(MORE, start=1)
        for edit in (
            Edit(op="add", path=f"{AMP}/channels", value={
                "id": f"own-{number}", "name": f"{name}, amplified", "band": {"value": band, "basis": "measured"}}),
            added(f"{V}/speakers", f"spk-{number}", name, x_m, y_m, channel_id=f"own-{number}", place=place),
        )
    )  # fmt: skip
    design = apply_edits(first, (*system, *speakers))
    functions = functions_for(design)
    design = apply_edits(design, functions)
    start = Edit(op="add", path=f"{V}/functions", value={
        "id": "start", "kind": FunctionKind.START.value, "made_by_id": "gateway", "needs_ids": ["radio"],
        "has_it": {"value": True, "basis": "measured"}})  # fmt: skip
    rounds = (
        ("survey", system), ("thirteen speakers", speakers), ("functions", functions),
        ("it does not start without the radio", (start,)),
    )  # fmt: skip
    return _rounds(rounds, DemoJob("Agnes Rill", "555 0193", first.title, first, ()), StrategyKey.SCREEN_ON_TOP)


def _old_coupe() -> DemoJob:
    """An analogue amplifier that sounds right stays; a hidden box adds the bass."""
    vehicle = new_vehicle("Harrow", "Merle", 1993, Body.COUPE, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.SCREEN, Wish.BASS, Wish.HIDDEN), budget=2000,
        wishes_note="I have had it for thirty years and like how it plays. Only the radio is tired.",
    )  # fmt: skip
    first = new_design("Thirty years, one new radio", vehicle, intake, Policy())
    system = _system(first, Tier.AMPLIFIED)
    survey = (
        *system,
        measured(f"{AMP}/fitted", True, how="by eye"),
        measured(f"{AMP}/sounds_right", True, how="by ear"),
        measured(f"{AMP}/level", "follows the volume"),
        documented(f"{AMP}/input_limit_v", 2.0),
        measured(f"{AMP}/balanced", False),
        measured(f"{AMP}/woken_by", "a lead from the radio"),
        *(documented(f"{V}/speakers/spk-f{s}/impedance_ohm", 1.0) for s in "lr"),
        measured(f"{V}/speakers/spk-fl/dc_resistance_ohm", 1.0),
        measured(f"{V}/speakers/spk-fr/dc_resistance_ohm", 0.9),
        measured(f"{S}/post_running_v", 14.0),
    )
    design = apply_edits(first, survey)
    sub = place_part(design, dict(next(t for t in catalogue() if t["name"] == "Cooperage Backrest 10")))
    job = DemoJob("Barnaby Flint", "555 0147", first.title, first, ())
    return _rounds((("survey", survey), ("a hidden box for the bass", sub)), job, StrategyKey.RADIO_KEEP_AMPLIFIER)


def _open_two_seater() -> DemoJob:
    """An adapter died after a day: the amplifier on the ring goes, and the new one stands where the discs were."""
    vehicle = new_vehicle("Voltane", "Siskin", 2008, Body.ROADSTER, Hand.LEFT)
    intake = Intake(
        wishes=(Wish.CLARITY, Wish.SCREEN, Wish.RELIABLE), must_keep=(Keep.CHIMES,), budget=3750,
        wishes_note="The last shop's box died on the way home. I drive to the coast and back; it must simply work.",
    )  # fmt: skip
    first = new_design("To the coast and back", vehicle, intake, Policy())
    system = _system(first, Tier.RING)
    survey = (
        *system,
        measured(f"{AMP}/fitted", True, how="by eye"),
        added(f"{V}/modules", "changer", "Disc changer", 3.1, -0.4, kind="disc changer", fitted=found(True)),
        added(
            f"{V}/alterations", "died", "Ring adapter, dead after a day", 1.7, 0.1, kind="adapter that failed",
            work_min=found(25.0, "by eye"),
            note="Warm to the touch and silent; its fuse was whole.",
        ),
        *(measured(f"{V}/speakers/spk-f{s}/dc_resistance_ohm", 3.3) for s in "lr"),
        *(documented(f"{V}/speakers/spk-f{s}/takes_w", 60.0) for s in "lr"),
    )  # fmt: skip
    design = apply_edits(first, survey)
    functions = functions_for(design)
    job = DemoJob("Celeste Orrin", "555 0168", first.title, first, ())
    return _rounds((("survey", survey), ("functions", functions)), job, StrategyKey.RADIO_BYPASS)


def _farm_truck() -> DemoJob:
    """A radio and two boxes, no amplifier; an earlier owner's splices are made again first."""
    vehicle = new_vehicle("Hask", "Furrow", 1978, Body.TRUCK, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.CLARITY,), budget=520, wishes_note="The forecast and a bit of fiddle music in the field."
    )
    first = new_design("The forecast in the field", vehicle, intake, Policy())
    survey = (
        measured(f"{R}/tier", "no radio", how="by eye"),
        measured(f"{R}/opening_width_mm", 183.0),
        measured(f"{R}/opening_height_mm", 55.0),
        measured(f"{R}/opening_depth_mm", 172.0),
        measured(f"{S}/system", "12 V"),
        measured(f"{S}/positive_ground", False),
        measured(f"{S}/post_running_v", 13.9),
        added(
            f"{V}/alterations", "splice", "Twisted splice under the dash", 1.5, 0.3, kind="old splice",
            work_min=found(10.0, "by eye"),
            note="Three colours, one lump of tape.",
        ),
        *(Edit(op="remove", path=f"{V}/speakers/spk-{corner}") for corner in ("fl", "fr")),
    )  # fmt: skip
    design = apply_edits(first, survey)
    boxes = add_to_survey(design, "pair of boxes")[1]
    design = apply_edits(design, boxes)
    rounds = [("survey", survey), ("two boxes behind the seat", boxes)]
    for name in ("Quillon Q1 plain radio", "Kettleworth boxed 130, pair"):
        tree = next(t for t in catalogue() if t["name"] == name)
        placed = place_part(design, dict(tree))
        design = apply_edits(design, placed)
        wires = tuple(connect_everything(design))
        design = apply_edits(design, wires)
        rounds.append((f"{name} added", (*placed, *wires)))
    return DemoJob("Amos Quill", "555 0111", first.title, first, tuple(rounds))


def radio_jobs() -> tuple[DemoJob, ...]:
    """The jobs that turn on the radio."""
    return (_ring_saloon(), _old_coupe(), _open_two_seater(), _farm_truck())
