"""The small circuits: switch-on, the converter's own feed, speaker cable, line cable."""

from __future__ import annotations

from dataclasses import dataclass
from math import log10

from ohmack.core.conductors import Conductor, ampacity_a, conductor, sizes
from ohmack.core.document import Design
from ohmack.core.document.links import FeedLink, Link, RemoteLink, SpeakerLink
from ohmack.core.document.parts import Amplifier, Converter, PoweredSubwoofer
from ohmack.core.document.vehicle import Feed
from ohmack.core.protection import best_fuse, family
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.sections.figures import Book, Figure, Term, reference
from ohmack.core.sections.loads import LoadResult
from ohmack.core.sections.runs import Run
from ohmack.core.sections.wire_choice import wire_of
from ohmack.core.switching import RELAY_COIL_A

SMALL = {"AWG": {"remote": "18 AWG", "tap": "18 AWG", "feed": "16 AWG"},
         "mm2": {"remote": "1.5 mm2", "tap": "1.5 mm2", "feed": "1.5 mm2"}}  # fmt: skip


@dataclass(frozen=True, slots=True)
class SwitchOn:
    """One switch-on source and everything it drives."""

    source_id: str
    source_name: str
    feed: Feed | None
    converter: Converter | None
    link_ids: tuple[str, ...]
    load: Figure
    limit: Term


@dataclass(frozen=True, slots=True)
class ConverterFeed:
    """The feed of a converter or a powered subwoofer, with its fuse."""

    link: FeedLink
    part: Converter | PoweredSubwoofer
    feed: Feed
    wire: Conductor
    fuse: Figure
    fuse_reason: str


@dataclass(frozen=True, slots=True)
class SpeakerCable:
    """The cable of one speaker link."""

    link: SpeakerLink
    wire: Conductor
    loss: Figure


def small_wire(design: Design, link: Link) -> Conductor:
    """The wire of a small circuit: as named, or the shop's usual size."""
    usual = SMALL[design.policy.wire_system].get(link.kind, SMALL[design.policy.wire_system]["tap"])
    return wire_of(link.wire) or conductor(usual, link.wire.material)


def compute_switch_on(book: Book) -> list[SwitchOn]:
    """Every switch-on source: what hangs on it against what it gives."""
    design = book.design
    by_source: dict[str, list[RemoteLink]] = {}
    for link in design.links_of(RemoteLink):
        by_source.setdefault(link.source_id, []).append(link)
    result = []
    for source_id, links in by_source.items():
        feed = next((f for f in design.vehicle.feeds if f.id == source_id), None)
        converter = next((c for c in design.parts_of(Converter) if c.id == source_id), None)
        wanted = {link.amplifier_id for link in links}
        draws = [
            book.part(a, "remote_current_a", f"{a.name} turn-on", "a")
            for a in (*design.parts_of(Amplifier), *design.parts_of(PoweredSubwoofer))
            if a.id in wanted
        ]
        if all(link.relay for link in links):
            draws = [reference("relay coil", RELAY_COIL_A, "a", PRACTICE)]
        load = book.derive(
            f"{source_id}/remote_load_a", "Switch-on load", "a", "sum of what hangs on it",
            lambda *amps: sum(amps), *draws, source=PHYSICS,
        )  # fmt: skip
        if feed:
            limit = book.fact(f"vehicle/feeds/{feed.id}/limit_a", "can give", feed.limit_a, "a")
        elif converter:
            limit = book.part(converter, "remote_out_limit_a", "remote output gives", "a")
        else:
            continue
        name = feed.name if feed else f"{converter.name} remote output" if converter else source_id
        result.append(SwitchOn(source_id, name, feed, converter, tuple(link.id for link in links), load, limit))
    return result


def compute_feeds(book: Book) -> list[ConverterFeed]:
    """The feed and fuse of every converter and powered subwoofer; a plug-in amplifier keeps the factory's fuse."""
    design = book.design
    result = []
    fed: dict[str, Converter | PoweredSubwoofer] = {
        p.id: p for p in design.parts if isinstance(p, (Converter, PoweredSubwoofer))
    }
    for link in design.links_of(FeedLink):
        converter = fed.get(link.converter_id)
        if converter is None:
            continue
        feed = next(f for f in design.vehicle.feeds if f.id == link.feed_id)
        wire = small_wire(design, link)
        carries_a = ampacity_a(wire, engine_space=False)
        draws = book.part(converter, "supply_current_a", f"{converter.name} draws", "a")
        wanted = book.part(converter, "fuse_a", "fuse its maker names", "a")
        own = link.fuse.rating_a if link.fuse else None
        choice = best_fuse("blade", max(converter.supply_current_a, 0.05), carries_a, 0.8)
        standard = [size for size in family("blade").ratings_a if size >= converter.fuse_a]
        rating_a = own or (standard[0] if standard else choice.rating_a)
        figure = book.derive(
            f"{converter.id}/feed_fuse_a", f"{converter.name}: feed fuse", "a", "as its maker names, next standard blade",
            lambda *_, a=rating_a: a, draws, wanted, source=PRACTICE,
        )  # fmt: skip
        result.append(ConverterFeed(link, converter, feed, wire, figure, f"wire carries {carries_a:.0f} A"))
    return result


def loss_db(wire_ohm: float, load_ohm: float) -> float:
    """Power lost in a speaker cable.

    Parameters:
        wire_ohm: there and back [ohm].
        load_ohm: load [ohm].

    Returns:
        loss [db].

    Formula: 20 log10(1 + R_wire / Z). Source: textbook circuit theory.
    """
    return 20 * log10(1 + wire_ohm / load_ohm)


def compute_speaker_cable(book: Book, run: Run, load: LoadResult, link: SpeakerLink) -> SpeakerCable:
    """The speaker cable: smallest that loses little enough and carries the current."""
    policy = book.design.policy
    length_m, load_ohm = run.length.value, load.chosen.load_ohm
    power_w = load.power.value or 0.0
    current_a = (power_w / load_ohm) ** 0.5
    pool = sizes(policy.wire_system, link.wire.material)

    def loss_of(wire: Conductor) -> float:
        return loss_db(2 * wire.resistance_ohm_per_m * (length_m or 0.0), load_ohm)

    good = [w for w in pool if loss_of(w) <= policy.speaker_loss_db and w.ampacity_a >= current_a]
    wire = wire_of(link.wire) or (good[0] if good else pool[-1])
    loss = book.derive(
        f"{link.id}/loss_db", f"Lost in {wire.label} speaker cable", "db", "20 log₁₀(1 + 2 R L / Z)",
        lambda *_: loss_of(wire), run.length, load.load, book.policy("speaker_loss_db", "loss allowed", "db"),
        source=PHYSICS,
    )  # fmt: skip
    return SpeakerCable(link, wire, loss)
