"""Capacitors, coils and pads in line, over frequency: against ngspice, circuit theory, and what an installer would find
on the bench.
"""

from __future__ import annotations

from math import pi, sqrt
from typing import Any

import numpy as np
import pytest

from core.test_channels import DOORS, four_channels
from core.test_small_parts import TREES, with_tweeters
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.parts import Driver
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.over_frequency import HEARD_HZ, Swept
from ohmack.core.physics.filters import corner_hz
from ohmack.core.physics.pads import l_pad_ohm, padded_level_db
from ohmack.core.physics.speaker_impedance import Before, Motion, behind, falls_at_hz, speaker_ohm
from ohmack.core.planning.placing import place_part
from ohmack.core.supply.small_circuits import damping
from references import ngspice_text

TWEETER = {
    "id": "tweets", "kind": "driver", "role": "tweeter", "name": "Tweeter pair", "at_ids": ["tw-l", "tw-r"],
    "impedance_ohm": 4.0, "power_rms_w": 40.0, "sensitivity_db": 90.0, "mounting_depth_mm": 15.0, "cut_out_mm": 44.0,
    "frame_mm": 50.0, "front_height_mm": 2.0, "own_high_pass": True,
}  # fmt: skip


def part(kind: str, **values: Any) -> Edit:
    return Edit(op="add", path="parts", value={"id": kind.replace(" ", "-"), "kind": kind, "name": "Bought", **values})


def dash_and_doors(*more: Edit) -> Evaluation:
    """Small speakers in the dash joined to the door speakers' pairs of the radio."""
    design = with_tweeters()
    woofer, tweeter = (next(d for d in design.parts_of(Driver) if d.role == r) for r in ("woofer", "tweeter"))
    changed = [
        Edit(path=f"parts/{tweeter.id}/role", value="full range"),
        Edit(path=f"parts/{tweeter.id}/own_high_pass", value=False),
        Edit(path=f"parts/{woofer.id}/le_mh", value=None),
    ]
    return evaluate(apply_edits(design, [*changed, *more]))


def swept_of(evaluation: Evaluation, about: str) -> Swept:
    return next(one for one in evaluation.results.over_frequency if one.about == about)


def at_hz(swept: Swept, hz: float) -> float:
    return float(np.interp(np.log(hz), np.log(HEARD_HZ), swept.load_ohm))


def said(evaluation: Evaluation, rule: str) -> list[tuple[str, str]]:
    return [(f.severity.value, f.title) for f in evaluation.findings if f.rule == rule]


def test_a_speaker_behind_everything_is_what_a_circuit_simulator_makes_of_it() -> None:
    """Coil, resonance, capacitor, inductance and pad as one ladder, by ngspice: impedance and voltage within 0.1 %."""
    hz, re_ohm, le_h, fs, qms, qes = np.array([61.0, 90.0, 700.0, 9000.0]), 3.3, 0.4e-3, 90.0, 4.2, 0.7
    farad, henry, ohm, pad = 68e-6, 0.27e-3, 0.3, l_pad_ohm(4.0, 4.0)
    peak = re_ohm * qms / qes
    l_par, c_par = peak / (2 * pi * fs * qms), qms / (2 * pi * fs * peak)  # R, L, C beside each other: textbook
    lines = [
        "* ladder", "v1 in 0 ac 1", "vm in a 0", f"c1 a b {farad!r}", "rbig b 0 1e9", f"l1 b c {henry!r}",
        f"r1 c d {ohm!r}", f"rs d e {pad[0]!r}", f"rp e 0 {pad[1]!r}", f"re e f {re_ohm!r}", f"le f g {le_h!r}",
        f"rm g 0 {peak!r}", f"lm g 0 {l_par!r}", f"cm g 0 {c_par!r}", ".control", "set numdgt=12",
    ]  # fmt: skip
    for f in hz:
        lines += [f"ac lin 1 {f} {f}", "let z = abs(1/i(vm))", "print z", "let u = abs(v(e))", "print u"]
    measured = ngspice_text("\n".join([*lines, ".endc", ".end"]))
    own = speaker_ohm(hz, re_ohm, le_h, Motion(fs, qms, qes))
    whole, share = behind(hz, own, Before(farad, henry, ohm, pad))
    assert np.abs(whole) == pytest.approx(measured[0::2], rel=1e-3)
    assert np.abs(share) == pytest.approx(measured[1::2], rel=1e-3)


def test_resonance_is_where_and_as_high_as_its_q_say() -> None:
    """|Z| at fs is Re (1 + Qms/Qes); real there. Thiele 1971, from memory."""
    (at_fs,) = speaker_ohm(np.array([45.0]), 3.4, 0.0, Motion(45.0, 5.0, 0.5))
    assert at_fs == pytest.approx(3.4 * 11)


def test_the_corner_that_is_read_off_is_the_textbook_one_for_a_resistor() -> None:
    own = speaker_ohm(HEARD_HZ, 4.0)
    _, share = behind(HEARD_HZ, own, Before(capacitance_f=47e-6))
    level = 20 * np.log10(np.abs(share))
    assert falls_at_hz(HEARD_HZ, level) == pytest.approx(corner_hz(4.0, 47.0), rel=0.01)
    assert falls_at_hz(HEARD_HZ, np.zeros_like(HEARD_HZ)) is None
    _, damped = behind(HEARD_HZ, own, Before(pad_ohm=l_pad_ohm(6.0, 4.0)))
    assert 20 * np.log10(np.abs(damped)) == pytest.approx(padded_level_db(*l_pad_ohm(6.0, 4.0), 4.0))


def test_a_capacitor_goes_before_the_small_speakers_and_the_doors_keep_their_bass() -> None:
    """Beside a door speaker the proposal is for the small one alone; once it is in, the load where the power is is
    the door's, and 2 Ω only far up.
    """
    plain = dash_and_doors()
    rows = [r for r in plain.results.channel_loads if len(r.speakers) == 2]
    assert rows
    assert rows[0].load.value == pytest.approx(2.0)
    (entry,) = [e for e in plain.results.line_capacitors if e.row is rows[0]]
    (small,) = entry.alone
    assert small.id.startswith("tw-")
    assert entry.load is not None
    assert entry.load.value == pytest.approx(4.0)
    held = dash_and_doors(part("series capacitor", capacitance_uf=100.0, at_ids=["tw-left", "tw-right"]))
    row = next(r for r in held.results.channel_loads if len(r.speakers) == 2)
    assert row.load.value == pytest.approx(4.0)
    swept = swept_of(held, row.channel.id)
    assert at_hz(swept, 30.0) == pytest.approx(4.0, rel=0.02)
    assert at_hz(swept, 15_000.0) == pytest.approx(2.0, rel=0.02)
    dash = next(b for b in swept.branches if b.speaker.id.startswith("tw-"))
    door = next(b for b in swept.branches if b is not dash)
    assert float(np.interp(398.0, HEARD_HZ, dash.level_db)) == pytest.approx(-3.0, abs=0.05)  # 1 / (2 π 4 100 µF)
    assert door.level_db == pytest.approx(0.0, abs=1e-9)
    assert dict(said(held, "load-dips")).keys() == {"note"}
    assert not said(held, "in-line-idle")
    (corner,) = [figure for branch, figure in swept.corners if branch is dash]
    assert corner.value == pytest.approx(corner_hz(4.0, 100.0), rel=0.01)
    low = dash_and_doors(part("series capacitor", capacitance_uf=2000.0, at_ids=["tw-left", "tw-right"]))
    assert dict(said(low, "load-dips")).keys() == {"watch"}  # 20 Hz: both play where the power is


def test_a_coil_takes_the_treble_off_and_gives_the_load_back() -> None:
    """A first-order pair of L = R / ω and C = 1 / (ω R) is R at every frequency, both at −3 dB where they cross:
    textbook.
    """
    w = 2 * pi * 400.0
    coil = part("series coil", inductance_mh=1000 * 4 / w, dc_resistance_ohm=0.0, at_ids=["spk-fl", "spk-fr"])
    cap = part("series capacitor", capacitance_uf=1e6 / (4 * w), at_ids=["tw-left", "tw-right"])
    swept = dash_and_doors(coil, cap).results.over_frequency[0]
    assert swept.load_ohm == pytest.approx(4.0, rel=1e-6)
    assert swept.least.value == pytest.approx(4.0)
    for branch in swept.branches:
        assert float(np.interp(400.0, HEARD_HZ, branch.level_db)) == pytest.approx(20 * np.log10(1 / sqrt(2)), abs=0.1)


def test_the_inductance_of_a_coil_lifts_its_load_in_the_treble() -> None:
    """|R + jωL| by hand: 4 Ω and 1 mH are 12.7 Ω at 1,917 Hz and more above; the lowest load is what it was."""
    cap = part("series capacitor", capacitance_uf=4700.0, at_ids=["tw-left", "tw-right"])
    plain = dash_and_doors(cap)
    woofer = next(d for d in plain.design.parts_of(Driver) if d.role == "woofer")
    bare = [Edit(path=f"parts/{woofer.id}/{name}", value=None) for name in ("fs_hz", "qms", "qes")]
    plain = evaluate(apply_edits(plain.design, bare))
    lifted = evaluate(apply_edits(plain.design, [Edit(path=f"parts/{woofer.id}/le_mh", value=1.0)]))
    hz = 1917.0
    door = abs(complex(4.0, 2 * pi * hz * 1e-3))
    assert door == pytest.approx(12.7, rel=0.01)
    before, after = (at_hz(one.results.over_frequency[0], hz) for one in (plain, lifted))
    dash = 1 / (1 / before - 1 / 4.0)  # what hangs beside the door speaker, alone
    together = abs(1 / (1 / dash + 1 / complex(4.0, 2 * pi * hz * 1e-3)))
    assert after == pytest.approx(together, rel=0.02)
    assert after > before * 1.2


def amplified(estate: Design, **changes: Any) -> Design:
    """Doors on two channels of four, each with a tweeter beside it that brings its own capacitor."""
    design = four_channels(estate)
    adding = [
        Edit(op="add", path="vehicle/speakers", value={
            "id": f"tw-{side}", "name": f"Tweeter {side}", "position": {"x_m": 1.5, "y_m": y}, "place": "dash",
            "impedance_ohm": {"value": 4.0, "basis": "documented"}, "new_place": True,
        })
        for side, y in (("l", -0.7), ("r", 0.7))
    ]  # fmt: skip
    design = apply_edits(design, [*adding, Edit(op="add", path="parts", value={**TWEETER, **changes})])
    doors = {k.to_id: k for k in evaluate(design).results.design.links if k.kind == "speaker"}
    beside = [
        Edit(op="add", path="links", value={
            "id": f"beside-{s}", "kind": "speaker", "from_id": doors[f"spk-f{s}"].from_id, "to_id": f"tw-{s}",
            "channel": doors[f"spk-f{s}"].channel,
        })
        for s in "lr"
    ]  # fmt: skip
    return apply_edits(design, beside)


def test_a_tweeter_with_a_capacitor_of_its_own_is_no_load_for_the_woofers_channel(estate: Design) -> None:
    """4 Ω with the tweeter beside; without its capacitor 2 Ω. Common practice: coaxials are built so."""
    with_own, without = (evaluate(amplified(estate, own_high_pass=own)).results for own in (True, False))
    own, bare = (
        next(out for out in r.loads if out.driven[0].id in ("spk-fl",) or out.link.to_id == "spk-fl")
        for r in (with_own, without)
    )
    assert own.load.value == pytest.approx(DOORS["impedance_ohm"])
    assert [d.id for d in own.beside] == ["tw-l"]
    assert "Tweeter" in own.driven_name
    assert bare.load.value == pytest.approx(2.0)
    assert not bare.beside
    assert all(cable.current.value for cable in with_own.cables)  # a cable of its own to each
    swept = next(s for s in with_own.over_frequency if s.about == own.link.id)
    assert at_hz(swept, 40.0) == pytest.approx(4.0, rel=0.02)
    assert at_hz(swept, 19_000.0) == pytest.approx(2.0, rel=0.05)  # far over the tweeter's corner both are a load
    levels = {b.speaker.id: b for b in swept.branches}
    assert levels["tw-l"].corner_hz == pytest.approx(3000.0, rel=0.02)  # the usual corner: common practice
    assert levels["tw-l"].in_line.usual_hz == 3000.0


@pytest.mark.parametrize(("takes_w", "severity"), [(60.0, None), (20.0, "note")])
def test_what_hangs_beside_is_judged_by_the_whole_voltage(estate: Design, takes_w: float, severity: str | None) -> None:
    """V² / Z: a 4 Ω tweeter beside a 4 Ω door gets the door's watts over its corner (textbook); music has little power
    up there, so a tweeter is a note.
    """
    evaluation = evaluate(amplified(estate, power_rms_w=takes_w))
    one = next(one for one in evaluation.results.beside if one.driven.id == "tw-l")
    assert one.power.value == pytest.approx(one.load.power.value)
    assert one.match.value == pytest.approx(100 * one.load.power.value / takes_w)
    found = [f.severity.value for f in evaluation.findings if f.rule == "beside-power"]
    assert found == ([severity] if severity else [])


def test_what_brings_a_crossover_for_its_tweeter_alone_is_a_load(estate: Design) -> None:
    """A coaxial's own capacitor lets its woofer play: two of 4 Ω are 2 Ω. Of a full-range driver it holds all back."""
    for role, ohm in (("coaxial", 2.0), ("woofer", 2.0), ("full range", 4.0)):
        results = evaluate(amplified(estate, role=role)).results
        assert next(x for x in results.loads if x.link.to_id == "spk-fl").load.value == pytest.approx(ohm)


def test_resonance_on_file_moves_the_corner(estate: Design) -> None:
    """The first-order formula is for a resistor; a tweeter that resonates at its corner is not one."""
    motion = {"fs_hz": 1200.0, "qms": 3.0, "qes": 1.0}
    results = evaluate(amplified(estate, own_high_pass=False, **motion)).results
    assert not results.over_frequency  # nothing in line
    cap = part("series capacitor", capacitance_uf=33.0, at_ids=["tw-l", "tw-r"])
    results = evaluate(apply_edits(amplified(estate, own_high_pass=False, **motion), [cap])).results
    branch = next(b for s in results.over_frequency for b in s.branches if b.speaker.id == "tw-l")
    assert branch.modelled
    assert branch.comes_back is None
    low = part("series capacitor", capacitance_uf=220.0, at_ids=["tw-l", "tw-r"])
    lifted = evaluate(apply_edits(amplified(estate, own_high_pass=False, fs_hz=125.0, qms=4.1, qes=0.9), [low]))
    branch_low = next(b for s in lifted.results.over_frequency for b in s.branches if b.speaker.id == "tw-l")
    assert branch_low.comes_back is not None
    hz, level_db = branch_low.comes_back
    assert hz < 125.0 < corner_hz(4.0, 220.0)  # C and the mass side of the resonance
    assert level_db > 0
    assert said(lifted, "resonance-lifts")
    assert branch.corner_hz is not None
    assert branch.corner_hz < 0.9 * corner_hz(4.0, 33.0)


def test_what_is_bought_is_placed_and_said(estate: Design) -> None:
    """From the catalogue: in line with nothing until it is said where, then it counts."""
    design = amplified(estate)
    tree = next(t for t in TREES.values() if t["kind"] == "series coil")
    design = apply_edits(design, place_part(design, dict(tree)))
    assert said(evaluate(design), "in-line-idle")
    coil = next(p for p in design.parts if p.kind == "series coil")
    placed = apply_edits(design, [Edit(path=f"parts/{coil.id}/at_ids", value=["spk-fl", "spk-fr"])])
    assert not said(evaluate(placed), "in-line-idle")
    weak = apply_edits(placed, [Edit(path=f"parts/{coil.id}/rated_w", value=5.0)])
    assert [severity for severity, _ in said(evaluate(weak), "coil-power")] == ["watch"]


def test_damping_is_the_load_over_all_that_is_in_series(estate: Design) -> None:
    """4 Ω over 0.1 Ω of wire and 4 Ω / 100 of amplifier is 28.6; without the amplifier's figure 40 at most. Textbook
    circuit theory; makers state the factor for 4 Ω (common practice).
    """
    assert damping(0.1, 4.0, 100.0) == pytest.approx(4.0 / 0.14)
    assert damping(0.1, 4.0) == pytest.approx(40.0)
    for factor in (None, 100.0):
        design = apply_edits(estate, [Edit(path="parts/amp/damping_factor", value=factor)])
        (cable,) = evaluate(design).results.cables
        wire_ohm, load_ohm = cable.there_and_back_ohm, cable.loss.inputs[1].value
        assert cable.damping.value == pytest.approx(load_ohm / (wire_ohm + (4.0 / factor if factor else 0.0)))


def test_terminals_near_metal_by_hole_or_by_depth(estate: Design) -> None:
    """Under 3 mm round the basket, or under 8 behind the magnet, in steel; else nothing is said. Common practice."""

    def near(hole_mm: float, depth_mm: float) -> list[str]:
        edits = [Edit(op="add", path="parts", value=DOORS)]
        for side in "lr":
            for name, value in (("cut_out_mm", hole_mm), ("depth_mm", depth_mm), ("window_depth_mm", depth_mm)):
                fact = {"value": value, "basis": "measured", "how": "by meter"}
                edits.append(Edit(path=f"vehicle/speakers/spk-f{side}/{name}", value=fact))
        found = evaluate(apply_edits(estate, edits)).findings
        return [f.text for f in found if f.rule == "terminals-near-metal"]

    wide = DOORS["cut_out_mm"] + 12.0
    assert not near(wide, DOORS["mounting_depth_mm"] + 20.0)
    (round_it,) = near(DOORS["cut_out_mm"] + 4.0, DOORS["mounting_depth_mm"] + 20.0)
    assert round_it.startswith("2 mm round the basket")
    (behind_it,) = near(wide, DOORS["mounting_depth_mm"] + 5.0)
    assert behind_it.startswith("5 mm behind the magnet")


def test_free_channels_are_named(estate: Design) -> None:
    design = four_channels(estate)
    door = next(k.id for k in design.links if k.kind == "speaker" and k.to_id == "spk-fr")
    freed = apply_edits(design, [Edit(op="remove", path=f"links/{door}")])
    (note,) = [f for f in evaluate(freed).findings if f.rule == "channels-unused"]
    assert "1 channel of 4 drives nothing" in note.title
    assert note.text.startswith("Channel 2.")


def test_a_capacitor_of_the_old_pair_is_not_in_the_amplifiers_way(estate: Design) -> None:
    """In line with the car's front pairs, which the doors have left for the amplifier: in nobody's way any more."""
    pairs = [s.channel_id for s in estate.vehicle.speakers if s.id in ("spk-fl", "spk-fr")]
    cap = part("series capacitor", capacitance_uf=100.0, at_ids=pairs)
    assert not evaluate(apply_edits(four_channels(estate), [cap])).results.over_frequency
