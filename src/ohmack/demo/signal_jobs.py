"""Demo jobs of the signal: an old source that distorts early, read step by step; a premium system whose bands are
summed into a processor.
"""

from __future__ import annotations

from math import log10

import numpy as np

from ohmack.core.document.design import Intake, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.policy import Policy
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.physics.filter_families import bell, high_pass, level_db
from ohmack.core.physics.responses import grid_hz
from ohmack.core.planning.responses import flatten, take_in
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.survey import distortion_reading, volume_reading
from ohmack.demo.building import DemoJob, documented, measured
from ohmack.demo.everyday_jobs import picked

R, S, V = "vehicle/radio", "vehicle/supply", "vehicle"
DAY = "2026-11-18"
HEARD = grid_hz(25.0, 16_000.0, 6)


def _supply(running_v: float, resting_v: float, cca_a: float, body_ohm: float) -> tuple[Edit, ...]:
    return (
        measured(f"{S}/post_running_v", running_v),
        measured(f"{S}/post_resting_v", resting_v),
        documented(f"{S}/batteries/battery/cca_a", cca_a),
        measured(f"{S}/body_return_ohm", body_ohm),
        measured(f"{S}/battery_strap_ohm", 0.0005),
        measured(f"{V}/ground_points/ground-rear/kind", "bare-metal stud", how="by eye"),
        measured(f"{V}/passages/bulkhead/needs_drilling", False, how="by eye"),
    )


def _old_estate() -> DemoJob:
    """A van of 1999 whose radio stays and distorts long before the scale ends."""
    vehicle = new_vehicle("Wexcombe", "Wheatear", 1999, Body.ESTATE, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.BASS, Wish.ORIGINAL),
        wishes_note="Sells cheese on four markets. The radio came with the car and stays; loud it sounds like a wasp.",
        budget=1000,
    )
    first = new_design("The wasp in the old radio", vehicle, intake, Policy(overlap_db=3.0))
    survey = (
        measured(f"{R}/tier", "plain radio", how="by eye"),
        measured(f"{R}/bridged", True),
        measured(f"{R}/source_voltage_v", 7.4),
        measured(f"{R}/clip_step", "22 of 35", how="by meter"),
        measured(f"{R}/usual_step", 16.0, how="by eye"),
        measured(f"{V}/feeds/radio-constant/live", ["asleep", "door open", "bus awake", "accessory", "on", "cranking"]),
        *_supply(14.1, 12.5, 480.0, 0.0021),
    )
    design = apply_edits(first, survey)
    steps: list[Edit] = []
    for step in range(8, 35, 2):
        volts = min(7.4 * 10 ** (1.4 * (step - 22) / 20), 8.3)
        wrong = 0.55 if step == 14 else 1.0  # read in the wrong range
        for tone_hz, times in ((1000.0, wrong), (50.0, 0.98 if step < 20 else 0.98 * 10 ** (-0.5 * (step - 18) / 20))):
            made = volume_reading(design, step, tone_hz, round(volts * times, 2), "phone at full", DAY)
            design = apply_edits(design, made)
            steps += made
    for step, percent in ((18, 0.08), (20, 0.2), (22, 0.7), (24, 4.1), (26, 9.8)):
        made = distortion_reading(design, float(step), 1000.0, percent)
        design = apply_edits(design, made)
        steps += made
    lean = level_db(high_pass(HEARD, 75.0, 6)) + level_db(bell(HEARD, 160.0, 3.0, 1.4))
    tapped = take_in(
        design, "Rear pair, step 22", "at the tap", "before the work", "22", _rounded(HEARD), _rounded(lean)
    )
    design = apply_edits(design, tapped)
    parts, design = picked(
        design,
        (
            "Sprig LC2 active", "Tessel M300", "Morrowick 10 D4", "Cooperage 28 closed", "Hob strip holder",
            "Radio plug adapter, 16 way",
        ),
    )  # fmt: skip
    rounds = (("survey", survey), ("volume read step by step", tuple(steps)), ("response at the tap", tapped), *parts)
    return DemoJob("Odo Marchbank, four markets", "555 0201", first.title, first, rounds)


def _rounded(values: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> list[float]:
    return [round(float(value), 2) for value in values]


def _premium() -> DemoJob:
    """A works amplifier of 30 V whose pairs carry bands: summed, flattened, and played over five channels."""
    vehicle = new_vehicle("Alderne", "Larch Royal", 2019, Body.SALOON, Hand.LEFT)
    intake = Intake(
        wishes=(Wish.BASS,),
        wishes_note="Tunes pianos. What plays is right, only far too little of it and no low end. The screen stays.",
        budget=3250,
    )
    first = new_design("Two bands, one front", vehicle, intake, Policy())
    tier = (measured(f"{R}/tier", "radio with amplifier", how="by eye"),)
    modules = modules_for(apply_edits(first, tier), Tier.AMPLIFIED)
    amp = f"{V}/modules/factory-amp"
    bands = (("fl", "low range"), ("fr", "low range"), ("rl", "mid and high range"), ("rr", "mid and high range"))
    fronts = {"fl": "front left", "fr": "front right", "rl": "front left", "rr": "front right"}
    names = {"fl": "Front left, low", "fr": "Front right, low", "rl": "Front left, high", "rr": "Front right, high"}
    survey = (
        *tier,
        *modules,
        measured(f"{amp}/fitted", True, how="by eye"),
        measured(f"{amp}/level", "fixed"),
        measured(f"{amp}/band_split", True),
        measured(f"{amp}/equalised", True),
        measured(f"{amp}/load_sensing", False),
        measured(f"{amp}/sounds_right", True, how="by ear"),
        measured(f"{amp}/source_voltage_v", 30.0),
        measured(f"{amp}/clip_step", "34 of 40", how="by meter"),
        measured(f"{amp}/bridged", True),
        *(measured(f"{amp}/channels/amp-ch-{key}/band", band) for key, band in bands),
        *(Edit(path=f"{amp}/channels/amp-ch-{key}/place", value=place) for key, place in fronts.items()),
        *(Edit(path=f"{amp}/channels/amp-ch-{key}/name", value=name) for key, name in names.items()),
        measured(f"{R}/usual_step", 22.0, how="by eye"),
        *_supply(14.3, 12.7, 760.0, 0.0012),
        Edit(path="strategy", value=StrategyKey.AFTER_AMPLIFIER.value),
    )
    design = apply_edits(first, survey)
    parts, design = picked(
        design,
        (
            "Quillon six-way processor", "Tessel Five 75+350", "Pell & Fenn Coax 65, pair", "Morrowick 10 D4",
            "Cooperage 28 closed", "Hob strip holder",
        ),
    )  # fmt: skip
    shaped = (
        level_db(bell(HEARD, 90.0, 5.0, 1.1)) + level_db(bell(HEARD, 2200.0, -4.0, 1.4))
        + level_db(bell(HEARD, 7000.0, 4.5, 1.6)) + level_db(high_pass(HEARD, 32.0, 12))
    )  # fmt: skip
    ripple = np.array([0.5 * log10(1 + n % 3) for n in range(len(HEARD))])
    taken = take_in(
        design, "Front left, summed", "at the tap", "before the work", "30", _rounded(HEARD), _rounded(shaped + ripple)
    )
    design = apply_edits(design, taken)
    fronts_of = [f"speaker-spk-{side}" for side in ("fl", "fr")]
    _, flat = flatten(design, "response", fronts_of, 60.0, 12_000.0, 4, 3.0)
    rounds = (("survey", survey), *parts, ("response at the tap", taken), ("flattened", flat))
    return DemoJob("Ines Wolfram", "555 0202", first.title, first, rounds)


def signal_jobs() -> tuple[DemoJob, ...]:
    """Both."""
    return _old_estate(), _premium()
