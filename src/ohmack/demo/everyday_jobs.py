"""Demo jobs of every day: a powered subwoofer on the radio that is there, five channels with a new radio, speakers in
the headrests of a roadster, two amplifiers with a second battery, bass from the rear leads, one driver now and an
amplifier next year.
"""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document import Design
from ohmack.core.document.design import Intake, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import Pickup, TapPlace
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.laying import follow
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.survey import add_to_survey
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.bay_work import taken_apart
from ohmack.demo.building import DemoJob, catalogue, documented, measured, surveyed

R, S, V = "vehicle/radio", "vehicle/supply", "vehicle"
Rounds = tuple[tuple[str, tuple[Edit, ...]], ...]


def picked(design: Design, names: Sequence[str]) -> tuple[Rounds, Design]:
    """One round a catalogue part: placed and wired up, as a press does it."""
    trees, rounds = {tree["name"]: tree for tree in catalogue()}, []
    for name in names:
        edits = added(design, dict(trees[name]))
        design = apply_edits(design, edits)
        rounds.append((f"{name} added", edits))
    return tuple(rounds), design


def remedied(design: Design, rules: Sequence[str]) -> tuple[Rounds, Design]:
    """One round a finding of some rules, mended by its own remedy."""
    rounds: list[tuple[str, tuple[Edit, ...]]] = []
    for rule in rules:
        for finding in evaluate(design).findings:
            if finding.rule == rule and finding.remedy and finding.remedy.edits:
                edits = tuple(follow(design, list(finding.remedy.edits)))
                design = apply_edits(design, edits)
                rounds.append((finding.remedy.label, edits))
    return tuple(rounds), design


def _truck() -> DemoJob:
    """Bass behind the seat of a working truck, out again for the winter fodder."""
    vehicle = new_vehicle("Brackley", "Drover", 2008, Body.EXTENDED_CAB, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.BASS,),
        wishes_note="The radio is three years old and stays. In winter the seat back comes out, so the bass must too.",
        budget=750,
        reversible=True,
    )
    first = new_design("Bass behind the seat, out in winter", vehicle, intake, Policy())
    survey = (
        *surveyed(2.0, "33 of 40", 14.1, 12.6, 540.0, 0.0012),
        measured(f"{V}/ground_points/ground-rear/kind", "factory ground bolt", how="by eye"),
        Edit(path=f"{V}/ground_points/ground-rear/name", value="Works bolt under the seat"),
        measured(f"{V}/spaces/space-rear/length_m", 0.19, how="by eye"),
        measured(f"{V}/spaces/space-rear/width_m", 1.2, how="by eye"),
        measured(f"{V}/spaces/space-rear/height_m", 0.5, how="by eye"),
    )
    design = apply_edits(first, survey)
    parts, design = picked(design, ("Cooperage Backrest 10", "Hob maxi holder"))
    tape = (measured("links/power-bass/tape_length_m", 5.0),)
    rounds = (("survey", survey), *parts, ("taped", tape), *taken_apart(apply_edits(design, tape)))
    return DemoJob("Hesper Stroud, drove and dale", "555 0177", first.title, first, rounds)


def _saloon() -> DemoJob:
    """Five channels, four doors and a box, everything off one run."""
    vehicle = new_vehicle("Dovekin", "Sedge", 2011, Body.SALOON, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.BASS, Wish.CLARITY, Wish.SCREEN),
        wishes_note="Plays cello in two orchestras and sits in this car between them. Everything may be new.",
        budget=2200,
    )
    first = new_design("Five channels, four doors and a box", vehicle, intake, Policy())
    survey = (
        measured(f"{R}/tier", "plain radio", how="by eye"),
        measured(f"{R}/opening_width_mm", 182.0),
        measured(f"{R}/opening_height_mm", 102.0),
        measured(f"{R}/opening_depth_mm", 165.0),
        measured(f"{S}/post_running_v", 14.2),
        measured(f"{S}/post_resting_v", 12.6),
        documented(f"{S}/batteries/battery/cca_a", 620.0),
        measured(f"{S}/body_return_ohm", 0.0011),
    )
    design = apply_edits(first, survey)
    parts, design = picked(
        design,
        (
            "Quillon S2 screen radio", "Radio plug adapter, 16 way", "Tessel Five 75+350", "Pell & Fenn Coax 65, pair",
            "Pell & Fenn Coax 52 slim, pair", "Morrowick 10 D4", "Cooperage 28 closed", "Hob strip holder",
        ),
    )  # fmt: skip
    over = [Edit(path=f"links/speaker-spk-{corner}/factory_wire", value=True) for corner in ("rl", "rr")]
    rear = follow(design, over)
    return DemoJob(
        "Linnet Aske", "555 0188", first.title, first, (("survey", survey), *parts, ("rears over the loom", rear))
    )


def _roadster() -> DemoJob:
    """Voices beside the ears with the roof down: two small speakers a seat on the radio's rear pairs."""
    vehicle = new_vehicle("Voltane", "Siskin", 2004, Body.ROADSTER, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.CLARITY,),
        budget=320,
        wishes_note="With the roof down nobody understands the talking book. Nothing is to be seen.",
    )
    first = new_design("Voices beside the ears", vehicle, intake, Policy())
    survey = (
        measured(f"{R}/tier", "plain radio", how="by eye"),
        measured(f"{R}/lowest_load_ohm", 4.0, how="papers"),
        measured(f"{R}/source_voltage_v", 9.0),
    )
    design = apply_edits(first, survey)
    _, seats = add_to_survey(design, "headrest speakers")
    design = apply_edits(design, seats)
    parts, design = picked(design, ("Kettleworth Cushion 100, four",))
    mended, design = remedied(design, ("channel-load", "small-speaker"))
    return DemoJob(
        "Corin Vale", "555 0193", first.title, first, (("survey", survey), ("headrests", seats), *parts, *mended)
    )


def _estate() -> DemoJob:
    """Two amplifiers, a second battery in the boot, and lamps that dim at the lights."""
    vehicle = new_vehicle("Ollery", "Fenwain", 2010, Body.ESTATE, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.BASS, Wish.CLARITY),
        wishes_note="Plays at village fetes from the boot. At the traffic lights the lamps breathe with the bass.",
        budget=2500,
    )
    first = new_design("Two amplifiers, and lamps that dim", vehicle, intake, Policy())
    survey = (
        measured(f"{R}/tier", "aftermarket radio", how="by eye"),
        measured(f"{R}/line_pairs", 3, how="by eye"),
        measured(f"{R}/line_v", 4.0),
        documented(f"{S}/alternator_rating_a", 90.0),
        measured(f"{S}/post_running_v", 14.1),
        measured(f"{S}/post_loaded_v", 13.4),
        measured(f"{S}/post_resting_v", 12.6),
        documented(f"{S}/batteries/battery/cca_a", 600.0),
        documented(f"{S}/batteries/battery/capacity_ah", 70.0),
        measured(f"{S}/battery_strap_ohm", 0.0012),
        measured(f"{S}/body_return_ohm", 0.0014),
        measured(f"{V}/feeds/radio-switched/live", ["accessory", "on"]),
    )
    design = apply_edits(first, survey)
    second, added = add_to_survey(design, "battery")
    named = (
        *added,
        Edit(path=f"{second}/name", value="Second battery, boot"),
        documented(f"{second}/capacity_ah", 60.0),
        measured(f"{second}/own_running_v", 13.9),
        measured(f"{second}/own_resting_v", 12.6),
        documented(f"{second}/cca_a", 500.0),
    )
    design = apply_edits(design, named)
    parts, design = picked(
        design,
        (
            "Tessel M500", "Morrowick 10 D4", "Cooperage 28 closed", "Tessel Four 70", "Pell & Fenn Coax 65, pair",
            "Pell & Fenn Coax 52 slim, pair", "Hob two-way fused block", "Hob charging relay 100", "1 farad capacitor",
            "Hob strip holder",
        ),
    )  # fmt: skip
    mended, design = remedied(design, ("second-battery",))
    return DemoJob(
        "Aldous Penmark", "555 0199", first.title, first,
        (("survey", survey), ("second battery", named), *parts, *mended),
    )  # fmt: skip


def _leads() -> DemoJob:
    """A plain radio, a converter on the rear leads in the boot, 500 W into 2 ohm, switched on by the aerial's lead."""
    vehicle = new_vehicle("Corrin", "Hask", 2006, Body.SALOON, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.BASS, Wish.ORIGINAL),
        wishes_note="Grandfather's car: the radio with its buttons stays. The bass may sit in the boot.",
        budget=940,
    )
    first = new_design("Bass from the rear leads", vehicle, intake, Policy())
    survey = (
        measured(f"{R}/tier", "plain radio", how="by eye"),
        measured(f"{R}/source_voltage_v", 6.4),
        measured(f"{R}/clip_step", "31 of 40", how="by ear"),
        measured(f"{R}/tap_low_hz", 32.0),
        measured(f"{S}/post_running_v", 14.0),
        measured(f"{S}/post_resting_v", 12.5),
        documented(f"{S}/batteries/battery/cca_a", 520.0),
        documented(f"{S}/alternator_rating_a", 120.0),
        measured(f"{S}/body_return_ohm", 0.0013),
    )
    design = apply_edits(first, survey)
    path, lead = add_to_survey(design, "power-aerial lead")
    aerial = (*lead, measured(f"{path}/live", ["accessory", "on"]), measured(f"{path}/limit_a", 0.3))
    design = apply_edits(design, aerial)
    parts, design = picked(
        design, ("Tessel M500", "Morrowick 10 D4", "Cooperage 28 closed", "Sprig LC2 active", "Hob strip holder")
    )
    leads = follow(
        design,
        [
            Edit(path="links/tap-converter/place", value=TapPlace.LEADS.value),
            Edit(path="links/tap-converter/method", value=Pickup.SPLICE.value),
            Edit(path="links/remote-amp/from_id", value=path.rpartition("/")[2]),
        ],
    )
    design = apply_edits(design, leads)
    beside, design = remedied(design, ("signal-detour",))
    return DemoJob(
        "Tess Marl", "555 0182", first.title, first,
        (("survey", survey), ("power-aerial lead", aerial), *parts, ("from the rear leads", leads), *beside),
    )  # fmt: skip


def _one_driver() -> DemoJob:
    """Only the driver of the works' subwoofer; its amplifier gets a successor next year."""
    vehicle = new_vehicle("Wimble", "Pipit", 2014, Body.HATCH, Hand.RIGHT)
    intake = Intake(
        wishes=(Wish.BASS, Wish.ORIGINAL),
        wishes_note="The bass rattles; the rest is fine. A stronger amplifier perhaps next year.",
        budget=280,
        reversible=True,
        later_note="A stronger amplifier for the subwoofer",
    )
    first = new_design("One driver now, an amplifier next year", vehicle, intake, Policy())
    survey = (
        measured(f"{R}/tier", "radio plus subwoofer amplifier", how="by eye"),
        measured(f"{S}/post_running_v", 14.2),
        measured(f"{S}/post_resting_v", 12.6),
        documented(f"{S}/batteries/battery/cca_a", 560.0),
        documented(f"{S}/alternator_rating_a", 130.0),
    )
    design = apply_edits(first, survey)
    modules = modules_for(design, Tier.SUB_AMPLIFIER)
    design = apply_edits(design, modules)
    read = (
        measured("vehicle/speakers/spk-sub/dc_resistance_ohm", 2.1),
        documented("vehicle/speakers/spk-sub/impedance_ohm", 2.0),
        measured("vehicle/speakers/spk-sub/depth_mm", 96.0),
        measured("vehicle/speakers/spk-sub/cut_out_mm", 184.0),
    )
    design = apply_edits(design, read)
    parts, design = picked(design, ("Pell & Fenn Slim 8 D4",))
    later = Edit(op="add", path="parts", value={
        **next(tree for tree in catalogue() if tree["name"] == "Tessel M300"), "id": "amp", "phase": "later",
        "position": {"x_m": 3.3, "y_m": 0.35}})  # fmt: skip
    design = apply_edits(design, (later,))
    wires = tuple(connect_everything(design, "amp"))
    return DemoJob(
        "Ivo Thistle", "555 0171", first.title, first,
        (("survey", survey), ("works' subwoofer", modules), ("old driver read", read), *parts,
         ("an amplifier for next year", (later, *wires))),
    )  # fmt: skip


def everyday_jobs() -> tuple[DemoJob, ...]:
    """The jobs of every day."""
    return (_truck(), _saloon(), _roadster(), _estate(), _leads(), _one_driver())
