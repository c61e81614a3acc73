"""Rules of the protection study: fuses that open too late, cannot break the short, or open with the one before them."""

from __future__ import annotations

from collections.abc import Iterator
from math import isinf
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.figures.finding import Draft, Remedy, note, rule, stop, watch
from ohmack.core.physics.protection import family
from ohmack.core.physics.time_current import LONGEST_S
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.supply.protection_study import Protected, slow
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

QUICK_S = 5.0  # a dead short has to be over by then: IEC 60364-4-41 for fixed circuits, from memory


@rule("fuse-opens-late", "supply", PHYSICS)
def fuse_opens_late(results: Results) -> Iterator[Draft]:
    """In a short or a long overload the wire is damaged before its fuse has opened, or the short lasts too long."""
    for one in results.protection:
        far_a, opens_s, stands_s = one.far.value, one.opens.value, one.stands.value
        if far_a is None or opens_s is None or stands_s is None:
            continue
        words = f"{one.name}: {one.rating_a:g} A {family(one.family).title.lower()}"
        if slow(one):
            yield stop(
                at(one.link),
                f"{words} {_late(opens_s)}, the wire stands {_lasts(stands_s)}",
                f"A short at the far end drives {far_a:.0f} A. A thicker wire lets more flow and stands more; a smaller"
                " fuse opens sooner.",
                Remedy("See the chart", sheet="protection"),
            )
        elif one.bare_from_a is not None:
            yield watch(
                at(one.link),
                f"{words} may let {one.bare_from_a:.0f} A flow longer than the wire stands",
                "An overload, not a dead short: a pinched wire or a failing amplifier. Take a thicker wire or a smaller"
                " fuse.",
                Remedy("See the chart", sheet="protection"),
            )
        elif opens_s > QUICK_S:
            yield watch(
                at(one.link),
                f"{words} may take {amount(opens_s, 's')} to open in a short at the far end",
                f"Only {far_a:.0f} A flow there, too little to open it at once: the wire survives, what it touches may"
                " not. A thicker wire or a shorter run drives the fuse harder.",
                Remedy("See the chart", sheet="protection"),
            )


def _late(opens_s: float) -> str:
    return "may never open" if isinf(opens_s) else f"may take {amount(opens_s, 's')} to open"


def _lasts(stands_s: float) -> str:
    return "it hour after hour" if stands_s >= LONGEST_S else amount(stands_s, "s")


@rule("breaking-capacity", "supply", PRACTICE)
def breaking_capacity(results: Results) -> Iterator[Draft]:
    """More flows in a short behind the fuse than fuses of its family break."""
    for one in results.protection:
        near_a, most_a = one.near.value, one.breaks_a[1]
        if near_a is None or near_a <= most_a:
            continue
        what = family(one.family).title.lower()
        yield note(
            at(one.link),
            f"{one.name}: a short behind its fuse drives {near_a:.0f} A; a {what} usually breaks {most_a:.0f} A",
            "More than that may go on arcing instead of opening: read on the fuse what it breaks. Near the battery take"
            " a bolt-down strip made for it.",
            Remedy("Look at the fuse", path=at(one.link)),
        )


def _rated(one: Protected) -> str:
    """The fuses of a run in words."""
    many = one.link.fuse_count
    return f"{one.rating_a:g} A fuse" if many == 1 else f"{many} fuses of {one.rating_a:g} A"


@rule("not-selective", "supply", PRACTICE)
def not_selective(results: Results) -> Iterator[Draft]:
    """A short behind a branch fuse may open the main one too, or instead."""
    for one in results.protection:
        if one.before is None or one.selective is None or one.always_selective:
            continue
        up_to_a, far_a = one.selective.value, one.far_a
        if up_to_a is None or far_a is None:
            continue
        fuses = f"its {_rated(one)} and the {_rated(one.before)} before it"
        sure = f"Sure only up to {up_to_a:.0f} A; a short there drives {far_a:.0f} A."
        if up_to_a <= one.rated_a * 1.001:
            sure = "Their bands overlap at every current."
        yield note(
            at(one.link),
            f"{one.name}: {fuses} may open together",
            f"{sure} Then everything is silent, not this part alone: look at both.",
            Remedy("See the chart", sheet="protection"),
        )
