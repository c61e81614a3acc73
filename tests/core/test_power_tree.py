"""The power tree, the schools of current and cars of more than 12 V: what is said against sums done by hand."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import DistributionBlock, VoltageConverter
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.physics.energy import Burst, Cell, Leg, driven
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.supply.power_tree import Node
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.drawing.power_tree import draw_tree

S = "vehicle/supply"


def job(title: str) -> Design:
    return demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title.startswith(title)))


def walk(nodes: tuple[Node, ...]) -> Iterator[Node]:
    for node in nodes:
        yield node
        yield from walk(node.behind)


def test_currents_add_up_from_the_consumers_to_the_source_and_volts_fall_on_the_way() -> None:
    """Kirchhoff at the block; the block's volts are the source's less what post, fuse and main run lose."""
    design = job("Two amplifiers")
    results = evaluate(design).results
    block_part = next(design.parts_of(DistributionBlock))
    by_name = {n.name: n for n in walk(results.power_tree)}
    block = by_name[block_part.name]
    drawn = [s.figures["current"].value or 0.0 for s in results.supplies if not s.is_main]
    assert block.current_a == pytest.approx(sum(drawn))
    assert sorted(n.current_a or 0.0 for n in block.behind) == pytest.approx(sorted(drawn))
    main = next(s for s in results.supplies if s.is_main)
    lost_v = sum(p.drop_v for p in main.pieces)
    assert block.volts_v == pytest.approx((main.source_v or 0.0) - lost_v, abs=1e-9)
    for supply in (s for s in results.supplies if not s.is_main):
        cold = results.cold_losses[supply.part.id].value or 0.0
        cool, hot = supply.figures["drop"].value or 0.0, supply.figures["hot"].value or 0.0
        share = (1 + 0.00393 * (-18 - 20)) - 1  # of what the copper resists, IEC 60028
        assert (cold - cool) / (hot - cool) == pytest.approx(share / (0.00393 * 40), rel=0.03)
    second = by_name["Second battery, boot"]
    assert second.charges, "it is fed by a charge cable and not by a run"
    assert block in second.behind
    assert results.power_tree[0].name == "Battery"
    assert [n.over for n in block.behind] == ["6 AWG, 60.0 A fuse", "10 AWG, 40.0 A fuse"]
    for leaf in block.behind:
        assert leaf.volts_v is not None
        assert leaf.volts_v < (block.volts_v or 0.0)
    wide, narrow = (str(d) for d in draw_tree(results.power_tree, lambda path: f"?{path}"))
    widths = sorted(float(w.split('"')[0]) for w in wide.split('stroke-width="')[1:])
    assert widths[-1] / widths[0] == pytest.approx(
        max(n.carried_a for n in walk(results.power_tree)) / min(drawn), rel=0.2
    )
    assert all(leaf.name in narrow for leaf in block.behind)


def test_each_school_has_the_currents_it_designs_for() -> None:
    """By the amplifiers' own fuses: their sum where that is more, and a fuse that carries it with head-room."""
    design = job("Two amplifiers")
    results = evaluate(design).results
    schools = {one.school: one for one in results.current_schools}
    assert [one.is_shops for one in results.current_schools] == [True, False]
    for supply in results.supplies:
        calculated, fuses = (schools[name].runs[supply.link.id] for name in ("calculated", "amplifier fuses"))
        assert calculated.current.value == pytest.approx(supply.figures["current"].value)
        assert calculated.wire.value == supply.figures["wire"].value
        if not supply.is_main:
            wanted = max(sum(supply.fuses_a), supply.figures["current"].value or 0.0)
            assert fuses.current.value == pytest.approx(wanted, rel=0.02)
        assert (fuses.fuse.value or 0) >= (fuses.current.value or 0) / design.policy.fuse_headroom - 1e-6
    other = evaluate(apply_edits(design, [Edit(path="policy/current_school", value="amplifier fuses")])).results
    for supply in other.supplies:
        assert schools["amplifier fuses"].runs[supply.link.id].wire.value == supply.figures["wire"].value
    assert schools["amplifier fuses"].price > schools["calculated"].price


def test_in_a_24_v_cab_everything_of_12_v_begins_at_the_converter() -> None:
    """The run is wired from the converter, as long as from there; moved back to a battery it is a stop, and the
    remedy mends it. Watts in are watts out over efficiency.
    """
    lorry = job("Sound for a lorry")
    converter = next(lorry.parts_of(VoltageConverter))
    (run,) = lorry.links_of(PowerLink)
    assert run.from_id == converter.id
    results = evaluate(lorry).results
    supply = results.supplies[0]
    assert supply.source_v == converter.out_v
    assert not [f for f in evaluate(lorry).findings if f.rule in ("run-on-the-pack", "feed-volts")]
    battery = lorry.vehicle.supply.batteries[0]
    wrong = apply_edits(lorry, [Edit(path=f"links/{run.id}/from_id", value=battery.id)])
    assert results.runs[run.id].length.value != pytest.approx(evaluate(wrong).results.runs[run.id].length.value)
    (said,) = [f for f in evaluate(wrong).findings if f.rule == "run-on-the-pack"]
    assert said.severity is Severity.STOP
    assert "24 V" in said.title
    assert said.remedy is not None
    mended = apply_edits(wrong, said.remedy.edits)
    assert not [f for f in evaluate(mended).findings if f.rule == "run-on-the-pack"]
    full_a = supply.figures["current"].value or 0.0
    seen_a = results.book.figures[f"{supply.part.id}/current_a_at_batteries"].value or 0.0
    assert seen_a * 28.2 * converter.efficiency == pytest.approx(full_a * converter.out_v)
    assert results.budget is not None
    assert results.budget.value("full") == pytest.approx(seen_a)
    assert results.engine_off is not None
    off_a = results.book.figures[f"{supply.part.id}/engine_off_a"].value or 0.0
    at_rest_a = results.book.figures[f"{supply.part.id}/engine_off_a_at_batteries"].value or 0.0
    assert at_rest_a * 25.4 * converter.efficiency == pytest.approx(off_a * converter.out_v), "the resting post"
    silent = evaluate(apply_edits(lorry, [Edit(path="use/programme_percent", value=0.0)])).results.energy
    winter = silent.season("winter") if silent is not None else None
    assert winter is not None
    rests_a = supply.part.idle_current_a * converter.out_v / (converter.efficiency * 28.2)  # type: ignore[union-attr]
    legs = [
        Leg(minutes, figure.value or 0.0, (Burst(1.0, 38.0 + rests_a),))
        for minutes, figure in zip((6, 14, 25), winter.given, strict=True)
    ]
    assert winter.change.value == pytest.approx(
        driven(legs, Cell(0.85 * 170.0, 0.8, 0.1, 0.9, 1.2)).change_percent, rel=1e-9
    )
    tree = {n.name: n for n in walk(results.power_tree)}
    assert tree[battery.name].volts_v == 28.2
    assert tree[converter.name].behind[0].name == supply.part.name


def test_what_is_read_in_a_lorry_is_read_at_the_converter_and_the_pack_has_checks_of_its_own() -> None:
    lorry = job("Sound for a lorry")
    converter = next(lorry.parts_of(VoltageConverter))
    checks = {one.check.id: one.check for one in evaluate(lorry).results.proof.checks}
    post = checks[f"live/post/{lorry.vehicle.supply.batteries[0].id}/running"]
    assert post.title.startswith(converter.name), "no 13.8 V are promised at a battery of 24 V"
    assert post.plus is not None
    assert post.plus.name == f"{converter.name}, + output"
    assert checks[f"dead/pack/{converter.id}"].gate == 1
    own = checks[f"live/post/{lorry.vehicle.supply.batteries[0].id}-itself/running"]
    assert own.plus is not None
    assert own.plus.name == f"{converter.name}, + input"
    assert f"live/pack/{converter.id}" not in checks, "its volts are read"
    nobody = apply_edits(lorry, [Edit(path="vehicle/supply/post_resting_v/value", value=None)])
    asked = {one.check.id: one.check for one in evaluate(nobody).results.proof.checks}
    assert "20 to 32 V" in asked[f"live/pack/{converter.id}"].how


def test_a_converter_that_comes_later_takes_the_runs_over() -> None:
    lorry = job("Sound for a lorry")
    converter = next(lorry.parts_of(VoltageConverter))
    bare = apply_edits(lorry, [Edit(op="remove", path=f"parts/{converter.id}")])
    assert not list(bare.links_of(PowerLink)), "what hung on it goes with it"
    wired = apply_edits(bare, connect_everything(bare))
    assert next(wired.links_of(PowerLink)).from_id == wired.vehicle.supply.batteries[0].id
    again = apply_edits(wired, [Edit(op="add", path="parts", value=converter.model_dump(mode="json"))])
    again = apply_edits(again, connect_everything(again))
    assert next(again.links_of(PowerLink)).from_id == converter.id


def test_a_feed_of_a_24_v_car_is_read_before_anything_of_12_v_hangs_on_it(estate: Design) -> None:
    truck = apply_edits(estate, [measured(f"{S}/system", "24 V")])

    def said(*edits: Edit) -> list[str]:
        return [f.title for f in evaluate(apply_edits(truck, edits)).findings if f.rule == "feed-volts"]

    feed = "vehicle/feeds/radio-constant/reads_v"
    assert any("not known" in title for title in said())
    assert said(measured(feed, 13.6)) == []
    assert any("28" in title for title in said(measured(feed, 28.0)))
    assert [f for f in evaluate(estate).findings if f.rule == "feed-volts"] == []


def test_a_cart_is_charged_at_the_wall() -> None:
    """Nothing charges a pack on the way: no budget is made, and it is said."""
    results = evaluate(job("Bass for the caddies")).results
    assert results.budget is None
    assert results.energy is not None
    assert results.energy.seasons == ()
    assert "wall" in results.energy.lacks
    assert not [s for s in evaluate(job("Bass for the caddies")).findings if s.severity is Severity.STOP]


def test_what_hangs_on_a_feed_is_drawn_there_and_what_gets_its_own_run_at_the_battery() -> None:
    """A powered subwoofer on the radio's feed, and a plug-in amplifier nothing feeds yet."""
    on_feed = evaluate(job_of("J-0410")).results
    feeds = [n for n in on_feed.power_tree if any(c.name == "Cooperage Underseat 8" for c in n.behind)]
    assert [n.name for n in feeds] == ["Radio constant feed"]
    drawn = [n for n in walk(on_feed.power_tree) if n.name == "Cooperage Underseat 8"]
    assert len(drawn) == 1
    assert drawn[0].current_a == next(iter(on_feed.self_fed)).part.supply_current_a  # type: ignore[union-attr]
    alone = evaluate(job_of("J-0412")).results
    own = next(iter(alone.self_fed))
    assert not own.on_feed
    (battery,) = (n for n in alone.power_tree if any(c.name == own.part.name for c in n.behind))
    assert battery.name == "Battery"


def job_of(number: str) -> Design:
    return demo_design(int(number.removeprefix("J-0")) - 401)
