"""Rules on now and later, and on where parts stand: what would be cut, rerun or bought again, what to wait for."""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.conductors import Conductor, cable_price
from ohmack.core.document.links import TapLink
from ohmack.core.document.parts import Amplifier, Converter, FuseHolder, HeadUnit, Phase, Stands
from ohmack.core.reference import PRACTICE
from ohmack.core.rules.finding import Draft, Remedy, note, rule, set_to, watch
from ohmack.core.sections.results import Results
from ohmack.core.wording import count, listed


def _price(results: Results, wire: Conductor, link_id: str) -> float:
    return cable_price(wire, results.runs[link_id].length.value or 0.0)


@rule("phase-rework", "plan", PRACTICE)
def phase_rework(results: Results) -> Iterator[Draft]:
    """What is done now would have to be cut, rerun or bought again later."""
    today, design = results.now, results.design
    if today is None:
        return
    money = design.policy.currency
    sized = {s.link.id: s for s in today.supplies}
    for supply in results.supplies:
        before, chosen = sized.get(supply.link.id), supply.chosen
        if chosen is None:
            continue
        if before is None:
            yield watch(
                supply.link.id, f"A second power run later: {chosen.wire.label} for {supply.amplifier.name}",
                f"Laid today with the trim off, its cable costs about {_price(results, chosen.wire, supply.link.id):.0f} {money}; later the same trim comes off again. "
                "Coil its end up, fuse out, both ends insulated and labelled.",
                Remedy("Look at the part", path=f"parts/{supply.amplifier.id}"),
            )  # fmt: skip
        elif before.chosen and before.chosen.wire.area_mm2 < chosen.wire.area_mm2:
            more = _price(results, chosen.wire, supply.link.id) - _price(results, before.chosen.wire, supply.link.id)
            yield note(
                supply.link.id, f"{chosen.wire.label} today, though {before.chosen.wire.label} would do for now",
                f"With the later parts the thinner wire would have to come out again. Providing for it costs about {more:.0f} {money} today.",
            )  # fmt: skip
    yield from _room_for_fuses(results, len([s for s in results.supplies if s.link.id not in sized]))
    radios = [p for p in design.parts_of(HeadUnit) if p.phase is Phase.LATER]
    if radios:
        for tap in design.links_of(TapLink):
            if tap.method.value == "splice":
                yield watch(
                    tap.id, "Spliced now, cut again for the later radio",
                    f"{radios[0].name} takes the same plug: a plug adapter today comes off without a cut.",
                    Remedy("Take a plug adapter", (set_to(f"links/{tap.id}/method", "plug adapter"),)),
                )  # fmt: skip
        for converter in design.parts_of(Converter):
            if converter.phase is Phase.NOW and radios[0].line_pairs:
                yield watch(
                    converter.id, f"{converter.name} is bought for the time until {radios[0].name}",
                    f"The later radio has {count(radios[0].line_pairs, 'line pair')} of its own; "
                    f"{converter.price or 0:.0f} {money} are gone then. Radio first, or a converter that can be sold on.",
                    Remedy("Look at the part", path=f"parts/{converter.id}"),
                )  # fmt: skip


def _room_for_fuses(results: Results, later_runs: int) -> Iterator[Draft]:
    """Whether the holders bought now have room for the fuses of later runs."""
    holders = [h for h in results.design.parts_of(FuseHolder) if h.phase is Phase.NOW]
    if not later_runs or not holders or results.now is None:
        return
    room = sum(h.circuits for h in holders)
    wanted = len(results.now.supplies) + later_runs
    if room < wanted:
        yield watch(
            holders[0].id, f"{count(wanted, 'power fuse')} in the end, {listed([h.name for h in holders])} has room for {room}",
            "A block with room for all costs little more today; later a second holder needs a second place and a second terminal on the post.",
            Remedy("Find another", path="stage:find"),
        )  # fmt: skip


@rule("parts-waiting", "plan", PRACTICE)
def parts_waiting(results: Results) -> Iterator[Draft]:
    """The job waits for parts, not the bay."""
    missing = [p for p in results.design.parts if p.phase is Phase.NOW and p.stands is not Stands.HERE]
    slow = max((p for p in missing if p.lead_days), key=lambda p: p.lead_days or 0, default=None)
    if slow is not None and (slow.lead_days or 0) >= 3:
        yield note(
            slow.id, f"Order {slow.name} first: {slow.lead_days} days",
            f"{count(len(missing), 'part')} not here yet. Book the bay when the last one is: {listed([p.name for p in missing][:4])}.",
            Remedy("Look at the part", path=f"parts/{slow.id}"),
        )  # fmt: skip


@rule("customer-part", "plan", PRACTICE)
def customer_part(results: Results) -> Iterator[Draft]:
    """A part is the customer's own: say in writing who answers for it."""
    own = [p for p in results.design.parts if p.by_customer]
    if own:
        yield note(
            own[0].id, f"The customer's own: {listed([p.name for p in own])}",
            "Check it on the bench before the car is opened, and have it signed: the shop answers for the work, not for the part. "
            + ("Its rating is the customer's word until measured." if any(isinstance(p, Amplifier) for p in own) else ""),
        )  # fmt: skip
