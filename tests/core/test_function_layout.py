"""Functions laid in for every kind of system and body: named things exist, ways are traced, words are on file."""

from __future__ import annotations

import pytest

from ohmack.core.document.design import Intake, Keep
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import FactoryLinkKind, Tier
from ohmack.core.document.functions import FunctionKind, KeepAlive
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.factory.function_edits import KEPT, before_unplugging, functions_for, must_still_work
from ohmack.core.factory.functions import Fate, hangs_on, judge_functions
from ohmack.core.factory.graph import about
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.reference import read_toml


@pytest.mark.parametrize("hand", list(Hand))
@pytest.mark.parametrize("body", list(Body))
@pytest.mark.parametrize("tier", list(Tier))
def test_what_a_new_car_of_any_kind_does(tier: Tier, body: Body, hand: Hand) -> None:
    design = new_design("t", new_vehicle("Brindle", "Otter", 2014, body, hand), Intake(must_keep=tuple(Keep)), Policy())
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value=tier.value)])
    design = apply_edits(design, modules_for(design, tier))
    design = apply_edits(design, functions_for(design))
    found = {f.kind for f in design.vehicle.functions}
    if tier is Tier.NONE:
        assert not found
        return
    assert FunctionKind.RECEPTION in found
    assert FunctionKind.CLOCK in found or tier is Tier.AFTERMARKET
    assert {v.fate for v in judge_functions(design) if v.function.kind not in (FunctionKind.CAMERA,)} <= {Fate.KEPT}
    assert functions_for(design) == ()
    assert len(must_still_work(design)) == len(design.vehicle.functions)
    assert set(before_unplugging(design))
    radio = design.vehicle.radio.id
    assert {f.kind for f in hangs_on(design)[radio]} >= {FunctionKind.RECEPTION} & found


def test_the_words_on_file_cover_every_kind() -> None:
    table = read_toml("functions")
    assert {k.value for k in FunctionKind} == {name for name, row in table["kinds"].items() if isinstance(row, dict)}
    links = {k.value for k in FactoryLinkKind}
    for kind in FunctionKind:
        row = about(kind)
        assert set(row["travels"]) <= links, kind  # type: ignore[call-overload]
        assert str(row["test"]).endswith(".")
        assert isinstance(row["vital"], bool)
    assert set(KEPT.values()) == set(Keep)
    assert {k.value for k in KeepAlive} == {name for name, row in table["measures"].items() if isinstance(row, dict)}
    for row in table["measures"].values():
        if isinstance(row, dict):
            assert row["minutes"][0] < row["minutes"][1]
            assert row["price"][0] <= row["price"][1]
