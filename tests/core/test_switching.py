"""Switch-on sources: order of preference, key states, hold, what they leave on, relays.

Facts of the trade: common practice, no source.
"""

from __future__ import annotations

from math import inf

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import RemoteLink
from ohmack.core.document.vehicle import FeedRole, KeyState
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.signal.switch_on import switch_sources
from ohmack.demo.jobs import demo_design, demo_jobs

ROLES = ((FeedRole.REMOTE, "remote-lead"), (FeedRole.AERIAL, "aerial-motor"), (FeedRole.OTHER, "mystery"))


def with_leads(design: Design) -> Design:
    live = {"value": ["accessory", "on"], "basis": "measured"}
    place = {"x_m": 1.5, "y_m": 0.0}
    return apply_edits(
        design,
        [
            Edit(
                op="add",
                path="vehicle/feeds",
                value={
                    "id": name,
                    "name": name,
                    "role": role.value,
                    "position": place,
                    "live": live,
                    "limit_a": {"value": 0.3, "basis": "measured"},
                },
            )
            for role, name in ROLES
        ],
    )


def test_the_order_of_preference(estate: Design) -> None:
    ranked = [s.id for s in switch_sources(with_leads(estate))]
    assert ranked == ["remote-lead", "aerial-motor", "radio-switched", "converter", "mystery", "radio-constant"]
    assert switch_sources(demo_design(3)) == ()  # no amplifier, nothing to switch


def test_every_key_state_and_what_is_left_on(estate: Design) -> None:
    sources = {s.id: s for s in switch_sources(estate)}
    switched, constant, sensing = sources["radio-switched"], sources["radio-constant"], sources["converter"]
    assert [switched.behaviour(state) for state in KeyState] == ["off", "off", "off", "on", "on", "off"]
    assert {constant.behaviour(state) for state in KeyState} == {"on"}
    assert [sensing.behaviour(state) for state in KeyState] == ["off", "off", "off", "with music", "with music", "off"]
    assert (switched.hold_s, constant.hold_s, sensing.hold_s) == (0.0, inf, 60.0)
    idle_a = estate.part("amp").idle_current_a  # type: ignore[union-attr]
    assert (switched.standby_a, constant.standby_a, sensing.standby_a) == (0.0, idle_a, None)
    assert not constant.good
    bus = apply_edits(
        estate,
        [
            Edit(
                path="vehicle/feeds/radio-switched/live",
                value={"value": ["bus awake", "accessory", "on"], "basis": "measured"},
            )
        ],
    )
    assert {s.id: s.hold_s for s in switch_sources(bus)}["radio-switched"] == 600.0
    unknown = apply_edits(estate, [Edit(path="vehicle/feeds/radio-switched/live", value={"value": None})])
    feed = {s.id: s for s in switch_sources(unknown)}["radio-switched"]
    assert feed.behaviour(KeyState.ON) == "?"
    assert not feed.good


def test_too_much_for_a_source_wants_a_relay_and_gets_one(estate: Design) -> None:
    heavy = apply_edits(estate, [Edit(path="parts/amp/remote_current_a", value=0.9)])
    stops = [f for f in evaluate(heavy).findings if f.rule == "switch-on" and f.severity is Severity.STOP]
    assert "gives" in stops[0].title
    assert {s.id: s.needs_relay for s in switch_sources(heavy)}["converter"]
    remedy = stops[0].remedy
    assert remedy is not None
    mended = apply_edits(heavy, remedy.edits)
    assert not [f for f in evaluate(mended).findings if f.rule == "switch-on"]
    chosen = next(s for s in switch_sources(mended) if s.chosen)
    assert chosen.wants_a == 0.15
    assert not chosen.needs_relay


def test_what_cannot_switch_gives_way_to_what_can_by_a_press(estate: Design) -> None:
    """A feed that never goes off, and a passive converter that has no output, both for the feed that follows the key; a
    relay in no wire goes out where nothing is switched at all.
    """
    never_off = apply_edits(estate, [Edit(path="links/remote-amp/from_id", value="radio-constant")])
    gone = [
        Edit(path="parts/converter/active", value=False),
        Edit(path="parts/converter/remote_out_limit_a", value=None),
    ]
    passive = apply_edits(estate, [*gone, Edit(path="links/remote-amp/from_id", value="converter")])
    silent = apply_edits(estate, [gone[1], Edit(path="links/remote-amp/from_id", value="converter")])
    cases = ((never_off, "live with the key off"), (passive, "is passive"), (silent, "No remote output"))
    for design, words in cases:
        (said,) = [f for f in evaluate(design).findings if f.rule == "switch-on" and f.severity is Severity.STOP]
        assert words in said.title
        assert said.remedy is not None
        best = next(s for s in switch_sources(design) if s.good)
        assert said.remedy.label == f"Switch it by {best.name}"
        mended = apply_edits(design, said.remedy.edits)
        assert {link.from_id for link in mended.links_of(RemoteLink) if link.to_id == "amp"} == {best.id}
        assert not [f for f in evaluate(mended).findings if f.rule == "switch-on"]
    none = [Edit(op="remove", path=f"links/{link.id}") for link in estate.links_of(RemoteLink)]
    relay = {"id": "relay", "kind": "switching relay", "name": "Relay"}
    idle = apply_edits(estate, [*none, Edit(op="add", path="parts", value=relay)])
    (said,) = [f for f in evaluate(idle).findings if f.rule == "switching-relay"]
    assert said.remedy is not None
    assert apply_edits(idle, said.remedy.edits).part("relay") is None


def test_a_bus_interface_switches_on_where_nothing_at_the_plug_does(estate: Design) -> None:
    """Job K: every feed of the radio's plug is live with the bus or always; the interface's output is taken."""
    feeds = [Edit(path=f"vehicle/feeds/{f.id}/live/value", value=["asleep", "on"]) for f in estate.vehicle.feeds]
    bare = apply_edits(estate, [*feeds, *(Edit(op="remove", path=f"links/{k.id}") for k in estate.links_of(RemoteLink)),
                                Edit(path="parts/converter/remote_out_limit_a", value=None)])  # fmt: skip
    assert not any(source.good for source in switch_sources(bare))
    box = {"id": "bus", "kind": "accessory", "name": "Bus box", "category": "interface", "remote_out_limit_a": 0.4}
    bought = apply_edits(bare, [Edit(op="add", path="parts", value=box)])
    best = switch_sources(bought)[0]
    assert (best.id, best.good, best.behaviour(KeyState.ON), best.behaviour(KeyState.ASLEEP)) == (
        "bus", True, "on", "off",
    )  # fmt: skip
    wired = apply_edits(bought, connect_everything(bought, "amp"))
    assert next(wired.links_of(RemoteLink)).from_id == "bus"
    result = evaluate(wired)
    assert result.figures["bus/remote_load_a"].value == wired.part("amp").remote_current_a  # type: ignore[union-attr]
    weak = apply_edits(wired, [Edit(path="parts/bus/remote_out_limit_a", value=0.001)])
    assert any(f.rule == "switch-on" and f.severity is Severity.STOP for f in evaluate(weak).findings)


@pytest.mark.parametrize(
    ("states", "words"),
    [(None, "Not known: when Radio switched feed is live"), (["on"], "Radio switched feed is dead in accessory"),
     (["accessory"], "Radio switched feed is dead with the key on"), (["accessory", "on"], "")],
)  # fmt: skip
def test_the_lead_that_wakes_a_new_radio_is_live_when_it_is_to_play(states: list[str] | None, words: str) -> None:
    design = next(demo_design(n) for n, job in enumerate(demo_jobs()) if job.title == "A screen she can read")
    read = apply_edits(design, [Edit(path="vehicle/feeds/radio-switched/live/value", value=states)])
    found = [f.title for f in evaluate(read).findings if f.rule == "converter-feed-states"]
    assert [words in title for title in found] == [True] * bool(words)
