"""The power tree: from every source to every part it feeds, the current in each branch and the volts at each end."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ohmack.core.document.handles import at
from ohmack.core.document.vehicle import Battery, Feed, FeedRole
from ohmack.core.figures.figure import Book, Figure, Reading
from ohmack.core.network.solve import node_voltages_v, ports
from ohmack.core.network.states import State
from ohmack.core.physics.conductors import resistance_factor
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS
from ohmack.core.supply.charging import Charging
from ohmack.core.supply.own_runs import SelfFed
from ohmack.core.supply.pack_feed import PackFeed
from ohmack.core.supply.results import At, SupplyResult
from ohmack.core.supply.small_circuits import ConverterFeed
from ohmack.core.supply.study import Study, solved
from ohmack.core.wording import amount, times_of

AT_BLOCK = Reading(
    "At the block, against the battery's negative post", "v", "all consumers solved together", lambda at: at.volts(),
    PHYSICS,
)  # fmt: skip


COLD_C = -18.0  # at which batteries are judged cold, SAE J537 from memory
COLD_LOST = Reading(
    "Lost with the wire cold", "v", "wire resistance × (1 + 0.00393 × (t − 20)), solved again", lambda at: at.drop_v,
    PHYSICS,
)  # fmt: skip


def compute_cold(book: Book, study: Study, supplies: Sequence[SupplyResult]) -> dict[str, Figure]:
    """By consumer, what is lost around its loop with the runs at −18 °C.

    Parameters:
        book: the book of the design.
        study: the solved network.
        supplies: every run with what it feeds.

    Returns:
        losses [v]; none while nothing is solved.
    """
    if study.network is None or State.RUNNING not in study.conditions:
        return {}
    emf = study.conditions[State.RUNNING].emf_v
    solution = solved(study, State.COLD, emf, {}, resistance_factor(COLD_C))
    found = {}
    for supply in supplies:
        name = supply.part.id
        if not supply.is_main and name in solution.voltage_v and supply.source_v is not None:
            at = At(solution, name, supply.source_v)
            found[name] = book.reading(f"{name}/cold_drop_v", COLD_LOST, at, *supply.figures["hot"].inputs[:-1])
    return found


@record
class _AtNode:
    """A node of the solved network against a battery's negative post."""

    node_v: Mapping[str, float]
    node: str
    minus: str

    def volts(self) -> float | None:
        """What a meter would show [v]; None while nothing is solved."""
        here = self.node_v.get(self.node)
        return None if here is None else here - self.node_v.get(self.minus, 0.0)


@record
class Node:
    """A thing current comes to: over what, how much, and the volts there."""

    path: str
    name: str
    current_a: float | None  # None where it is not known
    over: str  # wire and fuse it comes over, in words; empty at a source
    volts: Figure | float | None
    behind: tuple[Node, ...] = ()
    charges: bool = False  # whether it only comes while that battery is charged

    @property
    def volts_v(self) -> float | None:
        """The volts there [v]."""
        return self.volts.value if isinstance(self.volts, Figure) else self.volts

    @property
    def leaves(self) -> int:
        """How many ends are behind it, itself where none is."""
        return sum(n.leaves for n in self.behind) or 1

    @property
    def depth(self) -> int:
        """How many branches one after another are behind it."""
        return 1 + max((n.depth for n in self.behind), default=-1) if self.behind else 0

    @property
    def carried_a(self) -> float:
        """What goes through it to the parts behind it, or its own current [a]."""
        return self.current_a if self.current_a is not None else sum(n.carried_a for n in self.behind)


def compute_tree(
    book: Book, study: Study, supplies: Sequence[SupplyResult], charging: Sequence[Charging],
    feeds: Sequence[ConverterFeed], self_fed: Sequence[SelfFed], pack_feeds: Sequence[PackFeed] = (),
) -> tuple[Node, ...]:  # fmt: skip
    """The sources of a plan with everything behind them.

    Parameters:
        book: the book of the design.
        study: the solved network.
        supplies: every run with what it feeds.
        charging: the charge cables.
        feeds: what hangs on factory feeds.
        self_fed: parts with amplifiers of their own.
        pack_feeds: voltage converters with what they draw from batteries of more than 12 V.

    Returns:
        batteries and feeds that feed something, each with its branches; currents are those at full level, engine
        running.
    """
    volts_v = _nodes(study)
    vehicle = book.design.vehicle
    found = []
    charged = {c.battery.id for c in charging}

    def of(battery: Battery) -> Node | None:
        node = _battery(book, battery, supplies, charging, self_fed, volts_v)
        converters = _converters(book, supplies, pack_feeds, volts_v) if battery is vehicle.supply.batteries[0] else ()
        if not converters:
            return node
        holds_v = vehicle.supply.post_running_v.value
        behind = (*(node.behind if node else ()), *converters)
        return Node(at(battery), battery.name, None, "", holds_v, behind)

    for battery in vehicle.supply.batteries:
        if battery.id not in charged and (node := of(battery)):
            found.append(node)
    once: dict[str, ConverterFeed] = {}  # a radio on two feeds draws through the constant one
    for one in sorted(feeds, key=lambda one: one.feed.role is not FeedRole.CONSTANT):
        once.setdefault(one.part.id, one)
    for feed in vehicle.feeds:
        if (node := _feed(feed, list(once.values()))) is not None:
            found.append(node)
    return tuple(found)


def together_a(supplies: Sequence[SupplyResult]) -> float | None:
    """What everything on power runs draws at full level [a]; None while one of it is not known."""
    amps = [s.figures["current"].value for s in supplies if not s.is_main]
    return None if any(a is None for a in amps) else float(sum(a for a in amps if a is not None))


def _nodes(study: Study) -> dict[str, float]:
    """Every node's volts, engine running; empty while nothing is solved."""
    if study.network is None or State.RUNNING not in study.solutions:
        return {}
    condition, solution = study.conditions[State.RUNNING], study.solutions[State.RUNNING]
    folded = ports(study.network, condition.emf_v, condition.inner_ohm, condition.warm)
    return node_voltages_v(study.network, folded, solution, condition.emf_v, condition.inner_ohm)


def _battery(
    book: Book, battery: Battery, supplies: Sequence[SupplyResult], charging: Sequence[Charging],
    self_fed: Sequence[SelfFed], volts_v: dict[str, float],
) -> Node | None:  # fmt: skip
    """A battery with its runs, its charge cables and the parts that would get a run of their own."""
    behind = [
        _run(book, s, supplies, volts_v, battery)
        for s in supplies
        if s.battery_id == battery.id and s.link is s.way[0] and s.link.from_id == battery.id
    ]  # fmt: skip
    for cable in charging:
        if cable.link.from_id != battery.id:
            continue
        if (other := _battery(book, cable.battery, supplies, charging, self_fed, volts_v)) is not None:
            current = cable.figures["current"].value if "current" in cable.figures else None
            words = _over(cable.wire.label if cable.wire else None, cable.figures.get("fuse"))
            behind.append(Node(other.path, other.name, current, words, other.volts, other.behind, charges=True))
    if battery is book.design.vehicle.supply.batteries[0]:
        behind += [
            Node(at(own.part), own.part.name, own.current.value, _over(own.wire.value, own.fuse), None)
            for own in self_fed
            if not own.on_feed
        ]
    if not behind:
        return None
    source_v = next((s.source_v for s in supplies if s.battery_id == battery.id), None)
    drawn = None if any(n.charges for n in behind) else sum(n.carried_a for n in behind)
    return Node(at(battery), battery.name, drawn, "", source_v, tuple(behind))


def _converters(
    book: Book, supplies: Sequence[SupplyResult], pack_feeds: Sequence[PackFeed], volts_v: dict[str, float]
) -> tuple[Node, ...]:
    """Every voltage converter with the runs that begin at it."""
    first = book.design.vehicle.supply.batteries[0]
    return tuple(
        Node(
            at(one.part), one.part.name, one.current.value, _over(str(one.wire.value), one.fuse), one.part.out_v,
            tuple(
                _run(book, s, supplies, volts_v, first)
                for s in supplies
                if s.link is s.way[0] and s.link.from_id == one.part.id
            ),
        )
        for one in pack_feeds
    )  # fmt: skip


def _run(
    book: Book, supply: SupplyResult, supplies: Sequence[SupplyResult], volts_v: dict[str, float], battery: Battery
) -> Node:
    """A power run with what hangs behind it."""
    wire = supply.chosen.wire.label if supply.chosen else None
    words = _over(wire, supply.figures["fuse"] if supply.link.fuse else None, supply.link.fuse_count)
    current = supply.figures["current"].value
    if not supply.is_main:
        return Node(at(supply.part), supply.part.name, current, words, supply.figures["voltage"])
    behind = tuple(
        _run(book, s, supplies, volts_v, battery)
        for s in supplies
        if s.link is not supply.link and len(s.way) > 1 and s.way[-2] is supply.link
    )
    volts = book.reading(
        f"{supply.part.id}/block_v", AT_BLOCK, _AtNode(volts_v, f"{supply.part.id} plus", f"{battery.id} minus"),
        supply.figures["current"], supply.figures["drop"], name=f"At {supply.part.name}, against the negative post",
    )  # fmt: skip
    return Node(at(supply.part), supply.part.name, current, words, volts, behind)


def _feed(feed: Feed, feeds: Sequence[ConverterFeed]) -> Node | None:
    """A factory feed with what hangs on it."""
    behind = tuple(
        Node(at(one.part), one.part.name, one.draws_a, _over(one.wire.label, one.fuse), None)
        for one in feeds
        if one.feed is feed and one.draws_a > 0
    )
    if not behind:
        return None
    return Node(at(feed), feed.name, sum(n.carried_a for n in behind), "", None, behind)


def _over(wire: str | None, fuse: Figure | None, fuses: int = 1) -> str:
    """The wire and the fuse of a branch, in words."""
    parts = [wire or "wire not chosen"]
    if fuse is not None and fuse.value is not None:
        parts.append(f"{times_of(fuses)}{amount(fuse.value, 'a')} {'fuse' if fuses <= 1 else 'fuses'}")
    return ", ".join(parts)
