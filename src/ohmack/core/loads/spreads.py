"""How the subwoofers of an amplifier could be spread over its channels, single and bridged, each spread judged by the
best wiring of every output.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from re import Match, sub

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.figures.finding import set_to
from ohmack.core.loads.wiring_judge import EVEN, OnChannel, WiringOption, best_wiring
from ohmack.core.loads.wirings import AmplifierLoad, output_rows
from ohmack.core.record import record
from ohmack.core.wording import LETTERS, count, listed

MOST_SHOWN = 6


@record
class Output:
    """One channel, or two bridged from it on."""

    channel: int
    bridged: bool


@record
class Spread:
    """Which drivers hang on which output, with the best wiring of each; every driver once."""

    outputs: tuple[tuple[Output, tuple[str, ...], WiringOption], ...]  # output, ids of links, wiring
    chosen: bool = False

    @property
    def words(self) -> str:
        """The spread in words."""
        said = []
        for output, names, option in self.outputs:
            where = f"{output.channel} and {output.channel + 1} bridged" if output.bridged else f"{output.channel}"
            said.append(
                f"channel{'s' if output.bridged else ''} {where}: {count(len(names), 'driver')}, {option.words}"
            )
        return "; ".join(said)

    @property
    def power_w(self) -> float:
        """What all outputs give together [w]."""
        return sum(option.power_w or 0.0 for _, _, option in self.outputs)

    @property
    def least(self) -> float | None:
        """What the driver with the least gets of what it takes; None where that is not known."""
        shares = [one.share for _, _, option in self.outputs for one in option.drivers]
        return None if None in shares or not shares else min(s for s in shares if s is not None)

    @property
    def most(self) -> float | None:
        """What the driver with the most gets of what it takes."""
        shares = [one.share for _, _, option in self.outputs for one in option.drivers]
        return None if None in shares or not shares else max(s for s in shares if s is not None)


def spreads(design: Design, load: AmplifierLoad) -> tuple[Spread, ...]:
    """Every spread of an amplifier's subwoofers over its channels.

    Parameters:
        design: the design.
        load: the amplifier with what it drives now.

    Returns:
        spreads all of whose outputs are permitted, the best first, the present one marked; none where something else
        than subwoofers hangs on it, or there is nothing to spread. Subwoofers play one signal, so they may move.

    Source: enumeration; ranked by the shop's window, equal sharing, power.
    """
    driven = [(d, link) for out in load.outputs for d, link in zip(out.driven, out.links, strict=False)]
    amplifier = load.amplifier
    unknown = any(not d.coils or not d.is_subwoofer or link.coils for d, link in driven)
    if unknown or len(driven) < 2 or amplifier.channels < 2 or len(driven) != sum(len(o.links) for o in load.outputs):
        return ()
    now = frozenset((o.link.channel, o.link.bridged, tuple(sorted(k.id for k in o.links))) for o in load.outputs)
    each = tuple((OnChannel(d.name, d.coils, d.power_rms_w), link.id) for d, link in driven)
    policy = design.policy
    found = []
    for spread in _every(amplifier, each, policy.match_low, policy.match_high):
        key = frozenset((o.channel, o.bridged, tuple(sorted(names))) for o, names, _ in spread.outputs)
        found.append(Spread(spread.outputs, key == now))
    return tuple(found)


def edits_of(design: Design, spread: Spread) -> tuple[Edit, ...]:
    """Edits that spread the drivers so; Ohmack wires each output as it was judged."""
    links = {link.id: link for link in design.links_of(SpeakerLink)}
    edits: list[Edit] = []
    for output, names, option in spread.outputs:
        ordered = [name for name in links if name in names]  # the first of them carries the wiring
        key = _lettered(option.key, names, ordered)
        for name in ordered:
            link = links[name]
            edits += [
                set_to(at(link, lambda it: it.channel), output.channel),
                set_to(at(link, lambda it: it.bridged), output.bridged),
                set_to(at(link, lambda it: it.wiring), key if name == ordered[0] else ""),
            ]
    return tuple(edits)


def _lettered(key: str, names: Sequence[str], ordered: Sequence[str]) -> str:
    """A key with the letters drivers have in the order of the design; a lone driver has none."""

    def own(found: Match[str]) -> str:
        at_ = ordered.index(names[LETTERS.index(found[1])])
        return f"{LETTERS[at_] if len(names) > 1 else ''}{found[2]}"

    return sub(r"\b([A-Z])(\d+)", own, key)


@lru_cache(maxsize=32)
def _every(
    amplifier: Amplifier, drivers: tuple[tuple[OnChannel, str], ...], low: float, high: float
) -> tuple[Spread, ...]:
    kinds: dict[tuple[object, ...], list[tuple[OnChannel, str]]] = {}
    for driver, link in drivers:
        key = (tuple((c.impedance_ohm, c.dc_resistance_ohm) for c in driver.coils), driver.takes_w)
        kinds.setdefault(key, []).append((driver, link))
    alike = list(kinds.values())
    found: dict[frozenset[object], Spread] = {}
    for outputs in _outputs(amplifier):
        for counts in _shared([len(kind) for kind in alike], len(outputs)):
            spread = _spread(amplifier, outputs, counts, alike, (low, high))
            if spread is None:
                continue
            alike_key = frozenset(
                (o.bridged, amplifier.group_of(o.channel).first, counts[n], list(counts).count(counts[n]))
                for n, o in enumerate(outputs)
                if any(counts[n])
            )
            found.setdefault(alike_key, spread)

    def rank(one: Spread) -> tuple[bool, bool, float, int]:
        least, most = one.least, one.most
        suits = least is not None and most is not None and low <= least and most <= high
        even = least is not None and most is not None and most <= EVEN * least
        return (not suits, not even, -one.power_w, len(one.outputs))

    return tuple(sorted(found.values(), key=rank))


def _outputs(amplifier: Amplifier) -> Iterator[tuple[Output, ...]]:
    """Ways to bridge: every pair of neighbours of a kind bridged or not."""
    groups = [list(group.numbers) for group in amplifier.groups]
    bridges = any(group.bridged_ratings for group in amplifier.groups)

    def lay(left: list[int]) -> Iterator[tuple[Output, ...]]:
        if not left:
            yield ()
            return
        for rest in lay(left[1:]):
            yield (Output(left[0], False), *rest)
        if bridges and len(left) > 1 and any({left[0], left[1]} <= set(g) for g in groups) and left[0] % 2:
            for rest in lay(left[2:]):
                yield (Output(left[0], True), *rest)

    yield from lay([number for group in groups for number in group])


def _shared(kinds: Sequence[int], outputs: int) -> Iterator[tuple[tuple[int, ...], ...]]:
    """Ways to deal so many drivers of each kind to so many outputs: [output][kind]."""

    def deal(many: int, left: int) -> Iterator[tuple[int, ...]]:
        if left == 1:
            yield (many,)
            return
        for first in range(many, -1, -1):
            for rest in deal(many - first, left - 1):
                yield (first, *rest)

    def every(left: Sequence[int]) -> Iterator[tuple[tuple[int, ...], ...]]:
        if not left:
            yield ()
            return
        for row in deal(left[0], outputs):
            for rest in every(left[1:]):
                yield (row, *rest)

    for by_kind in every(kinds):
        yield tuple(tuple(row[n] for row in by_kind) for n in range(outputs))


def _spread(
    amplifier: Amplifier,
    outputs: Sequence[Output],
    counts: Sequence[Sequence[int]],
    kinds: Sequence[Sequence[tuple[OnChannel, str]]],
    window: tuple[float, float],
) -> Spread | None:
    """A spread with the best wiring of every output; None where one of them is not permitted."""
    taken = [0] * len(kinds)
    rows = []
    for output, many in zip(outputs, counts, strict=True):
        own: list[tuple[OnChannel, str]] = []
        for k, number in enumerate(many):
            own += kinds[k][taken[k] : taken[k] + number]
            taken[k] += number
        if not own:
            continue
        ratings, lowest_ohm = output_rows(amplifier, output.channel, output.bridged)
        option = best_wiring(tuple(ratings), lowest_ohm, tuple(driver for driver, _ in own), *window)
        if option is None or option.power_w is None:
            return None
        rows.append((output, tuple(link for _, link in own), option))
    return Spread(tuple(rows))


def said(spread: Spread) -> str:
    """What a spread gives, in words."""
    words = [f"{spread.power_w:.0f} W in all"]
    if spread.least is not None and spread.most is not None:
        same = spread.most <= 1.01 * spread.least
        words.append(
            f"{spread.least:.0%} of what each driver takes" if same else f"{spread.least:.0%} to {spread.most:.0%}"
        )
    return listed(words)
