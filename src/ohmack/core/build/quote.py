"""The quote: parts, cable, labour by the steps, what is found in the car; now, later, and what changed since a yes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import ROUND_HALF_UP, Decimal
from typing import TYPE_CHECKING

from ohmack.core.build.order import small_price
from ohmack.core.document import Design
from ohmack.core.document.part import PartBase, Phase
from ohmack.core.document.work import Accepted
from ohmack.core.record import record
from ohmack.core.wording import count, time_span

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

CENT = Decimal("0.01")
PARTS, CABLE, LABOUR, FOUND, LATER = (
    "Parts", "Cable and joints", "Labour", "Found in the car", "Later, not in the sum"
)  # fmt: skip


def money(value: float | Decimal) -> Decimal:
    """A sum to the cent, half a cent upwards."""
    return Decimal(str(value)).quantize(CENT, ROUND_HALF_UP)


def rounded(value: Decimal, to: Decimal) -> Decimal:
    """A sum to the nearest multiple, a half upwards, written to the cent."""
    return ((value / to).quantize(Decimal(1), ROUND_HALF_UP) * to).quantize(CENT)


@record
class Line:
    """One line: at least and at most."""

    key: str
    group: str
    what: str
    low: Decimal
    high: Decimal
    note: str = ""


@record
class Sums:
    """Net, tax and total of a range."""

    net_low: Decimal
    net_high: Decimal
    tax_low: Decimal
    tax_high: Decimal
    round_to: Decimal = CENT

    @property
    def low(self) -> Decimal:
        """At least, tax in it, rounded as the shop rounds."""
        return rounded(self.net_low + self.tax_low, self.round_to)

    @property
    def high(self) -> Decimal:
        """At most, tax in it, rounded as the shop rounds."""
        return rounded(self.net_high + self.tax_high, self.round_to)


@record
class Changed:
    """A line that is not what was accepted; None where there was, or is, none."""

    what: str
    was: tuple[Decimal, Decimal] | None
    now: tuple[Decimal, Decimal] | None

    @property
    def by_low(self) -> Decimal:
        """How much more, at least."""
        return (self.now[0] if self.now else Decimal(0)) - (self.was[0] if self.was else Decimal(0))

    @property
    def by_high(self) -> Decimal:
        """How much more, at most."""
        return (self.now[1] if self.now else Decimal(0)) - (self.was[1] if self.was else Decimal(0))


@record
class Margin:
    """What parts bring the shop: never on a customer's paper."""

    sold: Decimal
    bought: Decimal
    unknown: tuple[str, ...]  # parts nobody noted a cost of; they are in neither sum

    @property
    def earned(self) -> Decimal:
        """The difference."""
        return self.sold - self.bought

    @property
    def share_percent(self) -> Decimal:
        """What is earned of what they are sold for [percent]; 0 where nothing is."""
        return self.earned / self.sold * 100 if self.sold else Decimal(0)


@record
class Quote:
    """The whole of it."""

    lines: tuple[Line, ...]
    unpriced: tuple[str, ...]  # parts without a price: they are in no sum
    sums: Sums
    deposit: Decimal
    changed: tuple[Changed, ...]  # since it was accepted
    margin: Margin

    def group(self, name: str) -> list[Line]:
        """The lines of one heading."""
        return [line for line in self.lines if line.group == name]

    def sum_of(self, name: str) -> tuple[Decimal, Decimal]:
        """What one heading comes to, at least and at most."""
        return _sum(self.group(name))


def against_budget(budget: float, low: float, high: float, currency: str, whose: str) -> str:
    """How a price stands to what the customer has, in words.

    Parameters:
        budget: what the customer has, tax in it.
        low, high: at least and at most what is to be paid, in the same currency.
        currency: its name.
        whose: whose money it is, as it is said to who reads it.
    """
    if high <= budget:
        return f"within {whose} {budget:.0f} {currency}"
    if low > budget:
        return f"{low - budget:.0f} {currency} or more above {whose} {budget:.0f} {currency}"
    return f"may pass {whose} {budget:.0f} {currency} by up to {high - budget:.0f} {currency}"


def quote_of(results: Results) -> Quote:
    """What the work costs.

    Parameters:
        results: the evaluated plan.

    Returns:
        lines, sums to the cent with the shop's tax, what changed since somebody accepted. Labour is the range of the
        steps at the shop's rate; parts the customer brings cost nothing here; parts without a price are named.
    """
    design = results.design
    lines = tuple(_lines(results))
    counted = [line for line in lines if line.group != LATER]
    net_low, net_high = _sum(counted)
    rate = Decimal(str(design.policy.tax_percent)) / 100
    sums = Sums(net_low, net_high, money(net_low * rate), money(net_high * rate),
                Decimal(design.policy.quote_round_to))  # fmt: skip
    deposit = money(sums.low * Decimal(str(design.policy.deposit_percent)) / 100)
    changed = _changed(counted, design.work.accepted)
    return Quote(lines, _unpriced(design), sums, deposit, changed, _margin(design))


def _sum(lines: Sequence[Line]) -> tuple[Decimal, Decimal]:
    return sum((n.low for n in lines), Decimal(0)), sum((n.high for n in lines), Decimal(0))


def _lines(results: Results) -> Iterator[Line]:
    design, book = results.design, results.book
    for part in (results.later or results).design.parts:
        if part.in_car:
            continue
        price = money(0 if part.by_customer else (part.price or 0))
        later = part.phase is Phase.LATER
        note = "the customer's own" if part.by_customer else _state(part)
        if part.price is not None or part.by_customer:
            yield Line(f"part:{part.id}", LATER if later else PARTS, part.name, price, price, note)
    for name, figure in book.figures.items():
        if name.startswith("cable/") and figure.value is not None:
            yield Line(name, CABLE, figure.name, money(figure.value), money(figure.value))
    if results.joints.price:
        joints = money(results.joints.price)
        yield Line("joints", CABLE, "Joints, sleeves and adapters", joints, joints)
    if small := small_price(results):
        what, note = "Fuses, holders, rings, line leads and small parts", "as ordered, one spare of each fuse"
        yield Line("small", CABLE, what, money(small), money(small), note)
    if ties := money(sum((row.price for row in results.sundries), Decimal(0))):
        yield Line(
            "ties",
            CABLE,
            "Ties, loom, tape, grommets",
            ties,
            ties,
            "what is used of them",
        )
    plan, hour = results.work_plan, Decimal(str(design.policy.labour_rate))
    if plan.steps:
        low, high = (money(Decimal(str(m)) / 60 * hour) for m in (plan.low_min, plan.high_min))
        note = f"{time_span(plan.low_min, plan.high_min)} by {count(len(plan.steps), 'step')}"
        yield Line("labour", LABOUR, "Labour", low, high, note)
    for found in design.vehicle.alterations:
        minutes = found.work_min.value
        if minutes:
            cost = money(Decimal(str(minutes)) / 60 * hour)
            yield Line(f"found:{found.id}", FOUND, found.name, cost, cost, f"{minutes:g} min, {found.kind.value}")


def _state(part: PartBase) -> str:
    """Where a part stands, and how long its supplier takes."""
    lead = f", {count(part.lead_days, 'day')} from the supplier" if part.lead_days and not part.at_hand else ""
    return f"{part.stands.value}{lead}"


def _margin(design: Design) -> Margin:
    sold = [
        p for p in design.parts
        if p.price is not None and not p.by_customer and not p.in_car and p.phase is Phase.NOW
    ]  # fmt: skip
    known = [p for p in sold if p.cost_price is not None]
    brings = sum((money(p.price or 0) for p in known), Decimal(0))
    costs = sum((money(p.cost_price or 0) for p in known), Decimal(0))
    return Margin(brings, costs, tuple(p.name for p in sold if p.cost_price is None))


def _unpriced(design: Design) -> tuple[str, ...]:
    return tuple(
        p.name for p in design.parts
        if p.price is None and not p.by_customer and not p.in_car and p.phase is Phase.NOW
    )  # fmt: skip


def _changed(lines: list[Line], accepted: Accepted | None) -> tuple[Changed, ...]:
    """Line by line, what is not as it was accepted."""
    if accepted is None:
        return ()
    was = {line.key: line for line in accepted.lines}
    now = {line.key: line for line in lines}
    found = []
    for key in dict.fromkeys((*was, *now)):
        old, new = was.get(key), now.get(key)
        before = (Decimal(old.low_cents) / 100, Decimal(old.high_cents) / 100) if old is not None else None
        after = (new.low, new.high) if new is not None else None
        if before != after:
            found.append(Changed(new.what if new is not None else old.what if old is not None else key, before, after))
    return tuple(found)


def accepted_lines(quote: Quote) -> list[dict[str, object]]:
    """The lines of a quote as they are kept when somebody accepts it."""
    return [
        {"key": n.key, "what": n.what[:120], "low_cents": int(n.low * 100), "high_cents": int(n.high * 100)}
        for n in quote.lines
        if n.group != LATER
    ]
