"""A kept car: papers with their date, never a measurement of another car."""

from __future__ import annotations

from ohmack.core.document import Basis, Design
from ohmack.core.document.facts import Verified
from ohmack.core.document.paths import facts
from ohmack.core.planning.templates import OF_THIS_CAR, as_papers
from ohmack.demo.jobs import demo_design


def test_nothing_of_a_template_is_measured(estate: Design) -> None:
    kept = {path: (fact, field) for path, fact, _, field in facts(as_papers(estate.vehicle, "J-0401"))}
    before = {path: fact for path, fact, _, _ in facts(estate.vehicle)}
    assert kept.keys() == before.keys()
    for path, (fact, field) in kept.items():
        was = before[path]
        assert fact.basis is not Basis.MEASURED
        if was.basis is Basis.ASSUMED:
            assert fact == was
        elif field in OF_THIS_CAR and was.basis is Basis.MEASURED:
            assert fact.basis is Basis.ASSUMED
            assert not fact.when
            assert "on another car" in fact.note
        else:
            assert (fact.value, fact.when, fact.how) == (was.value, was.when, Verified.PAPERS)
            assert fact.note.startswith("from J-0401")
    assert kept["feeds/radio-switched/live"][0].basis is Basis.DOCUMENTED
    assert kept["supply/body_return_ohm"][0].basis is Basis.ASSUMED


def test_what_an_earlier_owner_did_is_not_inherited() -> None:
    camper = demo_design(5).vehicle
    assert camper.alterations
    assert any(m.by_owner for m in camper.modules)
    kept = as_papers(camper, "J-0406")
    assert (kept.alterations, kept.answers, kept.volume_steps) == ((), (), ())
    assert not any(m.by_owner for m in kept.modules)
    assert [b.id for b in kept.supply.batteries] == ["battery", "camp"]
    assert kept.supply.batteries[1].own_running_v.basis is Basis.ASSUMED


def test_a_pin_map_is_inherited_as_papers_without_readings_or_damage() -> None:
    van = as_papers(demo_design(5).vehicle, "J-0406")
    estate, bus = as_papers(demo_design(0).vehicle, "J-0401"), as_papers(demo_design(7).vehicle, "J-0408")
    assert {c.condition.value for c in van.connectors[0].cavities} == {"whole"}
    before = {c.number: c.taken_for for c in demo_design(0).vehicle.connectors[0].cavities}
    for cavity in estate.connectors[0].cavities:
        assert cavity.expected is before[cavity.number]
        assert (cavity.off_v, cavity.accessory_v, cavity.lights_v, cavity.body_ohm) == (None, None, None, None)
        assert cavity.use.basis is not Basis.MEASURED
    assert bus.hunt is None
