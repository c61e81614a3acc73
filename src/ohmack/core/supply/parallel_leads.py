"""Rules on several leads beside each other in one run, and the edits that give each of them a fuse of its own."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, sure
from ohmack.core.document.links import PowerLink
from ohmack.core.figures.finding import Draft, Remedy, rule, set_to, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.supply.whose import whose
from ohmack.core.wording import amount, count

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

FED_BACK = 3  # leads from which on a fault in one is fed by more than one other fuse


def own_leads(link: PowerLink, many: int) -> tuple[Edit, ...]:
    """The edits that lay a new run as several leads of Ohmack's choice, each with a fuse of its own."""
    return (
        set_to(at(link, lambda it: it.wire.leads), many),
        set_to(at(link, lambda it: it.wire.size), None),
        *_each(link),
    )


def _each(link: PowerLink) -> tuple[Edit, ...]:
    """The edits that give each of a run's leads a fuse of its own, of Ohmack's choice; the leads stay as they are."""
    return (
        set_to(at(link, lambda it: it.fuse_each), True),
        set_to(at(link, lambda it: sure(it.fuse).rating_a), None),
    )


def further_leads(link: PowerLink, part: object) -> Remedy | None:
    """The remedy that takes a lead to every power terminal of a part; None where it has one, or they are taken."""
    if not isinstance(part, Amplifier) or link.fuse is None or link.in_car or link.wire.leads >= part.terminal_count:
        return None
    return Remedy(f"Take {count(part.terminal_count, 'lead')}, each fused", own_leads(link, part.terminal_count))


@rule("leads-one-fuse", "supply", PRACTICE)
def leads_one_fuse(results: Results) -> Iterator[Draft]:
    """Leads lie in parallel behind one fuse, which lets more through than one of them may carry."""
    for supply in results.supplies:
        chosen, link = supply.chosen, supply.link
        if chosen is None or link.fuse is None or chosen.wire.leads < 2 or link.fuse_each:
            continue
        one_a = chosen.ampacity_a / chosen.wire.leads
        if chosen.fuse_a > one_a:
            yield watch(
                link.id,
                whose(results, supply, f"{chosen.fuse_a:g} A for leads that may carry {one_a:.0f} A each"),
                "With one of them loose the others carry all of it, and the fuse does not open. Each lead with a fuse"
                " of its own is safe whatever happens to its neighbour.",
                Remedy("Look at the run", path=at(link)) if link.in_car else Remedy("Fuse each lead", _each(link)),
            )


@rule("leads-fed-back", "supply", PRACTICE)
def leads_fed_back(results: Results) -> Iterator[Draft]:
    """Three leads or more, each with its fuse at the source: a short in one is fed from its far end by the others."""
    for supply in results.supplies:
        chosen = supply.chosen
        if chosen is None or chosen.fuses < FED_BACK:
            continue
        back_a = (chosen.fuses - 1) * chosen.fuse_a
        if back_a > chosen.behind_one_a:
            yield watch(
                supply.link.id,
                whose(results, supply, f"A short in one of {chosen.fuses} leads is fed back by the others"),
                f"Their fuses let {amount(back_a, 'a')} through to its far end, and it may carry"
                f" {chosen.behind_one_a:.0f} A. Put a fuse at that end of every lead too, or take two thicker ones: of"
                " two the other's fuse protects it.",
                Remedy("Take two leads", own_leads(supply.link, 2)),
            )
