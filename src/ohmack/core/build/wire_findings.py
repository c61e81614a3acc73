"""What is wired to nothing that it needs, or twice."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Tier
from ohmack.core.document.grounding import ground_for
from ohmack.core.document.handles import at
from ohmack.core.document.links import (
    CapacitorLink,
    ChargeLink,
    FeedLink,
    GroundLink,
    LineLink,
    PowerLink,
    RemoteLink,
    SpeakerLink,
    TapLink,
)
from ohmack.core.document.part import PartBase
from ohmack.core.document.parts import (
    Accessory,
    Converter,
    DistributionBlock,
    HeadUnit,
    PoweredSubwoofer,
    Subwoofer,
)
from ohmack.core.figures.finding import BESIDE, Draft, Remedy, find_part, rule, set_to, stop, watch
from ohmack.core.figures.later import fit_now, fit_other_end, lay_now
from ohmack.core.reference import PRACTICE
from ohmack.core.supply.feed_taps import ELECTRONICS_A
from ohmack.core.wording import amount, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

Wanted = tuple[tuple[tuple[str, ...], str], ...]  # link kinds, any of which will do, and the words for them


def _wanted(part: PartBase, adapted: bool) -> tuple[Wanted, str]:
    """The links a part cannot do without, and what for; `adapted` where an adapter brings what the car plays."""
    match part:
        case Converter():
            why = (
                "An active converter needs constant 12 V with its own fuse, a ground, a signal, and something to drive."
                if part.active
                else "A passive converter needs a signal and something to drive."
            )
            pickup = ("tap", "line in") if part.kind == "processor" else ("tap",)
            return (
                (pickup, "signal pickup"),
                *(((("feed",), "feed of its own"),) if part.active else ()),
                (("line out",), "line to an amplifier"),
            ), why
        case PoweredSubwoofer():
            switch = () if part.senses_audio else ((("remote",), "switch-on"),)
            why = "It plays what a pair of the radio gives, comes on with it, and draws its current from a fused run."
            signal = tuple(
                kind for kind, takes in (("line in", part.takes_line), ("tap", part.takes_speaker_level)) if takes
            )
            return ((signal, "signal"), (("power", "feed"), "supply"), *switch), why
        case Accessory() if (part.current_a or 0.0) > ELECTRONICS_A:
            return (
                ((("feed",), "supply"),),
                (
                    f"{amount(part.current_a or 0.0, 'a')} do not come by themselves: give it a fused feed that carries"
                    " them."
                ),
            )
        case Subwoofer() if part.at_ids:
            return (), ""  # the car's own amplifier drives it, or a wire to its place
        case Subwoofer():
            return (
                (("speaker",), "amplifier"),
            ), "A driver on no channel plays nothing, and its load was never judged."
        case Amplifier():
            why = "Lay the missing wires in Plan; until then there is nothing to size."
            if part.plugs_in:  # supply and ground come over the factory plugs
                heard = () if adapted else ((("line in", "tap"), "signal"),)
                return ((("speaker",), "speaker wire"), *heard), why
            inputs = ("line in", "tap") if part.takes_speaker_level else ("line in",)
            ends = (
                ("power", "power wire"),
                ("ground", "ground lead"),
                ("speaker", "speaker wire"),
                ("remote", "switch-on"),
            )
            return (*(((kind,), name) for kind, name in ends), (inputs, "signal")), why
    return (), ""


@rule("wired-twice", "plan", PRACTICE)
def wired_twice(results: Results) -> Iterator[Draft]:
    """A second wire does what one does already; of two pickups into one part only one is judged."""
    seen: set[tuple[object, ...]] = set()
    for link in results.design.links:
        match link:
            case TapLink():
                same: tuple[object, ...] = (link.kind, link.to_id)
            case RemoteLink() | FeedLink() | ChargeLink() | CapacitorLink():
                same = (link.kind, link.from_id, link.to_id)
            case LineLink() if not isinstance(results.design.part(link.to_id), Amplifier):
                same = (link.kind, link.from_id, link.pair, link.to_id)
            case _:
                continue  # runs, grounds, speakers and lines into amplifiers have rules of their own
        if same in seen:
            part, run = results.design.part(link.to_id), results.runs.get(link.id)
            yield (stop if isinstance(link, TapLink) else watch)(
                link.id,
                f"{part.name if part is not None else link.to_id}: wired twice"
                f"{f', from {run.start_name}' if run is not None else ''}",
                "Only one pickup of a part is judged. Let one of them take all the pairs it wants."
                if isinstance(link, TapLink)
                else "There is such a wire already; this one is bought and laid for nothing.",
                Remedy("Take it out", (Edit(op="remove", path=at(link)),)),
            )
        seen.add(same)


def _tied(design: Design) -> set[tuple[str, str]]:
    """(kind of wire, part it goes to or comes from) of every wire of a design."""
    tied: set[tuple[str, str]] = {
        (k.kind, end) for k in design.links for end in ((k.to_id,) if k.kind == "remote" else ends_of(k))
    }
    lines = list(design.links_of(LineLink))
    return tied | {("line in", k.to_id) for k in lines} | {("line out", k.from_id) for k in lines}


@rule("link-missing", "plan", PRACTICE)
def link_missing(results: Results) -> Iterator[Draft]:
    """A part is not connected to what it needs."""
    for part, absent, why in _unconnected(results):
        if absent.keys() - SIGNAL:
            yield _lacks(results, part, absent, why)
    tied = _tied(results.design)
    for part in results.design.parts_of(PoweredSubwoofer):
        if ("power", part.id) in tied and ("ground", part.id) not in tied:
            yield stop(
                part.id,
                f"{part.name} has no ground lead",
                "What it draws has to flow back.",
                _of_later(results, part.id, ("ground",)) or Remedy("Wire it up", connect=part.id),
            )


@rule("signal-missing", "plan", PRACTICE)
def signal_missing(results: Results) -> Iterator[Draft]:
    """A part has all it needs but something to play."""
    for part, absent, why in _unconnected(results):
        if not absent.keys() - SIGNAL:
            yield _lacks(results, part, absent, why)


SIGNAL = {"signal", "signal pickup"}


def _unconnected(results: Results) -> Iterator[tuple[PartBase, dict[str, tuple[str, ...]], str]]:
    """(part, what it is not connected to with the links that would do, what for) of every part that lacks one."""
    design = results.design
    tied = _tied(design)
    adapters = [part for part in design.parts_of(Accessory) if part.is_amplifier_adapter]
    adapted = any(not part.gives_lines for part in adapters)  # how it joins them is on no paper here
    for part in design.parts:
        wanted, why = _wanted(part, adapted)
        lacks = {name: kinds for kinds, name in wanted if not any((kind, part.id) in tied for kind in kinds)}
        if lacks:
            yield part, lacks, why


def _lacks(results: Results, part: PartBase, absent: dict[str, tuple[str, ...]], why: str) -> Draft:
    """That a part is not connected to some of what it needs, and where that comes from."""
    kinds = [kind for kinds in absent.values() for kind in kinds]
    remedy = _of_later(results, part.id, kinds) or _lacking(results, part, set(absent))
    if remedy is not None and remedy.path:
        why = "With a pair of line outputs the radio plays it; without one it wants a converter. Count them."
    title = f"{part.name} has no {listed(list(absent))}"
    return stop(part.id, title, why, remedy or Remedy("Wire it up", connect=part.id))


def _of_later(results: Results, part_id: str, kinds: Iterable[str]) -> Remedy | None:
    """The press that brings forward what a part waits for, where wires of some kinds are planned for later: what they
    go to, else those wires.
    """
    if results.later is None or {(kind, part_id) for kind in kinds}.isdisjoint(_tied(results.later.design)):
        return None
    return fit_other_end(results, part_id) or lay_now(results, part_id)


def _lacking(results: Results, part: PartBase, absent: set[str]) -> Remedy | None:
    """The part a part waits for, where nothing in the plan or the car could be wired to it."""
    design = results.design
    radio, unit = design.vehicle.radio, next(design.parts_of(HeadUnit), None)
    if absent <= SIGNAL:
        if unit is None and radio.tier.value is Tier.NONE:
            return fit_now(results, "radio") or find_part("Find a radio", "radio")
        adapter = any(part.gives_lines for part in design.parts_of(Accessory))
        plugs = isinstance(part, Amplifier) and part.plugs_in  # what it takes out of the car plays it nothing
        if plugs and unit is None and not adapter and radio.tier.value is Tier.RING:
            return find_part("Find an adapter", "accessory", BESIDE)
        fitted_later = unit is None and radio.tier.value is Tier.AFTERMARKET and not isinstance(part, Converter)
        if fitted_later and radio.line_pairs.value is None:
            return Remedy("Enter it", path=at(radio, lambda it: it.line_pairs))
        by_line = (unit is not None and unit.line_pairs) or radio.line_pairs.value or any(design.parts_of(Converter))
        by_line = by_line or adapter
        pairs = any(place.usable for place in results.pickups)
        by_pair = (getattr(part, "takes_speaker_level", False) and pairs) or isinstance(part, Converter)
        if by_line or by_pair:
            return None
        return fit_now(results, "converter", "processor") or find_part("Find a converter", "converter")
    wired = {link.to_id for link in design.links_of(SpeakerLink)}
    subs = list(design.parts_of(Subwoofer))
    if absent == {"line to an amplifier"}:
        return _nothing_to_feed(design, part)
    if absent == {"amplifier"}:
        joins = any(sub.id in wired for sub in subs)  # the output of one that is driven already
        if joins or _free_channel(design):
            return None
        return fit_now(results, "amplifier") or find_part("Find an amplifier", "amplifier", BESIDE)
    if isinstance(part, Amplifier) and "speaker wire" in absent and absent <= {"speaker wire", "signal"}:
        plugged = next((other for other in design.parts_of(Amplifier) if other.plugs_in), part)
        if part.plugs_in and (plugged is not part or all(drive.by_amplifier for drive in results.drives)):
            return Remedy("Take it out", (Edit(op="remove", path=at(part)),))  # it has no outputs but the car's own
        several = part.channels > 1
        whole = results.later.design if results.later is not None else design
        taken = wired | {link.to_id for link in whole.links_of(SpeakerLink)}  # by an amplifier of later too
        sub_waits = any(sub.id not in taken for sub in subs)
        waits = (drive.speaker.id for drive in results.drives if not drive.by_amplifier)
        speaker_waits = several and any(name not in taken for name in waits)
        return None if sub_waits or speaker_waits else find_part("Find what it drives", "subwoofer", BESIDE)
    return None


def _nothing_to_feed(design: Design, part: PartBase) -> Remedy | None:
    """What is done about a converter that no amplifier waits for; None where one does."""
    amplifiers = (a for a in design.parts_of(Amplifier) if not a.plugs_in)  # one on the car's plugs takes no line
    players = [*amplifiers, *design.parts_of(PoweredSubwoofer)]
    fed = {link.to_id for link in design.links if isinstance(link, LineLink | TapLink)}
    if not players:
        return find_part("Find an amplifier", "amplifier")
    if any(player.id not in fed for player in players):
        return None
    return Remedy("Take it out", (Edit(op="remove", path=at(part)),))


def _free_channel(design: Design) -> bool:
    """Whether some amplifier has a channel nothing hangs on."""
    return any(len(design.channels_taken(one.id)) < one.channels for one in design.parts_of(Amplifier))


def _to_metal(design: Design, block_id: str, leads: list[GroundLink]) -> Remedy | None:
    """The press that takes ground leads off a block, each to the point of the car next to what it grounds."""
    edits = [Edit(op="remove", path=at(lead)) for lead in leads if lead.from_id == block_id]
    for lead in (lead for lead in leads if lead.to_id == block_id):
        place = getattr(design.part(lead.from_id), "position", None)
        point = ground_for(design, place) if place is not None else None
        if point is None:
            return None
        edits.append(set_to(at(lead, lambda it: it.to_id), point.id))
    return Remedy("Ground each by itself", tuple(edits)) if edits else None


def _of_grounds(results: Results, block: DistributionBlock, grounds: list[GroundLink]) -> Iterator[Draft]:
    """What is wrong with a block that gathers ground leads: it ends nowhere, plus is on it too, or fuses are in it."""
    design = results.design
    apart = _to_metal(design, block.id, grounds)
    if any(block.id in ends_of(k) for k in design.links_of(PowerLink)):
        title = f"{block.name}: plus and ground on one block"
        why = (
            "All its terminals are one piece of metal: the battery is shorted through it, up to the fuse where there is"
            " one. Plus has its block, grounds have another, or go to bare metal each."
        )
        yield stop(block.id, title, why, apart)
    elif all(k.from_id != block.id for k in grounds):
        title = f"{block.name} gathers grounds, and no lead goes from it to bare metal"
        why = "What is on it has no ground: its current looks for the line leads. One lead, sized for the sum."
        press = _of_later(results, block.id, ("ground",)) or Remedy("Wire it up", connect=block.id)
        yield stop(block.id, title, why, press)
    elif all(k.to_id != block.id for k in grounds):
        title = f"{block.name} goes to bare metal, and nothing grounds at it"
        out = Remedy("Take it out", (Edit(op="remove", path=at(block)),))
        yield stop(block.id, title, "Bring the ground leads beside it to it, or leave it out.", out)
    if block.fused and any(k.to_id == block.id for k in grounds):
        title = f"{block.name} has fuses, and grounds are on it"
        why = (
            "With one of them blown an amplifier finds its ground over the line leads, and burns them and what they are"
            " plugged into. Grounds want a block without fuses, or bare metal each."
        )
        yield watch(block.id, title, why, apart)


@rule("part-unwired", "plan", PRACTICE)
def part_unwired(results: Results) -> Iterator[Draft]:
    """A part that works only in the wiring stands on the list and in no wire."""
    design = results.design
    for block in design.parts_of(DistributionBlock):
        grounds = [k for k in design.links_of(GroundLink) if block.id in ends_of(k)]
        if grounds:
            yield from _of_grounds(results, block, grounds)
            continue
        runs = list(design.links_of(PowerLink))
        said = {"nothing feeds it": [k.to_id for k in runs], "nothing is fed from it": [k.from_id for k in runs]}
        absent = [words for words, ends in said.items() if block.id not in ends]
        if absent:
            feeds = any(link.to_id != block.id for link in runs)
            first = Remedy("Wire it up", connect=block.id) if feeds else find_part("Find what it feeds", "amplifier")
            yield stop(
                block.id,
                f"{block.name} is in no wire: {listed(absent)}",
                "A block is one main run in and a way to everything behind it. Wired in, the main run is sized for the"
                " sum and every way for its own.",
                _of_later(results, block.id, ("power", "ground")) or first,
            )
    for part in (a for a in design.parts_of(Accessory) if a.category == "capacitor"):
        yield stop(
            part.id,
            f"{part.name} is bought, not wired",
            "As an accessory it has no capacitance and no wire. Take it out, and take one of the kind “capacitor”.",
            find_part("Find one", "capacitor"),
        )
