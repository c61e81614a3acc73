"""The function ledger against brute-force removal over generated graphs, and against facts of the trade."""

from __future__ import annotations

import itertools

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design, Fact
from ohmack.core.document.design import Intake, Keep
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import FactoryLink, FactoryLinkKind, Module, ModuleKind, Tier
from ohmack.core.document.facts import Position
from ohmack.core.document.functions import Act, CarFunction, FunctionKind, Intervention, KeepAlive
from ohmack.core.document.handles import at
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.errors import UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.function_edits import functions_for, happens_to, keep_alive, promised_absent
from ohmack.core.factory.functions import Fate, fitting_measures, hangs_on, judge_functions
from ohmack.core.factory.graph import ModuleGraph, graph_troubles
from ohmack.core.factory.music import judge_music
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.figures.finding import Severity
from ohmack.core.handover.promised import promises
from ohmack.core.planning.offer import offer
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.survey import link_modules
from ohmack.demo.building import catalogue_part
from ohmack.demo.jobs import demo_design

BARE = new_design(
    "t", new_vehicle("Brindle", "Otter", 2014, Body.SALOON, Hand.LEFT), demo_design(0).intake, demo_design(0).policy
)
NODES = ("radio", "m1", "m2", "m3", "m4", "m5")
KINDS = (
    FactoryLinkKind.BUS,
    FactoryLinkKind.RING,
    FactoryLinkKind.ANALOGUE,
    FactoryLinkKind.FEED,
    FactoryLinkKind.VIDEO,
)
CHIME_TRAVELS = {"data bus", "optical ring", "analogue line", "speaker level"}


def built(links: list[tuple[FactoryLinkKind, str, str]], function: CarFunction) -> Design:
    place = Position(x_m=1.0, y_m=0.0)
    modules = tuple(Module(id=n, name=n.upper(), position=place, kind=ModuleKind.OTHER) for n in NODES[1:])
    joined = tuple(FactoryLink(id=f"k{i}", kind=kind, from_id=a, to_id=b) for i, (kind, a, b) in enumerate(links))
    vehicle = BARE.vehicle.model_copy(update={"modules": modules, "factory_links": joined, "functions": (function,)})
    return BARE.model_copy(update={"vehicle": vehicle})


def by_brute_force(design: Design, function: CarFunction, gone: set[str], looped: set[str]) -> bool:
    """Tries every simple path over what is left; rings, feeds and needs by their definitions, with networkx."""
    links = design.vehicle.factory_links
    fibres = nx.MultiGraph((k.from_id, k.to_id) for k in links if k.kind is FactoryLinkKind.RING)
    closed: set[str] = set()
    for ring in nx.connected_components(fibres):
        headless = "radio" in ring & gone  # the master of a ring; without it nothing is sent, looped or not
        if all(fibres.degree(n) == 2 for n in ring) and not (ring & gone) - looped and not headless:
            closed |= ring
    feeds = nx.DiGraph((k.from_id, k.to_id) for k in links if k.kind is FactoryLinkKind.FEED)
    roots = [n for n in NODES if n not in gone and (n not in feeds or feeds.in_degree(n) == 0)]
    alive_feeds = feeds.subgraph(n for n in feeds if n not in gone)
    fed = set(roots) | {m for r in roots if r in alive_feeds for m in nx.descendants(alive_feeds, r)}
    usable = nx.Graph()
    usable.add_nodes_from(NODES)
    for k in links:
        ring = k.kind is FactoryLinkKind.RING
        ends = {k.from_id, k.to_id}
        if (
            k.kind.value in CHIME_TRAVELS
            and k.from_id != k.to_id
            and not ((ends & gone) - (looped if ring else set()))
            and (not ring or ends <= closed)
        ):
            usable.add_edge(k.from_id, k.to_id)
    start, end = function.made_by_id, function.heard_at_id
    if any(n in gone or n not in fed for n in (start, *function.needs_ids)):
        return False
    if end is None or end == start:
        return True
    if end in gone or end not in fed:
        return False
    return any(
        all(n in fed or n in gone for n in way[1:-1]) for way in nx.all_simple_paths(usable, start, end)
    )  # fmt: skip


LINKS = st.lists(
    st.tuples(st.sampled_from(KINDS), st.sampled_from(NODES), st.sampled_from(NODES)).filter(lambda k: k[1] != k[2]),
    max_size=11,
)


@settings(max_examples=400)
@given(LINKS, st.sampled_from(NODES), st.sampled_from([None, *NODES]), st.sets(st.sampled_from(NODES), max_size=2),
       st.sets(st.sampled_from(NODES), max_size=3), st.booleans())  # fmt: skip
def test_every_fate_agrees_with_brute_force(
    links: list[tuple[FactoryLinkKind, str, str]],
    made: str,
    heard: str | None,
    needs: set[str],
    gone: set[str],
    loop: bool,
) -> None:
    function = CarFunction(
        id="f", kind=FunctionKind.CHIMES, made_by_id=made, heard_at_id=heard, needs_ids=tuple(sorted(needs))
    )
    design = built(links, function)
    measures = (KeepAlive.LOOPED,) if loop else ()
    acts = tuple(Intervention(id=n, act=Act.REMOVED, keep_alive=measures) for n in sorted(gone))
    intact = by_brute_force(design, function, set(), set())
    expected = by_brute_force(design, function, gone, gone if loop else set())
    verdict = judge_functions(design.model_copy(update={"interventions": acts}))[0]
    assert (verdict.fate is not Fate.UNCLEAR) == intact
    assert (ModuleGraph(design, acts).works(function) is not None) == expected
    if intact:
        assert (verdict.fate is Fate.LOST) == (not expected)
        for thing_id, measure in verdict.measures:  # whatever is offered does bring it back
            now = next(i for i in acts if i.id == thing_id)
            mended = tuple(
                now.model_copy(update={"keep_alive": (*now.keep_alive, measure)}) if i is now else i for i in acts
            )
            assert ModuleGraph(design, mended).works(function) is not None


@settings(max_examples=150)
@given(LINKS, st.sampled_from(NODES), st.sampled_from(NODES))
def test_what_hangs_on_a_module_is_what_dies_without_it(
    links: list[tuple[FactoryLinkKind, str, str]], made: str, heard: str
) -> None:
    function = CarFunction(id="f", kind=FunctionKind.CHIMES, made_by_id=made, heard_at_id=heard)
    design = built(links, function)
    for node, dying in hangs_on(design).items():
        dies = by_brute_force(design, function, set(), set()) and not by_brute_force(design, function, {node}, set())
        assert bool(dying) == dies, node


def with_system(tier: Tier) -> Design:
    design = apply_edits(BARE, [Edit(path="vehicle/radio/tier/value", value=tier.value)])
    design = apply_edits(design, modules_for(design, tier))
    return apply_edits(design, functions_for(design))


def fates(design: Design) -> dict[str, Fate]:
    return {v.function.kind.value: v.fate for v in judge_functions(design)}


def test_why_the_music_ends_before_the_factory_amplifier() -> None:
    """Common practice, no source: an open ring is silent, so is one without its master, and so is a line nobody
    drives.
    """
    ring, lines = with_system(Tier.RING), with_system(Tier.AMPLIFIED)

    def lost(design: Design, what: str, act: str) -> list[tuple[Fate, str]]:
        return [(v.fate, v.why) for v in judge_music(apply_edits(design, happens_to(design, what, act)))]

    assert [v.fate for v in judge_music(ring)] == [Fate.KEPT]
    assert lost(ring, "display", "taken out") == [(Fate.LOST, "the ring is open where Display unit was")]
    radio = ring.vehicle.radio.name
    assert lost(ring, "radio", "replaced") == [(Fate.LOST, f"{radio} was the master of the ring")]
    assert lost(lines, "radio", "replaced") == [(Fate.LOST, f"{lines.vehicle.radio.name} sent it its signal, and goes")]


def test_facts_of_the_trade() -> None:
    """Common practice, no source: what breaks when which box is taken away, and what keeps it alive."""
    ring = with_system(Tier.RING)
    assert Fate.LOST not in fates(ring).values()
    # An optical ring is broken by removing any module in it; looping past it mends what went through it only.
    no_display = apply_edits(ring, happens_to(ring, "display", "taken out"))
    assert fates(no_display)["chimes"] is Fate.LOST
    why = {v.function.kind.value: (v.broken_at, v.why) for v in judge_functions(no_display)}
    assert why["start interlock"] == ("display", "it goes through Display unit, which is taken out")
    assert why["chimes"] == ("display", "the optical ring is open where Display unit was")
    no_radio = {v.broken_at: v.why for v in judge_functions(apply_edits(ring, happens_to(ring, "radio", "taken out")))}
    assert no_radio["radio"] == "it goes through Factory radio, which is taken out"
    looped = apply_edits(no_display, [keep_alive(no_display, no_display.interventions[0], KeepAlive.LOOPED)])
    assert fates(looped)["chimes"] is Fate.KEPT
    assert fates(looped)["start interlock"] is Fate.LOST  # some cars do not start without the display unit's board
    board = apply_edits(no_display, [keep_alive(no_display, no_display.interventions[0], KeepAlive.BOARD)])
    assert Fate.LOST not in fates(board).values()
    # A speaker that carries chimes must stay on a driven channel.
    bypassed = apply_edits(ring, happens_to(ring, "factory-amp", "bypassed"))
    assert fates(bypassed)["chimes"] is Fate.LOST
    centre = apply_edits(bypassed, [keep_alive(bypassed, bypassed.interventions[0], KeepAlive.CENTRE)])
    assert fates(centre)["chimes"] is Fate.KEPT
    assert fates(centre)["fade and balance"] is Fate.LOST
    # A plug-in amplifier on the same analogue lines keeps what came over them; on a ring it needs an adapter.
    lines = with_system(Tier.AMPLIFIED)
    assert Fate.LOST not in fates(apply_edits(lines, happens_to(lines, "factory-amp", "replaced"))).values()
    on_ring = apply_edits(ring, happens_to(ring, "factory-amp", "replaced"))
    assert fates(on_ring)["fade and balance"] is Fate.LOST
    adapted = apply_edits(on_ring, [keep_alive(on_ring, on_ring.interventions[0], KeepAlive.INTERFACE)])
    assert fates(adapted)["fade and balance"] is Fate.ADAPTED
    # A new radio has its own clock and fade; the wheel buttons need an interface.
    plain = apply_edits(with_system(Tier.RING), happens_to(ring, "radio", "replaced"))
    assert fates(plain)["fade and balance"] is Fate.KEPT
    assert fates(plain)["steering-wheel buttons"] is Fate.ADAPTED


def test_gaps_and_circles_are_named() -> None:
    ring = with_system(Tier.RING)
    assert not list(graph_troubles(ring))
    gap = apply_edits(ring, [Edit(op="remove", path="vehicle/factory_links/ring-2")])
    _, title, text = next(graph_troubles(gap))
    assert "gap" in title
    assert "Display unit" in text
    assert "Factory amplifier" in text
    links = [(FactoryLinkKind.FEED, "m1", "m2"), (FactoryLinkKind.FEED, "m2", "m1")]
    function = CarFunction(id="f", kind=FunctionKind.CLOCK, made_by_id="m1")
    circle = built(links, function)
    assert {a for a, _, _ in graph_troubles(circle)} == {"m1", "m2"}
    assert fates(circle) == {"clock": Fate.UNCLEAR}


def test_what_is_not_fitted_or_not_had_counts_for_nothing() -> None:
    ring = with_system(Tier.RING)
    gone = apply_edits(ring, [Edit(path="vehicle/modules/display/fitted", value={"value": False, "basis": "measured"})])
    assert fates(gone)["warning display"] is Fate.UNCLEAR
    without = apply_edits(
        ring, [Edit(path="vehicle/functions/fn-chimes/has_it", value={"value": False, "basis": "measured"})]
    )
    assert "chimes" not in fates(without)
    assert functions_for(ring) == ()
    with pytest.raises(UnknownName):
        happens_to(ring, "glove-box", "taken out")
    with pytest.raises(UnknownName):
        happens_to(ring, "radio", "painted")
    undone = apply_edits(ring, happens_to(ring, "radio", "replaced"))
    assert apply_edits(undone, happens_to(undone, "radio", "")) == ring


@pytest.mark.parametrize("there", [True, False])
def test_what_the_car_never_had_is_not_promised_nor_tried(there: bool) -> None:
    had = Edit(path="vehicle/functions/fn-chimes/has_it", value={"value": there, "basis": "measured"})
    answer = evaluate(apply_edits(demo_design(0), [had]))
    assert (Keep.CHIMES in promised_absent(answer.design)) is not there
    words = {f.rule: f.text for f in answer.findings if f.about.startswith("intake/must_keep")}
    assert ("chimes" in words["must-keep"]) is there
    assert ("promise-absent" in words) is not there
    (promise,) = (p for p in promises(answer.results) if p.id == "keep/chimes")
    assert promise.stands is (None if there else True)
    (asked,) = (a for a in offer(answer).asked if a.words == "keep chimes")
    assert (asked.met, asked.why) == (True, "" if there else "this car has none: nothing to lose")
    tried = {check.id for check in (j.check for j in answer.results.proof.checks)}
    assert "live/keep/chimes" not in tried, "either the ledger has it, or the car has none"
    assert ("live/function/fn-chimes" in tried) is there


@pytest.mark.parametrize(("screen", "seen_on", "fate"), [
    (True, "radio", Fate.ADAPTED), (False, "radio", Fate.LOST), (False, "display", Fate.ADAPTED),
])  # fmt: skip
def test_a_picture_takes_a_screen(screen: bool, seen_on: str, fate: Fate) -> None:
    """Common practice, no source: a camera's lead and its trigger are joined by hand; a radio without a screen shows
    nothing, unless the picture was never seen on the radio.
    """
    wants = BARE.intake.model_copy(update={"must_keep": (Keep.CAMERA,)})
    plain = apply_edits(BARE, [Edit(path="vehicle/radio/tier/value", value="plain radio")])
    plain = plain.model_copy(update={"intake": wants})
    unit = {
        "id": "display", "name": "Display", "kind": "display", "position": {"x_m": 1.6, "y_m": 0.0},
        "fitted": {"value": True, "basis": "measured"},
    }  # fmt: skip
    camera = {"id": "cam", "kind": "reversing camera", "made_by_id": "radio", "heard_at_id": seen_on}
    link = {"id": "bus", "kind": "video", "from_id": "radio", "to_id": "display"}
    car = apply_edits(plain, [
        Edit(op="add", path="vehicle/modules", value=unit), Edit(op="add", path="vehicle/factory_links", value=link),
        Edit(op="add", path="vehicle/functions", value=camera),
        catalogue_part("Quillon S2 screen radio", "unit", 1.6, 0.0, screen=screen, position=None),
    ])  # fmt: skip
    answer = evaluate(car)
    assert fates(car)["reversing camera"] is fate
    steps = {s.step.id: s.step for s in answer.results.work_plan.steps}
    assert ("carry-cam" in steps) is (fate is Fate.ADAPTED)
    if fate is Fate.ADAPTED:
        assert "live in reverse only" in steps["carry-cam"].what
        assert {"off-radio"} <= set(steps["carry-cam"].needs)
        assert "carry-cam" in steps["dead-checks"].needs
    else:
        (lost,) = (f for f in answer.findings if f.rule == "function-lost")
        assert (lost.severity, "no screen to show it on" in lost.text) == (Severity.STOP, True)
        assert lost.remedy is not None
        assert lost.remedy.query == "kind=radio&instead=unit"


def test_no_function_names_a_thing_that_is_gone() -> None:
    ring = with_system(Tier.RING)
    acted = apply_edits(ring, happens_to(ring, "display", "taken out"))
    bare = apply_edits(acted, [Edit(op="remove", path="vehicle/modules/display")])
    assert not bare.interventions
    named = set(
        itertools.chain.from_iterable((f.made_by_id, f.heard_at_id, *f.needs_ids) for f in bare.vehicle.functions)
    )
    assert "display" not in named
    assert isinstance(bare.vehicle.functions[0].has_it, Fact)


def test_music_reaches_the_amplifiers_that_stay_or_says_why_not() -> None:
    """Common practice, no source: a ring without its master is silent; against removing each box by brute force."""
    ring = with_system(Tier.RING)
    nodes = [ring.vehicle.radio.id, *(m.id for m in ring.vehicle.modules)]
    fibres = nx.Graph((k.from_id, k.to_id) for k in ring.vehicle.factory_links if k.kind is FactoryLinkKind.RING)
    for measure in (None, KeepAlive.LOOPED, KeepAlive.STAYS, KeepAlive.BOARD):
        for node in nodes:
            kept = () if measure is None else (measure,)
            (verdict,) = judge_music(ring, (Intervention(id=node, keep_alive=kept),)) or (None,)
            if node == "factory-amp":
                assert verdict is None, "what goes plays no music"
                continue
            assert verdict is not None
            on_ring, master = node in fibres, node == ring.vehicle.radio.id
            silent = on_ring and (measure is None or (measure is KeepAlive.LOOPED and master))
            assert (verdict.fate is Fate.LOST) == silent, (node, measure)
    alone = judge_music(ring, (Intervention(id=ring.vehicle.radio.id, act=Act.REPLACED),))
    assert "master of the ring" in alone[0].why
    adapter = {"kind": "accessory", "id": "ad", "name": "Ring adapter", "category": "amplifier adapter"}
    bought = apply_edits(ring, [Edit(op="add", path="parts", value=adapter)])
    replaced = judge_music(bought, (Intervention(id=ring.vehicle.radio.id, act=Act.REPLACED),))
    assert (replaced[0].fate, replaced[0].why) == (Fate.ADAPTED, "through Ring adapter")
    lines = with_system(Tier.AMPLIFIED)
    assert judge_music(lines, ())[0].fate is Fate.KEPT
    absent = apply_edits(lines, [Edit(path="vehicle/modules/factory-amp/fitted", value={"value": False})])
    assert judge_music(absent, ()) == (), "an amplifier that is not there plays nothing"
    assert KeepAlive.LOOPED not in fitting_measures(ring, Intervention(id=ring.vehicle.radio.id))


def test_a_third_fibre_is_one_too_many() -> None:
    ring = with_system(Tier.RING)
    extra = {"id": "x", "kind": "optical ring", "from_id": "display", "to_id": "gateway"}
    more = apply_edits(ring, [Edit(op="add", path="vehicle/factory_links", value=extra)])
    titles = [title for _, title, _ in graph_troubles(more)]
    assert "A module of the optical ring has too many fibres" in titles


def test_a_camera_that_is_joined_up_makes_its_picture() -> None:
    """Promised before anybody found it, then found: the function turns to the camera and is traced, in one step."""
    design = with_system(Tier.AMPLIFIED)
    design = design.model_copy(update={"intake": Intake(must_keep=(Keep.CAMERA,))})
    design = apply_edits(design, functions_for(design))
    assert next(f for f in design.vehicle.functions if f.kind is FunctionKind.CAMERA).made_by_id == "radio"
    place = {"x_m": 4.2, "y_m": 0.0}
    camera = {"id": "cam", "name": "Camera", "kind": "camera", "position": place}
    seen = apply_edits(design, [Edit(op="add", path="vehicle/modules", value=camera)])
    joined = apply_edits(seen, link_modules(seen, "video", "cam", "radio"))
    function = next(f for f in joined.vehicle.functions if f.kind is FunctionKind.CAMERA)
    assert (function.made_by_id, function.heard_at_id) == ("cam", "radio")
    assert fates(joined)["reversing camera"] is Fate.KEPT
    wrong = apply_edits(seen, link_modules(seen, "optical ring", "cam", "radio"))
    assert next(f for f in wrong.vehicle.functions if f.kind is FunctionKind.CAMERA).made_by_id == "radio"
    changer = {"id": "ch", "name": "Changer", "kind": "disc changer", "position": place}
    bare = apply_edits(design, [Edit(op="add", path="vehicle/modules", value=changer)])
    more = apply_edits(bare, link_modules(bare, "analogue line", "radio", "ch"))
    assert fates(more).get("changer") is Fate.KEPT


def test_the_simplest_measure_is_offered() -> None:
    """What a module taken out of a ring would silence is kept by its staying, before boards are moved or bought."""
    ring = apply_edits(with_system(Tier.RING), happens_to(with_system(Tier.RING), "display", "taken out"))
    answer = evaluate(ring)
    lost = [v for v in answer.results.ledger if v.fate is Fate.LOST and len(v.measures) > 1]
    assert lost
    remedies = {f.about: f.remedy for f in answer.findings if f.rule == "function-lost"}
    for verdict in lost:
        remedy, (_, measure) = remedies[at(verdict.function)], verdict.measures[0]
        assert measure is KeepAlive.STAYS
        assert remedy is not None
        assert remedy.label.endswith(f": {measure.value}")
