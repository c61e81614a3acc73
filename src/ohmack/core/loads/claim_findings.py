"""Rules on power that a label claims and no supply lets in."""

from __future__ import annotations

from collections.abc import Iterator
from math import floor
from typing import TYPE_CHECKING

from ohmack.core.document.amplifiers import Amplifier, AmplifierClass, ChannelGroup, Rating
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.document.policy import Policy
from ohmack.core.figures.finding import Draft, Remedy, rule, set_to, stop, watch
from ohmack.core.physics.supply import power_behind_fuses_w
from ohmack.core.reference import PHYSICS
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

RATED_AT_V = 14.4  # as ratings are stated, ANSI/CTA-2006 (from memory)
CARRIES = 1.1  # of its rating a fuse carries for long, ISO 8820-3 (from memory); a claim within it may be true
PEAK = 1.5  # times what goes in: no rounding, but a peak or a sum of peaks; common practice
RATED = ("ratings", "bridged_ratings", "further_ratings", "further_bridged_ratings")


@rule("power-claimed", "loads", PHYSICS)
def power_claimed(results: Results) -> Iterator[Draft]:
    """More power is claimed to come out than the part's own fuses, or what it draws, let in."""
    policy = results.design.policy
    for part in results.design.parts:
        if isinstance(part, Amplifier) and part.fuses_a:
            claimed_w, most_a, of = _claimed_w(part), sum(part.fuses_a), "its own fuses"
            edits = _scaled(part, policy, most_a, claimed_w)
            path = at(part, lambda it: it.ratings)
        elif isinstance(part, PoweredSubwoofer):
            claimed_w, most_a, of = part.power_rms_w, part.supply_current_a, "the current it draws"
            path = at(part, lambda it: it.power_rms_w)
            behind_w = power_behind_fuses_w(most_a, RATED_AT_V, policy.efficiency_class_d, 1.0)
            edits = (set_to(path, _whole(behind_w)), _unread(part, "power_rms_w"))
        else:
            continue
        in_w = most_a * RATED_AT_V
        if claimed_w > CARRIES * in_w:
            yield (stop if claimed_w > PEAK * in_w else watch)(
                path,
                f"{part.name}: {amount(claimed_w, 'w')} RMS claimed, {amount(in_w, 'w')} go in",
                f"{amount(most_a, 'a')}, {of}, at {RATED_AT_V:g} V: no more can come out than goes in. The largest"
                " number on a label is a peak, or a sum of peaks. Ask for RMS power, or read the fuses again.",
                Remedy("Plan with what goes in", edits),
            )


def _claimed_w(amplifier: Amplifier) -> float:
    """What all its channels together would give at once, single or bridged."""
    return sum(_group_w(group) for group in amplifier.groups)


def _group_w(group: ChannelGroup) -> float:
    single_w = group.count * max((row.power_w for row in group.ratings), default=0.0)
    return max(single_w, group.count // 2 * max((row.power_w for row in group.bridged_ratings), default=0.0))


def _scaled(amplifier: Amplifier, policy: Policy, fused_a: float, claimed_w: float) -> tuple[Edit, ...]:
    """Edits that bring every row of its ratings down to what its fuses let through, and say nobody has read them."""
    usual = policy.efficiency_class_ab if amplifier.amplifier_class is AmplifierClass.AB else policy.efficiency_class_d
    behind_w = power_behind_fuses_w(fused_a, RATED_AT_V, amplifier.efficiency or usual, policy.fuse_headroom)
    tables: list[tuple[str, tuple[Rating, ...]]] = [(name, getattr(amplifier, name)) for name in RATED]
    rows = [
        set_to(
            f"{at(amplifier)}/{name}",
            [{"load_ohm": r.load_ohm, "power_w": _whole(r.power_w * behind_w / claimed_w)} for r in ratings],
        )
        for name, ratings in tables
        if ratings
    ]
    return *rows, _unread(amplifier, *(name for name, ratings in tables if ratings))


def _unread(part: Amplifier | PoweredSubwoofer, *names: str) -> Edit:
    """The edit that says nobody has read these values off the part."""
    before = [name for name in part.taken_as_usual if name not in names]
    return set_to(at(part, lambda it: it.taken_as_usual), [*before, *names])


def _whole(power_w: float) -> float:
    """Whole watts, rounded down; a small one stays as it is."""
    return float(floor(power_w)) or power_w
