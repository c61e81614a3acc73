"""What a plan's signals do to the car's own functions: fade where both ends play one signal, chimes where the amplifier
that plays their speaker sleeps.
"""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import Intake, Keep
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.functions import FunctionKind
from ohmack.core.document.links import LineLink, RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.parts import Converter
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.function_edits import functions_for
from ohmack.core.factory.functions import Fate
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.signal.fade import ends_heard
from ohmack.core.signal.stereo import sides_played
from ohmack.core.signal.ways import pair_words, pairs_wanted
from ohmack.demo.building import catalogue, measured

TREES = {tree["name"]: tree for tree in catalogue()}
FOUR = "Tessel Four 70"
FRONTS, REARS = ("ch-fl", "ch-fr"), ("ch-rl", "ch-rr")
DOORS = ("spk-fl", "spk-fr", "spk-rl", "spk-rr")


def car(*names: str, keep: tuple[Keep, ...] = (Keep.FADE,), doors: tuple[str, ...] = DOORS) -> Design:
    """A saloon with an amplifier's channels on its doors, over the car's own wires."""
    vehicle = new_vehicle("Orrin", "Tern", 2012, Body.SALOON, Hand.LEFT)
    design = new_design("t", vehicle, Intake(must_keep=keep), Policy())
    design = apply_edits(design, [measured("vehicle/radio/tier", "plain radio")])
    design = apply_edits(design, functions_for(design))
    for name in names:
        design = apply_edits(design, added(design, TREES[name]))
    amp = next(part.id for part in design.parts if part.name == FOUR)
    wires = [
        {"id": f"to-{door}", "kind": "speaker", "from_id": amp, "to_id": door, "channel": 1 + DOORS.index(door)}
        for door in doors
    ]
    return apply_edits(design, [Edit(op="add", path="links", value={**w, "factory_wire": True}) for w in wires])


def fate(design: Design) -> tuple[Fate, list[Finding]]:
    answer = evaluate(design)
    (verdict,) = (v for v in answer.results.ledger if v.function.kind is FunctionKind.FADE)
    return verdict.fate, [f for f in answer.findings if f.rule == "function-lost" and f.title.startswith("Fade")]


def tapped(design: Design, *pairs: str) -> Design:
    (tap,) = design.links_of(TapLink)
    return apply_edits(design, [Edit(path=f"links/{tap.id}/from_ids", value=list(pairs))])


def lines(design: Design, *each: tuple[int, tuple[int, ...]]) -> Design:
    """The lines of a plan laid anew: which pair of the source into which channels."""
    old = list(design.links_of(LineLink))
    kept = old[0].model_dump(mode="json") if old else {}
    design = apply_edits(design, [Edit(op="remove", path=f"links/{line.id}") for line in old])
    rows = ({**kept, "id": f"line-{n}", "pair": pair, "channels": list(into)} for n, (pair, into) in enumerate(each))
    return apply_edits(design, [Edit(op="add", path="links", value=row) for row in rows])


def test_doors_that_all_play_the_front_pair_are_faded_no_more() -> None:
    """One pickup pair into four joined inputs; promised it stops the order, and one press picks up the rear pair."""
    one = tapped(car(FOUR), *FRONTS)
    lost, (said,) = fate(one)
    assert lost is Fate.LOST
    assert said.severity is Severity.STOP
    assert "one and the same signal, that of the front pair" in said.text
    assert said.remedy is not None
    mended = apply_edits(one, list(said.remedy.edits))
    assert next(mended.links_of(TapLink)).from_ids == (*FRONTS, *REARS)
    assert fate(mended) == (Fate.KEPT, [])
    kept_in_words = [p for p in evaluate(one).results.promises if "Fade" in p.words]
    assert [p.stands for p in kept_in_words] == [False]
    (amp,) = (part.id for part in one.parts if part.name == FOUR)
    rears = [Edit(op="remove", path=f"links/to-{door}") for door in DOORS[:2]]
    rears += [Edit(path=f"links/to-{door}/channel", value=n) for n, door in enumerate(DOORS[2:], 1)]
    _, (two,) = fate(apply_edits(one, [*rears, Edit(path=f"parts/{amp}/channel_count", value=2)]))
    assert two.remedy is not None
    assert two.remedy.edits == (), "two inputs take no four pairs"
    _, (unasked,) = fate(tapped(car(FOUR, keep=()), *FRONTS))
    assert unasked.severity is Severity.NOTE, "nobody asked for it"


def test_each_end_from_its_own_pair_is_faded_as_before() -> None:
    """Both pairs picked up; the fronts alone amplified, the rears on the radio; and the rears from the front pair."""
    assert fate(tapped(car(FOUR), *FRONTS, *REARS)) == (Fate.KEPT, [])
    assert fate(tapped(car(FOUR, doors=DOORS[:2]), *FRONTS)) == (Fate.KEPT, [])
    assert fate(tapped(car(FOUR, doors=DOORS[2:]), *FRONTS))[0] is Fate.LOST
    summed = ends_heard(tapped(car("Sprig LC2 active", FOUR, doors=DOORS[2:]), *FRONTS, *REARS))
    assert (set(summed.front), set(summed.rear)) == ({"front"}, {"both"})
    _, (said,) = fate(tapped(car("Sprig LC2 active", FOUR, doors=DOORS[2:]), *FRONTS, *REARS))
    assert "the rear speakers have no signal of their own" in said.text.lower()


@pytest.mark.parametrize(
    ("radio", "pairs", "kept"),
    [
        ("Quillon S2 screen radio", ((1, (1, 2)), (2, (3, 4))), True),
        ("Quillon S2 screen radio", ((1, (1, 2)), (3, (3, 4))), False),
        ("Quillon S2 screen radio", ((2, ()),), False),
        ("Quillon Q1 plain radio", ((1, ()),), False),
    ],
)
def test_the_lines_of_a_new_radio_are_front_rear_and_subwoofer(
    radio: str, pairs: tuple[tuple[int, tuple[int, ...]], ...], kept: bool
) -> None:
    """Of three pairs the first is the front's, the second the rear's (common practice, no source)."""
    assert (fate(lines(car(radio, FOUR), *pairs))[0] is not Fate.LOST) is kept


def test_a_processor_keeps_the_ends_apart_where_it_is_set_so() -> None:
    design = tapped(car("Quillon six-way processor", FOUR), *FRONTS, *REARS)
    apart = lines(design, (1, (1, 2)), (2, (3, 4)))
    (front, rear) = apart.links_of(LineLink)
    own = [Edit(path=f"links/{line.id}/input_ids", value=list(ids)) for line, ids in ((front, FRONTS), (rear, REARS))]
    assert fate(apply_edits(apart, own))[0] is not Fate.LOST
    assert fate(apart)[0] is Fate.LOST, "each of its outputs plays all that comes in"


def test_which_of_several_lines_a_processor_gives_out_is_set_in_it() -> None:
    """Two pairs of a new radio into it: nobody can say; one pair alone: that one, whatever is set."""
    design = car("Quillon S2 screen radio", "Quillon six-way processor", FOUR)
    (unit, dsp) = (next(p.id for p in design.parts if p.kind == kind) for kind in ("radio", "processor"))
    amp = next(part.id for part in design.parts if part.name == FOUR)
    clear = [Edit(op="remove", path=f"links/{k.id}") for k in design.links if isinstance(k, LineLink | TapLink)]
    rows = [(f"in-{n}", unit, dsp, n) for n in (1, 2)] + [(f"out-{n}", dsp, amp, n) for n in (1, 2)]
    laid = [
        Edit(op="add", path="links", value={"id": name, "kind": "line", "from_id": a, "to_id": b, "pair": n})
        for name, a, b, n in rows
    ]
    both = apply_edits(design, [*clear, *laid])
    assert not ends_heard(both).judged
    assert ends_heard(apply_edits(both, [Edit(op="remove", path="links/in-2")])).rear == {"front"}


def test_a_converter_with_two_outputs_keeps_the_ends_apart() -> None:
    """What goes into its second input comes out of its second output (common practice, no source)."""
    design = tapped(car("Sprig LC2 active", FOUR), *FRONTS, *REARS)
    (converter,) = design.parts_of(Converter)
    design = apply_edits(design, [Edit(path=f"parts/{converter.id}/output_pairs", value=2)])
    assert fate(lines(design, (1, (1, 2)), (2, (3, 4))))[0] is not Fate.LOST
    lost, (said,) = fate(lines(design, (2, (1, 2)), (1, (3, 4))))
    assert lost is Fate.LOST
    assert "front and rear are exchanged" in said.text.lower()
    assert fate(lines(design, (1, ())))[0] is Fate.LOST


def test_what_nobody_knows_is_not_judged() -> None:
    """A radio that is in the car already, and nobody looked at its back; nor where there are no rear speakers."""
    design = lines(car("Quillon Q1 plain radio", FOUR), (1, ()))
    (unit,) = (part.id for part in design.parts if part.kind == "radio")
    old = [measured("vehicle/radio/tier", "aftermarket radio"), Edit(op="remove", path=f"parts/{unit}")]
    amp = next(part.id for part in design.parts if part.name == FOUR)
    line = {"id": "line-x", "kind": "line", "from_id": design.vehicle.radio.id, "to_id": amp}
    unread = apply_edits(design, [*old, Edit(op="add", path="links", value=line)])
    assert not ends_heard(unread).judged
    assert fate(unread)[0] is not Fate.LOST
    read = apply_edits(unread, [measured("vehicle/radio/line_pairs", 1)])
    assert fate(read)[0] is Fate.LOST
    fronts = apply_edits(read, [Edit(op="remove", path=f"vehicle/speakers/{door}") for door in DOORS[2:]])
    assert not ends_heard(fronts).judged


def test_chimes_are_heard_while_a_door_is_open_or_it_is_said() -> None:
    """Lights left on, a key left in: with the key off (facts of the trade, no source)."""
    design = tapped(car(FOUR, keep=(Keep.CHIMES,)), *FRONTS, *REARS)
    (remote,) = design.links_of(RemoteLink)

    def said(now: Design) -> list[Severity]:
        return [f.severity for f in evaluate(now).findings if f.rule == "chimes-asleep"]

    live = f"vehicle/feeds/{remote.from_id}/live"
    key = ["accessory", "on"]
    key_only, awake = (apply_edits(design, [measured(live, states)]) for states in (key, ["door open", *key]))
    assert (said(key_only), said(awake)) == ([Severity.WATCH], [])
    assert said(apply_edits(design, [Edit(path=live, value={"value": None})])) == [], "another rule asks"
    assert said(apply_edits(key_only, [Edit(path="intake/must_keep", value=[])])) == [Severity.NOTE]
    rears = tapped(car(FOUR, keep=(Keep.CHIMES,), doors=DOORS[2:]), *REARS)
    assert said(apply_edits(rears, [measured(live, ["accessory", "on"])])) == [], "they come from the front"


def on_channels(*channels: int, keep: tuple[Keep, ...] = (Keep.FADE,), bridged: bool = False) -> Design:
    """The same saloon with its doors on these channels, all four pairs picked up."""
    design = tapped(car(FOUR, keep=keep, doors=DOORS[: len(channels)]), *FRONTS, *REARS)
    hung = [Edit(path=f"links/to-{door}/channel", value=n) for door, n in zip(DOORS, channels, strict=False)]
    more = [Edit(path=f"links/to-{door}/bridged", value=True) for door in DOORS[: len(channels)] if bridged]
    return apply_edits(design, [*hung, *more])


def said_of_sides(design: Design) -> list[Finding]:
    return [f for f in evaluate(design).findings if f.rule == "stereo"]


def test_each_side_plays_its_own_side_of_the_music() -> None:
    """The odd channel of an input is its left (common practice, no source)."""
    assert [row.plays for row in sides_played(on_channels(1, 2, 3, 4))] == ["left", "right"] * 2
    assert said_of_sides(on_channels(1, 2, 3, 4)) == []
    (front,) = said_of_sides(on_channels(2, 1, 3, 4))
    assert front.title == "Front left and right are exchanged"
    assert "Front left door hangs on channel 2" in front.text
    assert front.remedy is not None
    mended = apply_edits(on_channels(2, 1, 3, 4), list(front.remedy.edits))
    assert [k.channel for k in mended.links_of(SpeakerLink)] == [1, 2, 3, 4]
    (lone,) = said_of_sides(on_channels(1, 3))
    assert lone.title == "Front right door plays the left of the music"
    assert "What is mixed to the right is heard nowhere in this end of the car." in lone.text
    assert lone.about == "links/to-spk-fr/side"
    assert lone.remedy is not None
    mended = apply_edits(on_channels(1, 3), list(lone.remedy.edits))
    assert [k.channel for k in mended.links_of(SpeakerLink)] == [1, 2], "an even one that is free"


def test_doors_of_both_sides_on_one_channel_have_no_balance() -> None:
    """Two doors in parallel: mono; with balance promised the order waits, at the rear alone it is a remark."""
    mono = on_channels(1, 1)
    lost, (said,) = fate(mono)
    assert (lost, said.severity) == (Fate.LOST, Severity.STOP)
    assert "left and right speakers play one and the same signal" in said.text.lower()
    assert said.remedy is not None
    assert said.remedy.label == "Put it on channel 2"
    (front,) = said_of_sides(mono)
    assert front.severity is Severity.WATCH
    assert front.remedy is not None
    assert front.remedy.edits == said.remedy.edits
    mended = apply_edits(mono, list(front.remedy.edits))
    assert said_of_sides(mended) == []
    assert fate(mended) == (Fate.KEPT, [])
    rear = on_channels(1, 2, 3, 3)
    assert [f.severity for f in said_of_sides(rear)] == [Severity.NOTE]
    assert fate(rear)[0] is Fate.KEPT


def test_bridged_doors_take_one_side_into_both_inputs() -> None:
    """A bridged pair plays what comes into both of its inputs (common practice, no source)."""
    both = on_channels(1, 3, bridged=True)
    (front,) = said_of_sides(both)
    assert "bridged outputs play left and right added up" in front.title
    assert fate(both)[0] is Fate.LOST
    assert front.remedy is not None
    for channels in ((1, 3), (3, 1)):
        (front,) = said_of_sides(on_channels(*channels, bridged=True))
        assert front.remedy is not None
        each = apply_edits(on_channels(*channels, bridged=True), list(front.remedy.edits))
        rows = [row for row in sides_played(each) if row.link is not None]
        assert [(row.side, row.plays, row.link and row.link.channel) for row in rows] == [
            ("left", "left", 1), ("right", "right", 3),
        ]  # fmt: skip
        assert (said_of_sides(each), fate(each)[0]) == ([], Fate.KEPT)
        (joined,) = (f for f in evaluate(each).findings if f.rule == "inputs-joined")
        assert "its input switch left as it is" in joined.text
    (amp,) = both.parts_of(Amplifier)
    more = [Edit(path=f"parts/{amp.id}/channel_count", value=6)]
    more += [Edit(op="add", path="links", value={"id": "rear", "kind": "speaker", "from_id": amp.id, "to_id": "spk-rl",
                                                 "channel": 5})]  # fmt: skip
    (front,) = (f for f in said_of_sides(apply_edits(both, more)) if "bridged" in f.title)
    assert front.remedy is not None
    assert front.remedy.edits == (), "what feeds them feeds the rear too"
    one = tapped(on_channels(1, bridged=True), FRONTS[0])
    assert [row.plays for row in sides_played(one) if row.link is not None] == ["left"]


def test_one_line_pair_goes_by_sides_into_two_bridged_outputs() -> None:
    """A cable with a Y lead at either plug (common practice, no source): one pair wanted, two inputs fed by it."""
    design = car("Quillon S2 screen radio", FOUR, doors=DOORS[:2])
    hung = (("channel", (1, 3)), ("bridged", (True, True)))
    rows = [(f"links/to-{door}/{name}", value) for name, each in hung for door, value in zip(DOORS, each, strict=False)]
    design = lines(
        apply_edits(design, [Edit(path=path, value=value) for path, value in rows]), (1, (1, 2)), (2, (3, 4))
    )
    (front,) = said_of_sides(design)
    assert "left and right added up" in front.title
    assert front.remedy is not None
    mended = apply_edits(design, list(front.remedy.edits))
    (line,) = mended.links_of(LineLink)
    assert (line.pair, line.channels, line.by_sides) == (1, (1, 2, 3, 4), True)
    assert pair_words(mended, line) == "front into channels 1 and 2 with left, channels 3 and 4 with right"
    answer = evaluate(mended)
    assert not [f for f in answer.findings if f.rule in ("stereo", "line-pairs")]
    (lead,) = (row for row in answer.results.order if row.what == "Y lead for an RCA pair")
    assert (lead.amount, "input switch" in lead.note) == ("1", False)
    (amp,) = mended.parts_of(Amplifier)
    assert pairs_wanted(mended, amp) == 1
    back = Edit(path=f"links/{line.id}/by_sides", value=False)
    assert pairs_wanted(apply_edits(mended, [back]), amp) == 2
    apart = [Edit(path="links/to-spk-fr/channel", value=2)]
    apart += [Edit(path=f"links/to-{door}/bridged", value=False) for door in DOORS[:2]]
    (wrong,) = said_of_sides(apply_edits(mended, apart))
    assert wrong.title == "Front right door plays the left of the music"
    assert wrong.remedy is not None
    assert wrong.remedy.edits == (back,)


@pytest.mark.parametrize(("name", "plays"), [("Tessel M3000", "both"), ("a processor", None)])
def test_one_channel_adds_up_both_sides_and_a_processor_does_as_it_is_set(name: str, plays: str | None) -> None:
    design = on_channels(1)
    (amp,) = (part.id for part in design.parts if part.name == FOUR)
    tree = TREES.get(name, {**TREES[FOUR], "processor": True}) | {"id": amp, "speaker_level_high_v": 10.0}
    rows = sides_played(apply_edits(design, [Edit(path=f"parts/{amp}", value=tree)]))
    assert [row.plays for row in rows if row.link is not None] == [plays]


def test_a_processor_sends_either_side_anywhere() -> None:
    """But two sides on one output are one signal whatever is set."""
    design = tapped(car("Quillon six-way processor", FOUR), *FRONTS, *REARS)
    swapped = [Edit(path=f"links/to-{door}/channel", value=n) for door, n in zip(DOORS, (2, 1, 3, 3), strict=True)]
    rows = {row.speaker.id: row.plays for row in sides_played(apply_edits(design, swapped))}
    assert [rows[door] for door in DOORS] == [None, None, "both", "both"]
