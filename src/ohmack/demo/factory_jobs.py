"""Demo jobs that show what factory systems do: every archetype and every body, in situations of our own."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.design import Intake, Keep, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand, Powertrain, Vehicle
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.building import DemoJob, added, catalogue_part, documented, found, guessed, measured

V, S, R = "vehicle", "vehicle/supply", "vehicle/radio"


def _open(title: str, vehicle: Vehicle, intake: Intake) -> Design:
    return new_design(title, vehicle, intake, Policy())


def _with_modules(first: Design, *edits: Edit) -> tuple[Edit, ...]:
    """The edits, and the modules of the tier they establish."""
    tier = apply_edits(first, edits).vehicle.radio.tier.value or Tier.PLAIN
    return (*edits, *modules_for(apply_edits(first, edits), tier))


def _saloon() -> DemoJob:
    """Four door speakers on a factory amplifier that keeps its level fixed: no amplifier is added."""
    vehicle = new_vehicle("Aldwick", "Consort", 2011, Body.SALOON, Hand.LEFT)
    intake = Intake(
        wishes=(Wish.CLARITY, Wish.ORIGINAL), must_keep=(Keep.CHIMES, Keep.FADE), budget=320, reversible=True,
        wishes_note="The front doors buzz. Nothing else, it must look as it left the works.",
    )  # fmt: skip
    first = _open("Front doors stop buzzing", vehicle, intake)
    system = _with_modules(
        first, measured(f"{R}/tier", "radio with amplifier", how="by eye"), documented(f"{V}/length_m", 4.71)
    )
    amp = f"{V}/modules/factory-amp"
    survey = (
        *system,
        measured(f"{amp}/fitted", True, how="by eye"),
        measured(f"{amp}/level", "follows the volume"),
        measured(f"{amp}/equalised", True),
        measured(f"{amp}/band_split", False, how="by ear"),
        guessed(f"{amp}/load_sensing", False, True),
        *(measured(f"{V}/speakers/spk-{i}/impedance_ohm", 4.0) for i in ("fl", "fr")),
        *(
            measured(f"{amp}/channels/amp-ch-{i}/pair_resistance_ohm", ohm)
            for i, ohm in (("fl", 3.5), ("fr", 3.6), ("rl", 3.4), ("rr", 6.9))
        ),
        *(
            measured(f"{V}/speakers/spk-{i}/{name}", mm, how="by eye")
            for i in ("fl", "fr")
            for name, mm in (
                ("cut_out_mm", 131.0),
                ("depth_mm", 66.0),
                ("window_depth_mm", 52.0),
                ("trim_clearance_mm", 26.0),
            )
        ),
        added(f"{V}/modules", "mic", "Roof microphone", 2.02, 0.02, kind="microphone", fitted=found(True)),
        added(f"{V}/modules", "aerial", "Rear glass aerial", 3.55, 0.0, kind="aerial", fitted=found(True)),
        Edit(
            op="add",
            path=f"{V}/factory_links",
            value={"id": "aerial-lead", "kind": "aerial lead", "from_id": "aerial", "to_id": "radio"},
        ),
        Edit(
            op="add",
            path=f"{V}/factory_links",
            value={"id": "mic-lead", "kind": "microphone lead", "from_id": "mic", "to_id": "radio"},
        ),
    )
    parts = (catalogue_part("Pell & Fenn Coax 65, pair", "doors", 0, 0, position=None, at_ids=["spk-fl", "spk-fr"]),)
    return DemoJob("Dr. Emeka Oduya", "555 0126", first.title, first, (("survey", survey), ("speakers picked", parts)))


def _pickup() -> DemoJob:
    """A band-split, load-sensing amplifier: the pickup goes behind it, to the low pairs."""
    vehicle = new_vehicle("Brackley", "Drover", 2018, Body.PICKUP, Hand.RIGHT)
    intake = Intake(wishes=(Wish.BASS,), must_keep=(Keep.PARKING, Keep.CAMERA), budget=1020,
                    wishes_note="Works site truck. The bed stays free, everything behind the seat.")  # fmt: skip
    first = _open("Bass behind the seat", vehicle, intake)
    system = _with_modules(first, measured(f"{R}/tier", "radio with amplifier", how="by eye"))
    amp = f"{V}/modules/factory-amp"
    survey = (
        *system,
        measured(f"{amp}/fitted", True, how="by eye"),
        measured(f"{amp}/level", "fixed"),
        measured(f"{amp}/band_split", True, how="by ear"),
        measured(f"{amp}/load_sensing", True),
        guessed(f"{amp}/equalised", True, False),
        documented(f"{amp}/source_voltage_v", 16.0),
        documented(f"{amp}/clip_step", "31 of 38"),
        measured(f"{amp}/tap_low_hz", 32.0),
        measured(f"{amp}/bridged", True),
        *(measured(f"{amp}/channels/amp-ch-{i}/band", "low range", how="by ear") for i in ("fl", "fr")),
        *(measured(f"{amp}/channels/amp-ch-{i}/band", "mid and high range", how="by ear") for i in ("rl", "rr")),
        added(f"{V}/modules", "cam", "Tailgate camera", 5.2, 0.0, kind="camera", fitted=found(True)),
        added(f"{V}/modules", "park", "Parking sensors", 4.9, 0.5, kind="parking sensors", fitted=found(True)),
        Edit(
            op="add",
            path=f"{V}/factory_links",
            value={"id": "video", "kind": "video", "from_id": "cam", "to_id": "radio"},
        ),
        Edit(
            op="add",
            path=f"{V}/factory_links",
            value={"id": "park-bus", "kind": "data bus", "from_id": "park", "to_id": "radio"},
        ),
        documented(f"{V}/length_m", 5.34),
        documented(f"{S}/alternator_rating_a", 150.0),
        measured(f"{S}/post_running_v", 14.3),
        measured(f"{S}/body_return_ohm", 0.0036),
        measured(f"{V}/spaces/space-rear/length_m", 0.24, how="by eye"),
        measured(f"{V}/spaces/space-rear/height_m", 0.52, how="by eye"),
    )
    parts = (
        catalogue_part("Tessel M300", "amp", 2.72, -0.55),
        catalogue_part("Pell & Fenn Slim 8 D4", "sub", 2.68, 0.30),
        catalogue_part("Cooperage 15 closed", "box", 2.68, 0.30),
        catalogue_part("Sprig LC2 active", "converter", 2.35, -0.12),
        catalogue_part("Hob maxi holder", "holder", 0.7, -0.6),
    )
    design = apply_edits(first, (*survey, *parts))
    return DemoJob("Hask & Sons, drystone walls", "555 0163", first.title, first, (
        ("survey", survey), ("parts picked", parts), ("wired", connect_everything(design)),
    ))  # fmt: skip


def _van() -> DemoJob:
    """A camper with two batteries, an aftermarket radio and an earlier owner's work."""
    vehicle = new_vehicle("Hollin", "Carter", 2009, Body.VAN, Hand.RIGHT)
    intake = Intake(wishes=(Wish.BASS,), budget=1190, later_note="A second pair of speakers by the bed.",
                    wishes_note="Weekends by the lake, engine off. The last owner did his own wiring.")  # fmt: skip
    first = _open("Camper sound from the leisure battery", vehicle, intake)
    survey = (
        measured(f"{R}/tier", "aftermarket radio", how="by eye"),
        measured(f"{S}/system", "12 V"),
        Edit(path=f"{R}/name", value="Aftermarket radio"),
        added(
            f"{S}/batteries",
            "camp",
            "Leisure battery",
            3.45,
            -0.72,
            role="leisure",
            own_running_v=found(13.6, "by meter"),
            own_resting_v=found(12.7, "by meter"),
            capacity_ah=found(95.0),
            cca_a=found(480.0),
            cut_off_v=found(11.2),
        ),
        Edit(path="use/listens_h", value=6.0),
        measured(f"{S}/split_charging", "relay", how="by eye"),
        measured(f"{S}/standby_current_a", 0.31),
        measured(f"{S}/batteries/battery/capacity_ah", 80.0, how="by eye"),
        measured(f"{S}/post_running_v", 14.1),
        added(
            f"{V}/alterations",
            "ground-cut",
            "Radio ground, twisted and taped",
            1.25,
            0.12,
            kind="old splice",
            about_id="ground-radio",
            work_min={"value": 15.0, "low": 10.0, "high": 25.0},
            note="Sleeve gone, copper green.",
        ),
        added(
            f"{V}/alterations",
            "dead-plug",
            "Rear speaker plug leads nowhere",
            3.3,
            0.85,
            kind="dead end",
            work_min={"value": 35.0, "low": 20.0, "high": 60.0},
        ),
        added(
            f"{V}/modules",
            "alarm",
            "Alarm of unknown make",
            1.05,
            0.45,
            kind="alarm",
            by_owner=True,
            fitted=found(True),
        ),
        added(
            f"{V}/alterations",
            "alarm-feed",
            "Alarm spliced into the switched feed",
            1.05,
            0.25,
            kind="added module",
            about_id="radio-switched",
            work_min={"value": 40.0, "low": 20.0, "high": 90.0},
        ),
    )
    parts = (
        catalogue_part("Tessel M300", "amp", 2.75, -0.7),
        catalogue_part("Pell & Fenn Slim 8 D4", "sub", 2.5, 0.5),
        catalogue_part("Cooperage 15 closed", "box", 2.5, 0.5),
        catalogue_part("Sprig LC1 pocket", "converter", 1.3, -0.35),
        catalogue_part("Hob maxi holder", "holder", 3.0, -0.6),
    )
    design = apply_edits(first, (*survey, *parts))
    wired = (
        *connect_everything(design),
        Edit(path="links/power-amp/from_id", value="camp"),
        Edit(path="links/power-amp/way_points", value=[]),
    )
    return DemoJob(
        "Petra Lindqvist-Moor",
        "555 0188",
        first.title,
        first,
        (("survey", survey), ("parts picked", parts), ("wired", wired)),
    )


def _two_seater() -> DemoJob:
    """Three kinds of one car, told apart by a questionnaire; a factory subwoofer amplifier perhaps."""
    vehicle = new_vehicle("Serin", "Fork-Tail", 2015, Body.TWO_SEATER, Hand.LEFT)
    intake = Intake(wishes=(Wish.SCREEN, Wish.CLARITY), must_keep=(Keep.HANDS_FREE, Keep.WHEEL_BUTTONS), budget=750,
                    wishes_note="A screen, if it fits without cutting the dash.")  # fmt: skip
    first = _open("Screen radio, dash uncut", vehicle, intake)
    kinds = (
        Edit(op="add", path=f"{V}/variants", value={"id": "base", "name": "Base", "tier": "plain radio"}),
        Edit(
            op="add",
            path=f"{V}/variants",
            value={
                "id": "plus",
                "name": "Plus, with works subwoofer",
                "tier": "radio plus subwoofer amplifier",
                "last_year": 2016,
            },
        ),
        Edit(
            op="add",
            path=f"{V}/variants",
            value={
                "id": "grand",
                "name": "Grand, after the facelift",
                "tier": "digital or optical ring",
                "first_year": 2016,
            },
        ),
        Edit(
            op="add",
            path=f"{V}/tells",
            value={
                "id": "grille",
                "question": "Is there a grille behind the passenger's seat?",
                "shown_by": ["plus", "grand"],
            },
        ),
        Edit(
            op="add",
            path=f"{V}/tells",
            value={
                "id": "square-screen",
                "question": "Is the middle vent square instead of round?",
                "shown_by": ["grand"],
            },
        ),
        Edit(op="add", path=f"{V}/answers", value={"id": "tell-square-screen", "answer": found("no")}),
    )
    survey = (
        *kinds,
        guessed(f"{R}/tier", "radio plus subwoofer amplifier", "plain radio"),
        measured(f"{R}/opening_width_mm", 182.0),
        measured(f"{R}/opening_height_mm", 98.0),
        measured(f"{R}/opening_depth_mm", 104.0),
        *modules_for(first, Tier.SUB_AMPLIFIER),
    )
    parts = (catalogue_part("Quillon S2 screen radio", "unit", 0, 0, position=None),)
    return DemoJob(
        "Noor Castellan", "555 0152", first.title, first, (("survey begun", survey), ("radio picked", parts))
    )


def _bus() -> DemoJob:
    """A 24 V bus: nothing hangs on half the pack."""
    vehicle = new_vehicle("Tolland", "Parish", 2006, Body.BUS, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.CLARITY,), budget=1500, wishes_note="Choir outings. Speech must be clear to the last row."
    )
    first = _open("Clear speech to the last row", vehicle, intake)
    survey = (
        measured(f"{S}/system", "24 V"),
        measured(f"{S}/post_running_v", 28.2),
        measured(f"{S}/post_resting_v", 25.3),
        measured(f"{R}/tier", "plain radio", how="by eye"),
        documented(f"{V}/length_m", 6.10),
        documented(f"{V}/width_m", 2.05),
        documented(f"{V}/wheelbase_m", 3.70),
        *(
            added(
                f"{V}/speakers",
                f"spk-row-{n}{s}",
                f"Row {n}, {side}",
                x,
                y,
                channel_id=f"ch-f{s}",
                paired_with_id=f"spk-f{s}",
                pairing="parallel",
                place="side panel",
                size="4 in",
                impedance_ohm=found(8.0, "by meter"),
                cut_out_mm=found(114.0),
                depth_mm=found(51.0),
                trim_clearance_mm=found(16.0),
            )
            for n, x in ((2, 2.6), (3, 3.7))
            for s, side, y in (("l", "left", -0.9), ("r", "right", 0.9))
        ),
    )
    parts = (
        catalogue_part(
            "Pell & Fenn Coax 52 slim, pair", "rows", 0, 0, position=None, at_ids=["spk-row-2l", "spk-row-2r"]
        ),
    )
    return DemoJob(
        "St. Osyth's choir", "555 0117", first.title, first, (("survey", survey), ("speakers picked", parts))
    )


def _cart() -> DemoJob:
    """A 48 V cart without a radio."""
    vehicle = new_vehicle("Links & Lawn", "Caddisfly", 2020, Body.CART, Hand.LEFT, Powertrain.ELECTRIC)
    intake = Intake(
        wishes=(Wish.BASS,), budget=500, wishes_note="Greenkeeper's cart. Music from a phone, rain now and then."
    )
    first = _open("Phone music on the cart", vehicle, intake)
    survey = (
        measured(f"{R}/tier", "no radio", how="by eye"),
        measured(f"{S}/system", "36 or 48 V pack"),
        documented(f"{S}/post_resting_v", 49.6),
        Edit(path=f"{R}/name", value="Blank dash plate"),
    )
    return DemoJob("Old Harrow golf ground", "555 0171", first.title, first, (("survey begun", survey),))


def factory_jobs() -> list[DemoJob]:
    """The jobs, in the order they came in."""
    return [_saloon(), _pickup(), _van(), _two_seater(), _bus(), _cart()]
