"""A tree of power runs is sized as one: against every combination there is, and with the sums done by hand."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import DistributionBlock
from ohmack.core.errors import UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.network.build import Sized, build
from ohmack.core.network.solve import ports, solve
from ohmack.core.physics.conductors import ampacity_a, cable_price, resistance_factor, sizes
from ohmack.core.physics.tree_sizing import Choice, Run, cheapest
from ohmack.core.supply.joint_sizes import met
from ohmack.core.supply.study import Study, grounds_of
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_jobs

choices = st.lists(st.tuples(st.floats(0.2, 1.0), st.floats(0.1, 2.0)), min_size=1, max_size=4).map(
    lambda steps: tuple(
        Choice(10.0 * ohm, 11.0 * ohm, price)
        for ohm, price in zip(
            [sum(s for s, _ in steps[n:]) for n in range(len(steps))],
            [sum(p for _, p in steps[: n + 1]) for n in range(len(steps))],
            strict=True,
        )
    )
)


@st.composite
def trees(draw: st.DrawFn) -> list[Run]:
    runs: list[Run] = []
    for n in range(draw(st.integers(1, 5))):
        after = draw(st.sampled_from([None, *(r.id for r in runs)])) if runs else None
        amps = draw(st.floats(1, 60))
        runs.append(Run(f"r{n}", after, amps, amps * 1.02, draw(choices)))
    inner = {r.after for r in runs}
    left = [(draw(st.floats(20, 4000)), draw(st.floats(1.0, 1.3))) for _ in runs]  # either may bind, cool or hot
    return [
        Run(r.id, r.after, r.current_a, r.hot_a, r.choices, *(() if r.id in inner else (v, hot * v)))
        for r, (v, hot) in zip(runs, left, strict=True)
    ]


@given(trees())
def test_the_cheapest_of_a_tree_is_the_cheapest_of_all_combinations(runs: list[Run]) -> None:
    """Every combination of sizes tried one by one."""
    by_name = {r.id: n for n, r in enumerate(runs)}

    def lost(taken: tuple[int, ...], run: Run, hot: bool) -> float:
        choice = run.choices[taken[by_name[run.id]]]
        own = run.hot_a * choice.hot_ohm if hot else run.current_a * choice.ohm
        return own + (lost(taken, runs[by_name[run.after]], hot) if run.after else 0.0)

    fine = [
        taken
        for taken in product(*(range(len(r.choices)) for r in runs))
        if all(lost(taken, r, False) <= r.left_v and lost(taken, r, True) <= r.left_hot_v for r in runs)
    ]
    found = cheapest(runs)

    def price(taken: tuple[int, ...]) -> float:
        return sum(r.choices[n].price for r, n in zip(runs, taken, strict=True))

    if not fine:
        assert found is None
        return
    assert found is not None
    assert price(tuple(found[r.id] for r in runs)) == pytest.approx(min(map(price, fine)))


def test_a_run_behind_nothing_is_refused() -> None:
    with pytest.raises(UnknownName):
        cheapest([Run("a", "b", 1.0, 1.0, (Choice(1.0, 1.0, 1.0),))])


def two_amplifiers() -> Design:
    job = next(j for j in demo_jobs() if j.first.vehicle.make == "Ollery")
    design = job.first
    for _, edits in job.rounds:
        design = apply_edits(design, edits)
    return design


@pytest.mark.parametrize(
    ("main_m", "own_m", "limit_v", "lead"),
    [(2.4, 1.7, 0.5, None), (3.0, 0.6, 0.5, None), (1.0, 2.2, 0.45, None), (2.0, 1.4, 0.5, "10 AWG")],
)
def test_no_cheaper_sizes_of_two_amplifiers_hold_everything(
    main_m: float, own_m: float, limit_v: float, lead: str | None
) -> None:
    """Main run and both branches in every size that fits, each combination solved as a whole network: what is chosen
    is allowed, and nothing allowed costs less.
    """
    design = two_amplifiers()
    main, *own = sorted(
        design.links_of(PowerLink), key=lambda k: not isinstance(design.part(k.to_id), DistributionBlock)
    )
    tape = [(main, main_m), *((k, own_m) for k in own)]
    design = apply_edits(
        design,
        [
            *(measured(f"links/{k.id}/tape_length_m", metres) for k, metres in tape),
            *(Edit(path=f"links/{g.id}/wire/size", value=lead) for g in design.links_of(GroundLink)),
            Edit(path="policy/drop_limit_v", value=limit_v),
        ],
    )
    results = evaluate(design).results
    study, book = results.power, results.book
    taken = {k.id: row for k in (main, *own) if (row := study.chosen(k.id)) is not None}
    fuses = {name: row.fuse_a for name, row in taken.items()}
    warm = resistance_factor(design.policy.hot_conductor_c)
    emf = study.conditions[next(iter(study.conditions))].emf_v
    loads = {d.way.part.id: d.load for d in study.demands}
    fitting = {
        k.id: [
            w
            for w in sizes("AWG")
            if ampacity_a(w, k.engine_space) >= fuses[k.id] and not _too_thick(study, k.id, w.label)
        ]
        for k in (main, *own)
    }
    prices = {}
    for combination in product(*fitting.values()):
        sized = {name: Sized(wire, fuses[name]) for name, wire in zip(taken, combination, strict=True)}
        grounds = grounds_of(design, study.demands, sized)
        network = build(book, [d.way for d in study.demands], sized, grounds, study.lengths_m)
        cold, hot = (solve(network, ports(network, emf, {}, factor), loads) for factor in (1.0, warm))
        lowest = [
            s.voltage_v.get(d.way.part.id, 0.0) - d.source_v + limit_v for s in (cold, hot) for d in study.demands
        ]
        if min(lowest) >= -1e-9:
            prices[tuple(w.label for w in combination)] = sum(
                cable_price(w, study.lengths_m[n]) for n, w in zip(taken, combination, strict=True)
            ) + sum(cable_price(w, study.lengths_m[name]) for name, w in grounds.items())
    chosen = tuple(row.wire.label for row in taken.values())
    assert chosen in prices, f"{chosen} is not allowed, {len(prices)} others are"
    assert prices[chosen] == pytest.approx(min(prices.values()))
    assert met(design, study, [main, *own], {n: Sized(r.wire, r.fuse_a) for n, r in taken.items()})


def _too_thick(study: Study, name: str, label: str) -> bool:
    return next(bool(row.too_thick) for row in study.choices[name][0] if row.wire.label == label)


def test_a_thicker_main_run_saves_what_no_branch_could() -> None:
    """The block takes no branch over 6 AWG; the main run one size up lets both hold, hot too, and one of them be
    thinner.
    """
    design = two_amplifiers()
    supplies = evaluate(design).results.supplies
    for supply in supplies:
        taken = supply.chosen
        assert taken is not None
        assert taken.fits, taken.reason
        assert (taken.hot_drop_v or 9.0) <= design.policy.drop_limit_v
        thinner = [c for c in supply.candidates if c.wire.area_mm2 < taken.wire.area_mm2]
        assert not any(c.fits for c in thinner), "each alone is as thin as it can be"
    labels = [s.chosen.wire.label for s in supplies if s.chosen is not None]
    assert labels == ["2 AWG", "6 AWG", "10 AWG"]
