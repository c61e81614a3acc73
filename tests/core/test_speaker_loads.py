"""Loads against published sequences, ngspice, a nodal solution, handbook values and trade facts."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.errors import OutOfRange
from ohmack.core.loads.wiring_words import NamedDriver, words_of
from ohmack.core.physics.grouped_wirings import grouped_wirings
from ohmack.core.physics.speaker_loads import Coil, Wiring, power_voltage_v, rated_power_w, structure_of, wirings
from references import ngspice


def equal(n: int, ohm: float = 1.0) -> list[Coil]:
    return [Coil(f"{i}", ohm, 0.85 * ohm) for i in range(n)]


def test_counts_are_the_published_sequences() -> None:
    # OEIS A000084: series-parallel networks of n equal edges; OEIS A048211: their distinct resistances.
    for n, networks, resistances in ((1, 1, 1), (2, 2, 2), (3, 4, 4), (4, 10, 9), (5, 24, 22), (6, 66, 53)):
        found = wirings(equal(n))
        assert len(found) == networks
        assert len({round(w.resistance_ohm(), 9) for w in found}) == resistances


def test_dual_four_ohm_is_two_or_eight_never_four() -> None:
    # Common practice, no source; and two 4 ohm coils in parallel read 1.7 ohm on a meter.
    found = wirings(equal(2, 4.0))
    assert [w.resistance_ohm() for w in found] == [2.0, 8.0]
    assert found[0].resistance_ohm(dc=True) == pytest.approx(1.7)


def test_shares_against_ngspice() -> None:
    a, b, c, d = (Wiring("coil", coil=Coil(n, z)) for n, z in (("a", 4), ("b", 2), ("c", 4), ("d", 8)))
    network = Wiring("parallel", (Wiring("series", (a, b)), c, d))
    net, *powers = ngspice("loads.cir")
    assert network.resistance_ohm() == pytest.approx(net, rel=1e-6)
    total = 400 / net
    for name, watts in zip("abcd", powers, strict=True):
        assert network.shares()[name] * total == pytest.approx(watts, rel=1e-6)


def nodal_resistance(wiring: Wiring) -> float:
    """The same network by nodal analysis, a second route."""
    edges: list[tuple[int, int, float]] = []
    count = 2

    def lay(w: Wiring, top: int, bottom: int) -> None:
        nonlocal count
        if w.coil is not None:
            edges.append((top, bottom, 1 / w.coil.impedance_ohm))
        elif w.kind == "parallel":
            for part in w.parts:
                lay(part, top, bottom)
        else:
            here = top
            for i, part in enumerate(w.parts):
                there = bottom if i == len(w.parts) - 1 else count
                count += there == count
                lay(part, here, there)
                here = there

    lay(wiring, 0, 1)
    y = np.zeros((count, count))
    for i, j, g in edges:
        y[[i, j], [i, j]] += g
        y[i, j] -= g
        y[j, i] -= g
    keep = [k for k in range(count) if k != 1]
    inject = np.zeros(len(keep))
    inject[0] = 1
    return float(np.linalg.solve(y[np.ix_(keep, keep)], inject)[0])


@given(st.lists(st.floats(0.5, 16), min_size=1, max_size=4))
def test_every_network_by_nodal_analysis(impedances: list[float]) -> None:
    found = wirings([Coil(f"{i}", z) for i, z in enumerate(impedances)])
    assert len({w.key() for w in found}) == len(found)
    for w in found:
        assert w.resistance_ohm() == pytest.approx(nodal_resistance(w), rel=1e-9)
        assert sum(w.shares().values()) == pytest.approx(1)
        assert set(w.shares()) == {f"{i}" for i in range(len(impedances))}
    assert found[-1].resistance_ohm() == pytest.approx(sum(impedances))


def test_unequal_drivers_share_by_impedance() -> None:
    # Common practice, no source: inverse to impedance in parallel, in proportion in series.
    low, high = wirings([Coil("woofer", 4), Coil("small", 8)])
    assert low.shares()["woofer"] == pytest.approx(2 / 3)
    assert high.shares()["small"] == pytest.approx(2 / 3)


def test_voltage_of_power_against_handbook_values() -> None:
    # sqrt(P Z), the table every installer's card carries (common practice, no source).
    for watts, ohm, volts in (
        (50, 4, 14.14),
        (100, 4, 20.0),
        (250, 2, 22.36),
        (500, 2, 31.62),
        (500, 1, 22.36),
        (75, 4, 17.32),
    ):
        assert power_voltage_v(watts, ohm) == pytest.approx(volts, abs=0.005)
    # A plain radio channel gives roughly 9 V, about 20 W into 4 ohm (common practice).
    assert pytest.approx(20, abs=0.5) == 9.0**2 / 4
    assert power_voltage_v(20.25, 4) == pytest.approx(9)


def test_rating_table_is_straight_in_logs_and_never_reaches_below() -> None:
    rows = [(2.0, 500.0), (4.0, 310.0)]
    assert rated_power_w(rows, 2.0) == 500
    assert rated_power_w(rows, 4.0) == 310
    assert all(rated_power_w([(2.0, 60.0), (4.0, 45.0)], ohm) == w for ohm, w in ((2.0, 60.0), (4.0, 45.0)))
    assert rated_power_w(rows, 8**0.5) == pytest.approx((500 * 310) ** 0.5)  # the middle of both logs
    assert rated_power_w(rows, 8.0) == pytest.approx(155)  # constant voltage above: half per doubling
    with pytest.raises(OutOfRange, match="lowest rated"):
        rated_power_w(rows, 1.99)


@pytest.mark.parametrize("bad", [[], [Coil("a", 0.0)], [Coil("a", -4)], [Coil("a", float("nan"))], equal(7)])
def test_impossible_sets_are_refused(bad: list[Coil]) -> None:
    with pytest.raises(OutOfRange):
        wirings(bad)


def dual(letter: str, ohm: float, takes_w: float = 100.0, coils: int = 2) -> list[Coil]:
    return [Coil(f"{letter}{n + 1}", ohm, 0.85 * ohm, takes_w / coils) for n in range(coils)]


def test_many_coils_are_grouped_by_driver_and_every_network_of_equal_drivers_is_there() -> None:
    """OEIS A000084 once more, with the two ways of a dual coil inside each: 2 × 10 networks of four drivers."""
    found = grouped_wirings([dual(letter, 4.0) for letter in "ABCD"])
    assert len(found) == 2 * 10
    loads = [w.resistance_ohm() for w in found]
    assert loads == sorted(loads)
    assert {0.5, 2.0, 8.0, 32.0} <= {round(load, 9) for load in loads}
    for w in found:
        assert sum(w.shares().values()) == pytest.approx(1)
        assert w.resistance_ohm() == pytest.approx(nodal_resistance(w), rel=1e-9)
    small = grouped_wirings([dual("A", 4.0), dual("B", 2.0)])
    every = {w.key() for w in small}
    assert len(every) == len(small) == 2 * 2 * 2
    # six coils wired freely hold every wiring that keeps three drivers together
    free = {round(w.resistance_ohm(), 9) for w in wirings([c for x in "ABC" for c in dual(x, 4.0)])}
    assert {round(w.resistance_ohm(), 9) for w in grouped_wirings([dual(x, 4.0) for x in "ABC"])} <= free
    eight = grouped_wirings([[Coil(letter, 4.0, 3.4)] for letter in "ABCDEFGH"])  # more than six stand in equal rows
    assert sorted({w.resistance_ohm() for w in eight}) == pytest.approx([0.5, 2.0, 8.0, 32.0])
    assert len(eight) == 6
    with pytest.raises(OutOfRange, match="1 to 16"):
        grouped_wirings([dual(x, 4.0, coils=4) for x in "ABCDE"])


@given(st.permutations("abcd"), st.integers(0, 200))
def test_a_wiring_is_the_same_however_its_parts_are_written(order: list[str], which: int) -> None:
    """Renaming equal coils changes the key, not the structure; another network has another."""
    found = wirings(equal(4))
    one = found[which % len(found)]
    kinds = dict.fromkeys("abcd", "x")
    renamed = "".join(order[int(c)] if c.isdigit() else c for c in one.key())
    plain = "".join("abcd"[int(c)] if c.isdigit() else c for c in one.key())
    assert structure_of(renamed, kinds) == structure_of(plain, kinds) != ""
    others = {structure_of("".join("abcd"[int(c)] if c.isdigit() else c for c in w.key()), kinds) for w in found}
    assert len(others) == len(found)
    assert structure_of("series(a,z)", kinds) == structure_of("series(a", kinds) == structure_of("a)b(", kinds) == ""


def test_words_say_what_is_done_with_coils_and_drivers_by_name() -> None:
    drivers = [NamedDriver("Left", ("A1", "A2")), NamedDriver("Right", ("B1", "B2"))]
    said = {words_of(w, drivers) for w in grouped_wirings([dual("A", 4.0), dual("B", 4.0)])}
    assert said == {
        "everything in parallel", "coils in series, drivers in parallel", "coils in parallel, drivers in series",
        "everything in series",
    }  # fmt: skip
    unlike = [NamedDriver("Woofer", ("A",)), NamedDriver("Left", ("B",)), NamedDriver("Right", ("C",))]
    words = [words_of(w, unlike) for w in wirings([Coil("A", 4), Coil("B", 8), Coil("C", 8)])]
    assert "all 3 in parallel" in words
    assert any("Left and Right in series" in w and "Woofer" in w for w in words)
