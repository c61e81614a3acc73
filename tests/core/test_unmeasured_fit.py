"""A part that does not go in by sizes nobody read: the car is measured before another part is bought."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Remedy, Severity
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import catalogue

BEHIND = "vehicle/speakers/spk-fl/depth_mm"
WINDOW = "vehicle/speakers/spk-fl/window_depth_mm"


def fitted() -> Design:
    """A saloon with woofers 71 mm deep for its front doors; their usual sizes are 66 mm, 62 mm with the window down."""
    vehicle = new_vehicle("Dravel", "Minnow", 2014, Body.SALOON, Hand.LEFT)
    design = new_design("t", vehicle, Intake(), Policy())
    tree = next(tree for tree in catalogue() if tree["name"] == "Morrowick W65 woofer, pair")
    return apply_edits(design, place_part(design, dict(tree)))


def read(design: Design, path: str, mm: float) -> Design:
    return apply_edits(design, [Edit(path=path, value={"value": mm, "basis": "measured"})])


def left_door(design: Design) -> tuple[Severity, str, Remedy] | None:
    """What is said of the left front door's depth."""
    for found in evaluate(design).findings:
        if found.rule == "fit" and "in Front left door: depth behind" in found.title:
            assert found.remedy is not None
            return found.severity, found.text, found.remedy
    return None


def test_what_is_usual_is_measured_before_another_speaker_is_looked_for() -> None:
    """Common practice, no source: hold a tape to the door before buying. Neither size alone would flip the stop, so
    that neither is asked for by varying one fact at a time; the one that binds is asked for first.
    """
    design = fitted()
    guessed = left_door(design)
    assert guessed is not None
    assert (guessed[0], guessed[2].path) == (Severity.STOP, WINDOW)
    assert "nobody measured “Front left door: depth, window down”" in guessed[1]
    down = read(design, WINDOW, 76.0)
    behind = left_door(down)
    assert behind is not None
    assert behind[2].path == BEHIND
    assert left_door(read(down, BEHIND, 78.0)) is None


def test_what_was_measured_or_can_never_be_enough_stands() -> None:
    design = fitted()
    shallow = left_door(read(design, WINDOW, 60.0))
    assert shallow is not None
    assert (shallow[2].path, shallow[2].sheet) == ("", "find"), "with all else as large as may be it is 11 mm short"
    assert "nobody measured" not in shallow[1]
    low, high = 40.0, 70.0
    never = [Edit(path=WINDOW, value={"value": 60.0, "basis": "assumed", "low": low, "high": high})]
    found = left_door(apply_edits(design, never))
    assert found is not None
    assert found[2].sheet == "find", "71 mm are more than it may be"
