"""Demo jobs that turn on the strategy: a box under the seat, the works amplifier kept, the works amplifier bypassed."""

from __future__ import annotations

from dataclasses import replace

from ohmack.core.document.design import Intake, Keep, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.policy import Policy
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import Body, Hand, KeyState
from ohmack.core.factory.function_edits import functions_for
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.strategy import lay_strategy
from ohmack.demo.building import DemoJob, added, catalogue, documented, found, measured

V, R = "vehicle", "vehicle/radio"
FEED = f"{V}/feeds/factory-amp-feed"
AMP = f"{V}/modules/factory-amp"


def _rounds(job: DemoJob, key: StrategyKey) -> DemoJob:
    """The job with its usual functions on file and a strategy chosen."""
    design = job.first
    for _, edits in job.rounds:
        design = apply_edits(design, edits)
    functions = functions_for(design)
    design = apply_edits(design, functions)
    way = lay_strategy(design, key.value, catalogue()).edits
    return DemoJob(
        job.customer,
        job.phone,
        job.title,
        job.first,
        (*job.rounds, ("functions", functions), (f"strategy: {key.value}", way)),
    )


def _underseat() -> DemoJob:
    """Some bass, hidden, little money, and a boot the roof folds into."""
    vehicle = new_vehicle("Dovekin", "Pip Airy", 2017, Body.CONVERTIBLE, Hand.RIGHT)
    said = "The district nurse's bags fill what the roof leaves of the boot. A little more warmth is enough."
    intake = Intake(wishes=(Wish.BASS, Wish.HIDDEN), budget=500, reversible=True, wishes_note=said)
    first = new_design("Warmth under the seat", vehicle, intake, Policy())
    survey = (
        measured(f"{R}/tier", "plain radio", how="by eye"),
        documented(f"{R}/source_voltage_v", 8.8),
        documented(f"{V}/feeds/radio-constant/limit_a", 15.0),
        measured(f"{V}/feeds/radio-constant/old_load_a", 2.4),
        measured(f"{V}/feeds/radio-constant/fuse_a", 15.0, how="by eye"),
        measured(f"{V}/feeds/radio-constant/wire_size", "2.5 mm2", how="by eye"),
        measured(f"{V}/feeds/radio-constant/wire_length_m", 1.9),
        measured("vehicle/supply/post_running_v", 14.3),
    )
    return _rounds(
        DemoJob("Marguerite Eyre", "555 0134", first.title, first, (("survey", survey),)), StrategyKey.POWERED_SUB
    )


def _screen() -> DemoJob:
    """A screen, and the works amplifier is good enough: it stays."""
    vehicle = new_vehicle("Aldwick", "Consort", 2013, Body.SALOON, Hand.LEFT)
    intake = Intake(wishes=(Wish.SCREEN,), must_keep=(Keep.FADE, Keep.WHEEL_BUTTONS), budget=800,
                    wishes_note="Maps on a screen. The sound is fine as it is.")  # fmt: skip
    first = new_design("A screen for the maps", vehicle, intake, Policy())
    tier = (measured(f"{R}/tier", "radio with amplifier", how="by eye"),)
    survey = (
        *tier,
        *modules_for(apply_edits(first, tier), Tier.AMPLIFIED),
        measured(f"{AMP}/fitted", True, how="by eye"),
        measured(f"{AMP}/level", "follows the volume"),
        measured(f"{AMP}/band_split", False, how="by ear"),
        measured(f"{AMP}/equalised", False),
        measured(f"{AMP}/load_sensing", False),
        measured(f"{R}/opening_width_mm", 182.0),
        measured(f"{R}/opening_height_mm", 113.0),
        measured(f"{R}/opening_depth_mm", 190.0),
        added(f"{V}/modules", "stalk", "Steering column buttons", 1.55, -0.35, kind="bus gateway", fitted=found(True)),
        Edit(
            op="add",
            path=f"{V}/factory_links",
            value={"id": "stalk-bus", "kind": "data bus", "from_id": "stalk", "to_id": "radio"},
        ),
    )
    job = DemoJob("Kestrel Minicabs", "555 0145", first.title, first, (("survey", survey),))
    return _rounds(job, StrategyKey.RADIO_KEEP_AMPLIFIER)


def _bypass() -> DemoJob:
    """Screen, clarity and some bass in a car that is kept: the works amplifier is bypassed."""
    vehicle = new_vehicle("Marren", "Tilde", 2012, Body.ESTATE, Hand.RIGHT)
    intake = Intake(wishes=(Wish.SCREEN, Wish.CLARITY, Wish.BASS), must_keep=(Keep.CHIMES,), budget=2120,
                    wishes_note="Keeps it until it falls apart. Piano teacher, hears everything.")  # fmt: skip
    first = new_design("Everything new but the doors", vehicle, intake, Policy())
    tier = (measured(f"{R}/tier", "radio with amplifier", how="by eye"),)
    survey = (
        *tier,
        *modules_for(apply_edits(first, tier), Tier.AMPLIFIED),
        measured(f"{AMP}/fitted", True, how="by eye"),
        measured(f"{AMP}/level", "fixed"),
        measured(f"{AMP}/band_split", True, how="by ear"),
        measured(f"{AMP}/equalised", True),
        measured(f"{AMP}/load_sensing", False),
        measured(f"{R}/opening_width_mm", 181.0),
        measured(f"{R}/opening_height_mm", 112.0),
        measured(f"{R}/opening_depth_mm", 185.0),
        added(f"{V}/modules", "chime-box", "Chime box", 1.3, 0.4, kind="bus gateway", fitted=found(True)),
        measured(f"{FEED}/live", list(KeyState)),
        measured(f"{FEED}/limit_a", 25.0),
        measured(f"{FEED}/old_load_a", 1.2),
        measured(f"{FEED}/fuse_a", 25.0, how="by eye"),
        measured(f"{FEED}/wire_size", "6 mm2", how="by eye"),
        measured(f"{FEED}/wire_length_m", 4.2),
        Edit(
            op="add",
            path=f"{V}/factory_links",
            value={"id": "chime-bus", "kind": "data bus", "from_id": "chime-box", "to_id": "factory-amp"},
        ),
    )
    job = DemoJob("Ottoline Brandreth", "555 0139", first.title, first, (("survey", survey),))
    laid = _rounds(job, StrategyKey.RADIO_BYPASS)
    idle = (Edit(op="remove", path="parts/holder"),)  # the works amplifier's feed carries the new one
    return replace(laid, rounds=(*laid.rounds, ("no run of its own", idle)))


def strategy_jobs() -> list[DemoJob]:
    """The jobs, in the order they came in."""
    return [_underseat(), _screen(), _bypass()]
