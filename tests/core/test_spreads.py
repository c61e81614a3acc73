"""Subwoofers spread over the channels of an amplifier, single and bridged."""

from __future__ import annotations

from itertools import permutations, product

import pytest

from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits, read_tree
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.loads.spreads import edits_of, spreads
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.everyday_jobs import picked

SUB = "Morrowick 10 D4"
RATED = {
    "channel_count": 4, "ratings": [{"load_ohm": 2.0, "power_w": 150.0}, {"load_ohm": 4.0, "power_w": 100.0}],
    "lowest_load_ohm": 2.0, "bridged_ratings": [{"load_ohm": 4.0, "power_w": 300.0}], "lowest_bridged_ohm": 4.0,
}  # fmt: skip


def subs_on_four(estate: Design, many: int, *ohms: float, takes_w: float = 150.0) -> Design:
    """So many subwoofers, of coils of these impedances, all on the first channel."""
    coils = [{"impedance_ohm": ohm} for ohm in ohms]
    tree = estate.model_dump(mode="json")
    next(part for part in tree["parts"] if part["id"] == "amp").update(RATED)
    edits = [Edit(path="parts/sub/coils", value=coils), Edit(path="parts/sub/power_rms_w", value=takes_w)]
    edits.append(Edit(path="links/speaker-sub/wiring", value=""))
    for n in range(2, many + 1):
        part = {"kind": "subwoofer", "id": f"sub{n}", "name": f"Sub {n}", "coils": coils, "power_rms_w": takes_w}
        link = {"id": f"speaker-sub{n}", "kind": "speaker", "from_id": "amp", "to_id": f"sub{n}", "channel": 1}
        edits += [Edit(op="add", path="parts", value=part), Edit(op="add", path="links", value=link)]
    return apply_edits(read_tree(tree), edits)


def test_four_single_coils_spread_as_counting_by_hand_says(estate: Design) -> None:
    """Every way to put four 4 Ω drivers on the outputs of two bridgeable pairs, outputs of a kind interchangeable:
    a channel from 2 Ω and a bridge from 4 Ω take how many, by series and parallel (textbook).
    """
    design = subs_on_four(estate, 4, 4.0, takes_w=100.0)
    (load,) = evaluate(design).results.amplifier_loads
    found = spreads(design, load)
    by_hand = set()
    for bridged in ((False, False), (True, False), (True, True)):
        outputs = [kind for pair in bridged for kind in ((True,) if pair else (False, False))]
        for counts in product(range(5), repeat=len(outputs)):
            if sum(counts) == 4:  # some network of one to four equal drivers is high enough on either
                used = sorted((kind, many) for kind, many in zip(outputs, counts, strict=True) if many)
                by_hand.add(tuple(used))
    shown = {tuple(sorted((o.bridged, len(names)) for o, names, _ in one.outputs)) for one in found}
    assert shown == by_hand
    assert [one.chosen for one in found].count(True) == 1
    for one in found:
        for output, _, option in one.outputs:
            assert option.load_ohm >= (4.0 if output.bridged else 2.0) * (1 - 1e-9)
    best = found[0]
    assert best.least == pytest.approx(best.most)
    assert best.power_w == max(
        one.power_w for one in found if one.least and one.most and one.least >= 0.75 and one.most <= 1.5
        and one.most <= 1.2 * one.least
    )  # fmt: skip


@pytest.mark.parametrize(("many", "ohms"), [(4, (4.0, 4.0)), (6, (2.0, 2.0)), (3, (4.0,))])
def test_a_spread_taken_gives_what_it_said(estate: Design, many: int, ohms: tuple[float, ...]) -> None:
    """Loads, power and every driver's share of the list are those of the plan after the press."""
    design = subs_on_four(estate, many, *ohms)
    (load,) = evaluate(design).results.amplifier_loads
    found = spreads(design, load)
    assert found
    for one in found[:6]:
        after = evaluate(apply_edits(design, edits_of(design, one)))
        now = sorted((round(r.chosen.load_ohm, 6), r.link.bridged, len(r.links)) for r in after.results.loads)
        said = sorted((round(option.load_ohm, 6), out.bridged, len(names)) for out, names, option in one.outputs)
        assert now == said
        (again,) = after.results.amplifier_loads
        assert again.power.value == pytest.approx(one.power_w)
        assert next(row for row in spreads(after.design, again) if row.chosen).words == one.words


def test_what_plays_in_stereo_is_never_moved(estate: Design) -> None:
    """Door speakers have a side: only subwoofers are spread, and only where an amplifier has several channels."""
    (mono,) = evaluate(estate).results.amplifier_loads
    assert spreads(estate, mono) == ()
    design = subs_on_four(estate, 2, 4.0)
    door = {"id": "speaker-door", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": 3}
    mixed = apply_edits(design, [Edit(op="add", path="links", value=door)])
    (load,) = evaluate(mixed).results.amplifier_loads
    assert spreads(mixed, load) == ()


def test_channels_that_drive_nothing_are_said_with_what_a_bridge_brings(estate: Design) -> None:
    """One 4 Ω driver on the first of four channels: bridged it may have 300 W; a 2 Ω one may not be bridged."""

    def said(ohm: float) -> str:
        findings = evaluate(subs_on_four(estate, 1, ohm)).findings
        (found,) = (f for f in findings if f.rule == "channels-unused")
        return f"{found.title} {found.text}"

    assert "3 channels of 4 drive nothing" in said(4.0)
    assert "Channels 2, 3 and 4." in said(4.0)
    assert "Bridged, Morrowick 10 D4 would get up to 300 W" in said(4.0)
    assert "Bridged" not in said(2.0)


def test_further_subwoofers_join_the_first_in_any_order() -> None:
    """Two of 2 × 4 Ω on one channel from 1 Ω, on a bridge from 4 Ω, and beside an amplifier with a free channel: each
    time both play from one output, whichever is picked first. Common practice.
    """
    for amplifier, place in (
        ("Tessel M1200", (1, False)),
        ("Tessel Two 200", (1, True)),
        ("Tessel Four 70", (3, True)),
    ):
        for names in permutations((amplifier, SUB, SUB)):
            design = new_design("", new_vehicle("A", "B", 2010, Body.SALOON, Hand.LEFT), Intake(), Policy())
            _, design = picked(design, names)
            links = design.links_of(SpeakerLink)
            assert [(k.channel, k.bridged) for k in links] == [place, place], (names, list(design.links))
    first = new_design("", new_vehicle("A", "B", 2010, Body.SALOON, Hand.LEFT), Intake(), Policy())
    _, apart = picked(first, (SUB, SUB, "Tessel M500"))
    assert [k.channel for k in apart.links_of(SpeakerLink)] == [1, 1]


def test_a_second_amplifier_that_waits_gets_the_second_subwoofer() -> None:
    first = new_design("", new_vehicle("A", "B", 2010, Body.SALOON, Hand.LEFT), Intake(), Policy())
    _, design = picked(first, ("Tessel M500", "Tessel M500", SUB, SUB))
    assert {k.from_id for k in design.links_of(SpeakerLink)} == {"amp", "amp-2"}
