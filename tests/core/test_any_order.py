"""Whatever order parts are put in, the plan is the same: an installer picks what is at hand. A passive crossover parts
woofer and tweeter of one corner, on one channel: fact of the trade.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import permutations
from typing import Any

import pytest

from core.test_three_ways import saloon
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.small_parts import CrossoverNet, LineIsolator, MountingRing, SpeakerPad
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.part_added import added, said_of
from ohmack.core.planning.remedies import edits_of
from ohmack.demo.building import catalogue

FOUR, TWO, MONO, FIVE = "Tessel Four 70", "Tessel Two 200", "Tessel M500", "Tessel Five 75+350"
WOOFERS, TWEETERS, NETS = "Morrowick W65 woofer, pair", "Morrowick T25 tweeter, pair", "Morrowick X3 crossover, pair"
COAX, SLIM = "Pell & Fenn Coax 65, pair", "Pell & Fenn Coax 52 slim, pair"
BASS, BOX = "Morrowick 10 D4", "Cooperage 28 closed"
SECOND_BASS, STRONG, ONE, PLUG_IN = (
    "Morrowick 12 D2",
    "Tessel M1200",
    "Pell & Fenn Dash 80, one",
    "Tessel P5 plug-in amplifier",
)
CONVERTER, RELAY, ISOLATOR = "Sprig LC2 active", "Hob relay 30 A with socket", "Sprig line isolator"
RING, DASH, PAD = "Hob ring 165 to 142, 12 mm, pair", "Pell & Fenn Dash 80, pair", "Morrowick tweeter pad 4 dB, pair"
SIX, SCREEN, BLOCK = "Quillon six-way processor", "Quillon S2 screen radio", "Hob four-way fused block"
TREES = {tree["name"]: tree for tree in catalogue()}
SETS = [
    (FOUR, WOOFERS, TWEETERS, NETS),
    (TWO, WOOFERS, TWEETERS, NETS),
    (SIX, WOOFERS, TWEETERS, NETS, FOUR),
    (SCREEN, WOOFERS, NETS, TWEETERS),
    (FIVE, BASS, BOX, SCREEN),
    (FOUR, MONO, BASS, BOX, COAX),
    (FOUR, BLOCK, MONO, BASS),
    (FOUR, COAX, RING, SLIM),
    (MONO, STRONG, BASS, SECOND_BASS),
    (TWO, WOOFERS, TWEETERS, CONVERTER),
    (TWO, COAX, ONE, MONO),
    (FIVE, DASH, TWEETERS, FOUR),
    (TWO, SLIM, SECOND_BASS, BLOCK),
    (SCREEN, FOUR, COAX, SIX),
    (RELAY, MONO, BASS, SCREEN),
    (ISOLATOR, SCREEN, FOUR, COAX),
    (PLUG_IN, TWEETERS, BASS),
    (PAD, WOOFERS, TWEETERS, MONO),
]


def laid(design: Design) -> frozenset[Any]:
    """Every link by what it joins, channels by who shares them, not by their numbers; and where each part goes."""
    names = {part.id: part.name for part in design.parts}
    shared: dict[tuple[str, int], set[str]] = {}
    for link in design.links_of(SpeakerLink):
        shared.setdefault((names[link.from_id], link.channel), set()).add(names.get(link.to_id, link.to_id))
    found: set[Any] = {("channel", name, frozenset(places)) for (name, _), places in shared.items()}
    for link in design.links:
        if link.kind in ("power", "ground", "feed", "tap", "line", "remote"):
            ends = link.from_ids if isinstance(link, TapLink) else (link.from_id,)
            pair = (link.pair, link.high_pass_hz, link.low_pass_hz) if isinstance(link, LineLink) else None
            found.add((link.kind, frozenset(names.get(n, n) for n in ends), names.get(link.to_id, link.to_id), pair))
    found |= {("relay", names.get(link.to_id), link.relay) for link in design.links_of(RemoteLink)}
    found |= {("in line", part.name, bool(part.in_line_id)) for part in design.parts_of(LineIsolator)}
    at_places = ((part.name, frozenset(getattr(part, "at_ids", ()))) for part in design.parts)
    return frozenset(found | set(at_places))


def orders(names: Sequence[str]) -> list[tuple[str, ...]]:
    """Of all orders ten, the first and the last among them, or all where there are no more."""
    every = list(permutations(names))
    most = min(10, len(every)) - 1
    return [every[n * (len(every) - 1) // most] for n in range(most + 1)]


@pytest.mark.parametrize("names", SETS)
def test_parts_come_in_any_order(names: tuple[str, ...]) -> None:
    plans = {laid(saloon(*order)) for order in orders(names)}
    assert len(plans) == 1


@pytest.mark.parametrize("order", orders((FOUR, WOOFERS, TWEETERS, NETS))[::2])
def test_a_crossover_hangs_woofer_and_tweeter_on_one_channel(order: tuple[str, ...]) -> None:
    design = saloon(*order)
    channels = {link.to_id: link.channel for link in design.links_of(SpeakerLink)}
    assert channels["spk-fl"] == channels["pillar-left"]
    assert channels["spk-fr"] == channels["pillar-right"]
    assert channels["spk-fl"] != channels["spk-fr"]
    (title,) = [f.title for f in evaluate(design).findings if NETS in f.title]
    assert title == f"{NETS} is made for 4 Ω, front left door and front right door have 3 Ω"
    assert not [f for f in evaluate(design).findings if f.rule == "tweeter-unprotected"]


def test_a_capacitor_does_for_tweeters_what_their_amplifier_cannot() -> None:
    """12 µF before 4 Ω pass from 3.3 kHz, 1/(2 pi R C): the amplifier, which goes to 400 Hz, is set flat before them.
    What wants the same of both sides is told once.
    """
    bare = saloon(FOUR, WOOFERS, TWEETERS)
    told = {
        f.rule: f for f in evaluate(bare).findings if f.rule in ("tweeter-unprotected", "crossover", "treble-twice")
    }
    assert len([f for f in evaluate(bare).findings if f.rule in told]) == 3
    assert (
        told["tweeter-unprotected"].title == "Front pillar left and front pillar right: a tweeter without a high-pass"
    )
    assert "in front pillar left and front pillar right: high-pass 3000 Hz" in told["crossover"].title
    held = apply_edits(bare, edits_of(bare, told["tweeter-unprotected"].remedy))
    left = {f.rule for f in evaluate(held).findings}
    assert not left & {"tweeter-unprotected", "crossover"}
    corners = {e.link.to_id: e.high_pass for e in evaluate(held).results.crossovers if e.link is not None}
    assert corners["pillar-left"] is None
    assert corners["spk-fl"] is not None
    (lead,) = [k for k in held.links_of(SpeakerLink) if k.to_id == "pillar-left"]
    chosen = evaluate(apply_edits(held, [Edit(path=at(lead, lambda it: it.high_pass_hz), value=400.0)]))
    (own,) = [e.high_pass for e in chosen.results.crossovers if e.link is not None and e.link.to_id == "pillar-left"]
    assert own is not None
    assert own.value == 400.0
    amplifier = next(held.parts_of(Amplifier))
    reaches = apply_edits(held, [Edit(path=f"parts/{amplifier.id}/high_pass_high_hz", value=4000.0)])
    again = {e.link.to_id: e.high_pass for e in evaluate(reaches).results.crossovers if e.link is not None}
    assert again["pillar-left"] is not None
    assert again["pillar-left"].value == 3000.0


def test_too_little_is_told_once_and_never_as_much_as_is_wanted() -> None:
    """45 W where 60 W are taken are the 75 % a shop wants; of 60.2 W they are 74.8 %: plain division."""
    enough = saloon(PLUG_IN, COAX)
    assert not [f for f in evaluate(enough).findings if f.rule == "driver-underpowered"]
    (coaxial,) = [part for part in enough.parts if part.name == COAX]
    more = apply_edits(enough, [Edit(path=f"parts/{coaxial.id}/power_rms_w", value=60.2)])
    told = [f.title for f in evaluate(more).findings if f.rule == "driver-underpowered"]
    assert told == [f"{COAX} in front left door and front right door get 74.8 % of what they take"]


def test_what_somebody_chose_stays() -> None:
    parted = saloon(FOUR, WOOFERS, TWEETERS, NETS)
    (net,) = parted.parts_of(CrossoverNet)
    chosen = apply_edits(parted, [Edit(path=at(net, lambda it: it.at_ids), value=["spk-fl", "pillar-left"])])
    more = apply_edits(chosen, added(chosen, TREES[BASS]))
    assert next(more.parts_of(CrossoverNet)).at_ids == ("spk-fl", "pillar-left")
    lying = saloon(FOUR, WOOFERS, TWEETERS)
    there = [Edit(path=at(k, lambda it: it.in_car), value=True) for k in lying.links_of(SpeakerLink)]
    kept = apply_edits(lying, there)
    apart = apply_edits(kept, added(kept, TREES[NETS]))
    assert len({link.channel for link in apart.links_of(SpeakerLink)}) == 4, "cables that lie in the car stay"
    straight = saloon(FOUR)
    (tap,) = straight.links_of(TapLink)
    assert len(tap.from_ids) == 4
    fronts = apply_edits(straight, added(straight, TREES[COAX]))
    assert [k.from_ids for k in fronts.links_of(TapLink)] == [("ch-fl", "ch-fr")], "only these are played"
    rears = apply_edits(fronts, added(fronts, TREES[SLIM]))
    assert [len(k.from_ids) for k in rears.links_of(TapLink)] == [4]
    left = apply_edits(straight, [Edit(path=at(tap, lambda it: it.from_ids), value=["ch-fl", "ch-rr"])])
    own = apply_edits(left, added(left, TREES[COAX]))
    assert [k.from_ids for k in own.links_of(TapLink)] == [("ch-fl", "ch-rr")]


def test_the_stronger_amplifier_drives_the_stronger_subwoofer() -> None:
    """Power to what takes it: common practice, no source. What somebody hung elsewhere stays there."""
    both = saloon(MONO, STRONG, BASS, SECOND_BASS)
    names = {part.id: part.name for part in both.parts}
    driven = {names[link.to_id]: names[link.from_id] for link in both.links_of(SpeakerLink)}
    assert driven == {SECOND_BASS: STRONG, BASS: MONO}
    waiting = saloon(MONO, SECOND_BASS, BASS)
    edits = added(waiting, TREES[STRONG])
    assert said_of(waiting, f"{STRONG} added", edits) == f"{STRONG} added; {SECOND_BASS} on another amplifier now"
    full = saloon(FOUR, COAX, SLIM)
    said = said_of(full, f"{BASS} added", added(full, TREES[BASS]))
    assert said == f"{BASS} added; {SLIM} off the amplifier", "no radio plays a subwoofer, one plays the rear"
    mark = {"id": "mark-1", "step": "lay-speaker-sub", "done": True}
    begun = apply_edits(waiting, [Edit(op="add", path="work/marks", value=mark)])
    later = apply_edits(begun, added(begun, TREES[STRONG]))
    assert list(later.links_of(SpeakerLink)) == list(waiting.links_of(SpeakerLink)), "the work has begun"
    first = saloon(MONO, BASS, SECOND_BASS)
    (own,) = [link for link in first.links_of(SpeakerLink) if names[link.to_id] == SECOND_BASS]
    chosen = apply_edits(first, [Edit(op="remove", path=at(own))])
    more = apply_edits(chosen, added(chosen, TREES[STRONG]))
    monos = {link.to_id: link.from_id for link in more.links_of(SpeakerLink)}
    assert monos == {"sub": "amp", "sub-2": "amp-2"}, "the one on its amplifier stays, the other takes the new one"


def test_wiring_filters_and_switch_on_that_somebody_chose_stay() -> None:
    first = saloon(MONO, SECOND_BASS, BASS)
    own = next(k for k in first.links_of(SpeakerLink) if not k.wiring)
    wired = apply_edits(first, [Edit(path=at(own, lambda it: it.wiring), value="[chosen]")])
    after = apply_edits(wired, added(wired, TREES[STRONG]))
    assert list(after.links_of(SpeakerLink))[: len(list(wired.links_of(SpeakerLink)))] == list(
        wired.links_of(SpeakerLink)
    )
    fed = saloon(SCREEN, FOUR, COAX)
    (line,) = fed.links_of(LineLink)
    filtered = apply_edits(fed, [Edit(path=at(line, lambda it: it.high_pass_hz), value=50.0)])
    more = apply_edits(filtered, added(filtered, TREES[SLIM]))
    assert [k.high_pass_hz for k in more.links_of(LineLink) if k.pair == line.pair] == [50.0]
    heard = saloon(CONVERTER, MONO, BASS)
    (lead,) = [k for k in heard.links_of(RemoteLink) if heard.part(k.to_id) in tuple(heard.parts_of(Amplifier))]
    constant = apply_edits(heard, [Edit(path=at(lead, lambda it: it.from_id), value="radio-constant")])
    later = apply_edits(constant, added(constant, TREES[SCREEN]))
    assert [k.from_id for k in later.links_of(RemoteLink) if k.to_id == lead.to_id] == ["radio-constant"]


def test_an_isolator_goes_back_into_the_line_it_was_in() -> None:
    """Its line is laid anew once another subwoofer plays from the same amplifier."""
    design = saloon(SCREEN, FOUR, COAX, SLIM, ISOLATOR)
    (isolator,) = design.parts_of(LineIsolator)
    second = [line.id for line in design.links_of(LineLink)][-1]
    assert isolator.in_line_id != second
    chosen = apply_edits(design, [Edit(path=at(isolator, lambda it: it.in_line_id), value=second)])
    for name in (TWEETERS, BASS, SIX):
        more = apply_edits(chosen, added(chosen, TREES[name]))
        lines = {line.id for line in more.links_of(LineLink)}
        assert next(more.parts_of(LineIsolator)).in_line_id in ({second} if second in lines else lines), name


def test_an_amplifier_follows_a_converter_that_is_switched_itself() -> None:
    led = saloon(SCREEN, MONO, BASS)
    follows = apply_edits(led, added(led, {**TREES[CONVERTER], "senses_audio": False}))
    listens = apply_edits(led, added(led, TREES[CONVERTER]))
    assert [k.from_id for k in follows.links_of(RemoteLink) if k.to_id == "amp"] == ["converter"]
    assert [k.from_id for k in listens.links_of(RemoteLink) if k.to_id == "amp"] == ["radio-2"]


def test_a_processor_goes_between_a_radio_and_what_it_fed() -> None:
    design = saloon(SCREEN, FOUR, COAX, MONO, BASS, SIX)
    names = {part.id: part.name for part in design.parts}
    lines = {(names[link.from_id], names[link.to_id]) for link in design.links_of(LineLink)}
    assert lines == {(SCREEN, SIX), (SIX, FOUR), (SIX, MONO)}


def test_a_plug_in_amplifier_plays_both_of_a_pair_alike() -> None:
    for order in permutations((PLUG_IN, TWEETERS, BASS)):
        design = saloon(*order)
        channels = {link.to_id: link.channel for link in design.links_of(SpeakerLink)}
        assert channels["pillar-left"] == channels["spk-fl"], order
        assert channels["pillar-right"] == channels["spk-fr"], order
        assert len({channels["sub"], channels["spk-fl"], channels["spk-fr"]}) == 3, order


def test_a_ring_goes_under_what_it_holds_and_waits_for_it() -> None:
    """An opening of 143 mm holds a frame of 165 and lets one of 133 fall through: plain geometry."""
    for order in ((RING, SLIM, COAX), (SLIM, COAX, RING), (RING, COAX, SLIM)):
        design = saloon(*order)
        coaxial = next(part for part in design.parts if part.name == COAX)
        ring = next(design.parts_of(MountingRing))
        assert set(ring.at_ids) == set(getattr(coaxial, "at_ids", ())), order


def test_a_pad_waits_for_what_it_goes_before() -> None:
    for order in ((PAD, DASH, COAX), (DASH, COAX, PAD), (DASH, PAD, COAX)):
        design = saloon(*order)
        small = next(part for part in design.parts if part.name == DASH)
        assert set(next(design.parts_of(SpeakerPad)).at_ids) == set(getattr(small, "at_ids", ())), order


def test_a_second_crossover_parts_what_the_first_does_not() -> None:
    first = saloon(FOUR, WOOFERS, TWEETERS, NETS)
    both = apply_edits(first, added(first, TREES[NETS]))
    one, two = both.parts_of(CrossoverNet)
    assert set(one.at_ids) == {"spk-fl", "spk-fr", "pillar-left", "pillar-right"}
    assert not set(two.at_ids) & set(one.at_ids)


def test_a_converter_beside_a_new_radio_with_lines_could_stay_out() -> None:
    """Straight from its own line outputs: one part, one feed and one ground less, common practice."""
    converter = "Sprig LC2 active"
    for names in ((converter, MONO, BASS, BOX, SCREEN), (MONO, BASS, converter, BOX, SCREEN)):
        design = saloon(*names)
        (found,) = [f for f in evaluate(design).findings if f.rule == "lines-idle"]
        assert found.title == f"{converter} could stay out: {SCREEN} has 3 line pairs"
        after = apply_edits(design, edits_of(design, found.remedy))
        assert laid(after) == laid(saloon(MONO, BASS, BOX, SCREEN)), "as if it had never been there"
    screen = next(part for part in design.parts if part.name == SCREEN)
    none = apply_edits(design, [Edit(path=f"parts/{screen.id}/line_pairs", value=0)])
    assert not [f for f in evaluate(none).findings if f.rule == "lines-idle"]
