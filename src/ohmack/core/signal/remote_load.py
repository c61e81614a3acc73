"""What hangs on every switch-on source, against what it gives."""

from __future__ import annotations

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.links import RemoteLink
from ohmack.core.document.parts import Accessory, Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.document.small_parts import SwitchingRelay
from ohmack.core.document.vehicle import Feed
from ohmack.core.figures.figure import Book, Figure, Formula, Term, reference
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.switch_on import RELAY_COIL_A

SWITCHED_LEAD_A = 0.2  # what a radio's switched lead takes to wake it, common practice
REMOTE_LOAD = Formula("Switch-on load", "a", "sum of what it switches", lambda *amps: sum(amps), PHYSICS)


@record
class SwitchOn:
    """One switch-on source and everything it drives."""

    source_id: str
    source_name: str
    feed: Feed | None
    converter: Converter | None
    link_ids: tuple[str, ...]
    load: Figure
    limit: Term


def compute_switch_on(book: Book) -> list[SwitchOn]:
    """Every switch-on source: what hangs on it against what it gives."""
    design = book.design
    by_source: dict[str, list[RemoteLink]] = {}
    for link in design.links_of(RemoteLink):
        by_source.setdefault(link.from_id, []).append(link)
    result = []
    for source_id, links in by_source.items():
        feed = next((f for f in design.vehicle.feeds if f.id == source_id), None)
        own = design.part(source_id)
        converter = own if isinstance(own, Converter) else None
        wanted = {link.to_id for link in links}
        switched: tuple[Amplifier | PoweredSubwoofer | Converter, ...] = (
            *design.parts_of(Amplifier),
            *design.parts_of(PoweredSubwoofer),
            *design.parts_of(Converter),
        )
        draws = [
            book.part(a, lambda it: it.remote_current_a, f"{a.name} turn-on", "a") for a in switched if a.id in wanted
        ]
        draws += [
            reference(f"{unit.name}, its switched lead", SWITCHED_LEAD_A, "a", PRACTICE)
            for unit in design.parts_of(HeadUnit)
            if unit.id in wanted
        ]
        if all(link.relay for link in links):
            relay = next(design.parts_of(SwitchingRelay), None)
            usual = reference("relay coil", RELAY_COIL_A, "a", PRACTICE)
            draws = [usual if relay is None else book.part(relay, lambda it: it.coil_a, f"{relay.name}: coil", "a")]
        load = book.figure(f"{source_id}/remote_load_a", REMOTE_LOAD, *draws)  # fmt: skip
        if feed:
            limit = book.fact(feed, lambda it: it.limit_a, "can give", "a")
        elif converter:
            limit = book.part(converter, lambda it: it.remote_out_limit_a, "remote output gives", "a")
        elif isinstance(own, (HeadUnit, Accessory)):
            limit = book.part(own, lambda it: it.remote_out_limit_a, "remote lead gives", "a")
        else:
            continue
        name = feed.name if feed else f"{own.name} remote {'output' if converter else 'lead'}" if own else source_id
        result.append(SwitchOn(source_id, name, feed, converter, tuple(link.id for link in links), load, limit))
    return result
