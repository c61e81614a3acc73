"""Properties that hold for whatever car and parts: monotone answers, honest choosers, a worked example by hand."""

from __future__ import annotations

import math
from collections.abc import Iterator
from contextlib import suppress

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from pydantic import BaseModel

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.facts import Fact
from ohmack.core.document.paths import replace
from ohmack.core.errors import OhmackError
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.physics.conductors import conductor, sizes
from ohmack.core.supply.results import SupplyResult
from ohmack.core.wording import amount, listed, trimmed
from ohmack.demo.jobs import demo_design, demo_jobs

ESTATE = demo_design(0)


def varied(**values: float) -> Design:
    paths = {
        "length": "links/power-amp/tape_length_m/value", "ground": "links/ground-amp/tape_length_m/value",
        "body": "vehicle/supply/body_return_ohm/value", "source": "vehicle/supply/post_running_v/value",
        "limit": "policy/drop_limit_v", "headroom": "policy/fuse_headroom", "efficiency": "policy/efficiency_class_d",
        "terminal": "parts/amp/terminal_area_max_mm2", "lowest": "parts/amp/lowest_load_ohm",
    }  # fmt: skip
    design = ESTATE
    for name, value in values.items():
        design = replace(design, paths[name], value)
    return design


def laid(design: Design) -> Design:
    for link in ("power-amp", "ground-amp"):
        design = replace(design, f"links/{link}/wire/size", "2 AWG")
    return design


def supply_of(design: Design) -> SupplyResult:
    return evaluate(design).results.supplies[0]


lengths, grounds, bodies = st.floats(0.5, 12), st.floats(0.1, 2), st.floats(0, 0.02)
sources, limits = st.floats(11, 15), st.floats(0.15, 1.2)


@given(lengths, grounds, bodies, sources, limits)
def test_the_chooser_is_honest(length: float, ground: float, body: float, source: float, limit: float) -> None:
    """What it takes meets every limit by a second calculation; what it refuses breaks one; when nothing fits it says
    why.
    """
    supply = supply_of(varied(length=length, ground=ground, body=body, source=source, limit=limit))
    chosen = supply.chosen
    assert chosen
    for c in supply.candidates:
        if c.drop_v is None or c.current_a is None:
            continue
        joints = 4 * 0.00015 + 0.07 / c.fuse_a + 0.0004 + body
        loop = joints + c.wire.resistance_ohm_per_m * (length + ground)
        assert c.drop_v == pytest.approx(c.current_a * loop, rel=1e-9)
        assert c.current_a * (source - c.drop_v) == pytest.approx(500 / 0.8 + 0.8 * (source - c.drop_v), rel=1e-9)
        hot_loop = joints + c.wire.resistance_ohm_per_m * (length + ground) * (1 + 0.00393 * 40)
        if c.hot_drop_v is not None:  # the power balance closes with the wire at 60 °C too
            hot_v = source - c.hot_drop_v
            assert c.hot_drop_v / hot_loop * hot_v == pytest.approx(500 / 0.8 + 0.8 * hot_v, rel=1e-9)
        hot = c.hot_drop_v is None or c.hot_drop_v > limit + 1e-9
        breaks = hot or c.fuse_a > c.ampacity_a or c.wire.area_mm2 > 21.2 * 1.005 or not c.fuse_fits
        assert c.fits != breaks, (c.wire.label, c.reason)
    fitting = [c for c in supply.candidates if c.fits]
    if fitting:
        assert chosen is min(fitting, key=lambda c: c.wire.area_mm2)
        assert not supply.limit
    else:
        assert supply.limit
        stops = [
            f
            for f in evaluate(varied(length=length, ground=ground, body=body, source=source, limit=limit)).findings
            if f.severity is Severity.STOP or f.title.startswith("Hot, the loss passes")
        ]
        assert stops


@given(lengths, st.floats(1.01, 2), bodies)
def test_longer_runs_never_take_thinner_wire(length: float, factor: float, body: float) -> None:
    """What no wire carries over some way none carries over a longer one; where one does, it is never a thinner one."""
    near, far = (supply_of(varied(length=each, body=body)) for each in (length, length * factor))
    assert near.chosen
    assert far.chosen
    if not far.limit:
        assert not near.limit
        assert far.chosen.wire.area_mm2 >= near.chosen.wire.area_mm2
    same = next(c for c in far.candidates if c.wire.label == near.chosen.wire.label)
    if same.drop_v is not None and same.fuse_a == near.chosen.fuse_a:  # a larger fuse loses less in itself
        assert same.drop_v > (near.chosen.drop_v or 0)


@given(st.floats(0.4, 1.0), st.floats(0.5, 1.0))
def test_less_efficiency_never_draws_less(low: float, high: float) -> None:
    """On one and the same wire: left to itself, the lower current may take a thinner one and lose more on it."""
    assume(low < high)
    a, b = (supply_of(laid(varied(efficiency=efficiency))) for efficiency in (low, high))
    assert (a.figures["current"].value or 0) > (b.figures["current"].value or 0)
    assert (a.figures["fuse"].value or 0) >= (b.figures["fuse"].value or 0)


@given(st.lists(st.sampled_from([1.0, 2.0, 4.0, 8.0]), min_size=1, max_size=3), st.sampled_from([1.0, 2.0, 4.0]))
def test_the_best_wiring_is_permitted_whenever_one_is(coils: list[float], lowest: float) -> None:
    design = apply_edits(
        ESTATE,
        [
            Edit(path="parts/sub/coils", value=[{"impedance_ohm": z} for z in coils]),
            Edit(path="parts/amp/lowest_load_ohm", value=lowest),
        ],
    )
    load = evaluate(design).results.loads[0]
    best = next(o for o in load.options if o.best)
    usable = [o for o in load.options if o.permitted and o.load_ohm >= 2.0 - 1e-9]  # the papers rate from 2 ohm
    assert (best.power_w is not None) == bool(usable)
    if usable and load.chosen.power_w:
        inside = [o for o in usable if o.match and 0.75 <= o.match <= 1.5]
        assert not inside or best in inside
        assert sum(w for _, w in load.chosen.coil_power_w) == pytest.approx(load.chosen.power_w)


@given(st.floats(3, 40), st.floats(0.5, 60), st.floats(0, 10), st.floats(-20, 0))
def test_signal_figures_agree_with_each_other(source: float, limit: float, overlap: float, tone: float) -> None:
    design = apply_edits(
        ESTATE,
        [
            Edit(path="policy/overlap_db", value=overlap),
            Edit(path="policy/tone_dbfs", value=tone),
            Edit(path="parts/converter/input_limit_v", value=limit),
        ],
    )
    design = replace(design, "vehicle/radio/source_voltage_v/value", source)
    evaluation = evaluate(design)
    f = {k.split("/")[1]: v.value for k, v in evaluation.figures.items() if k.startswith("amp/")}
    assert f["target_v"] <= f["full_target_v"] * (1 + 1e-9)
    # the gain found from the tone equals the gain implied by the sensitivity: V_limit over V_sensitivity, while
    # nothing caps
    if tone + overlap <= 0:
        assert 10 ** (f["gain_db"] / 20) == pytest.approx(f["clip_v"] / f["sensitivity_v"], rel=1e-6)
    overloaded = any(x.rule == "converter-overloaded" and "into a converter" in x.title for x in evaluation.findings)
    assert overloaded == (source > limit)


def test_the_estate_by_hand() -> None:
    """A worked example on paper: 500 W class D at 80 %, 5.4 m of 4 AWG, 0.45 m ground, 1.3 + 0.4 milliohm back."""
    per_m = 1.7241e-8 / (math.pi / 4 * (0.127e-3 * 92 ** (32 / 39)) ** 2)
    loop = 4 * 0.15e-3 + 0.07 / 60 + per_m * 5.85 + 1.3e-3 + 0.4e-3
    volts = 14.2
    for _ in range(200):  # iterated on paper; far from the fold it settles at once
        volts = 14.2 - loop * (500 / (0.8 * volts) + 0.8)
    figures = evaluate(ESTATE).figures
    assert figures["amp/at_amplifier_v"].value == pytest.approx(volts, abs=1e-9)
    assert figures["amp/wire"].value == "4 AWG"
    assert figures["amp/fuse_a"].value == 60
    hot = loop + per_m * 5.85 * 0.00393 * 40
    for _ in range(200):
        volts = 14.2 - hot * (500 / (0.8 * volts) + 0.8)
    assert figures["amp/hot_drop_v"].value == pytest.approx(14.2 - volts, abs=1e-9)
    # engine off: 12.61 V less half of 5.4 V / 560 A (SAE J537 from memory, the half common practice)
    rest, sag = 12.61, loop + 5.4 / 560 / 2
    for _ in range(400):
        rest = 12.61 - sag * (500 / (0.8 * rest) + 0.8)
    assert figures["amp/resting_v"].value == pytest.approx(rest, abs=1e-9)


@given(st.sampled_from([c.label for c in sizes("AWG")]), st.sampled_from([10.0, 30.0, 60.0, 100.0, 250.0, 500.0]))
def test_any_fixed_wire_and_fuse_is_judged_as_the_tables_say(label: str, rating: float) -> None:
    design = apply_edits(
        ESTATE,
        [Edit(path="links/power-amp/wire/size", value=label), Edit(path="links/power-amp/fuse/rating_a", value=rating)],
    )
    evaluation = evaluate(design)
    rules = {f.rule for f in evaluation.findings if f.severity is Severity.STOP}
    assert ("fuse-above-ampacity" in rules) == (rating > 0.85 * conductor(label).ampacity_a)
    current = evaluation.figures["amp/current_a"].value
    if current is not None:
        assert ("fuse-below-current" in rules) == (rating < current)
    assert ("terminal-too-small" in rules) == (conductor(label).area_mm2 > 21.2 * 1.005)


@given(st.floats(-1e4, 1e4), st.sampled_from(["v", "a", "ohm", "m", "w", "db", "percent", "hz", ""]))
def test_amounts_are_short_and_honest(value: float, unit: str) -> None:
    text = amount(value, unit)
    assert len(text) < 20
    assert "e" not in text.split(" ")[0]
    scale = {"mΩ": 0.001, "mV": 0.001, "kΩ": 1000.0}.get(text.split(" ")[-1], 1.0)
    number = float(text.split(" ")[0].replace("−", "-")) * scale
    assert number == pytest.approx(value, rel=0.006, abs=0.51 if unit == "percent" else 0.051)


def test_words() -> None:
    assert listed(["a"]) == "a"
    assert listed(["a", "b", "c"]) == "a, b and c"
    assert amount(4.9784, "m", "ft") == "16 ft 4 in"
    assert amount(0.1, "m", "ft") == "4 in"
    assert trimmed(-2.50) == "−2.5"


def numbers(here: BaseModel, path: str = "") -> Iterator[tuple[str, str]]:
    """Every number of a design, or place for one: what it is, and where."""
    for name, value in here:
        at = f"{path}/{name}" if path else name
        if isinstance(value, Fact):
            if value.value is None or type(value.value) in (int, float):
                yield f"{type(here).__name__} {name}", f"{at}/value"
        elif isinstance(value, BaseModel):
            yield from numbers(value, at)
        elif isinstance(value, tuple):
            for item in value:
                if isinstance(item, BaseModel) and hasattr(item, "id"):
                    yield from numbers(item, f"{at}/{item.id}")
        elif value is None or type(value) in (int, float):
            yield f"{type(here).__name__} {name}", at


def test_whatever_number_may_be_written_down_is_judged_or_refused_in_words() -> None:
    """Nothing, next to nothing, and far too much, in every place there is for a number."""
    seen: set[str] = set()
    for number in range(len(demo_jobs())):
        design = demo_design(number)
        for what, path in numbers(design):
            if what in seen or path.startswith(("work", "proof", "handover")):
                continue
            seen.add(what)
            for value in (0.0, 1e-9, 20000.0):
                with suppress(OhmackError):
                    evaluate(apply_edits(design, [Edit(path=path, value=value)]))
    assert len(seen) > 300
