"""From a design to its power network: the way each consumer's current takes, and the branches along it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from math import hypot

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at, at_id
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import PoweredSubwoofer, VoltageConverter
from ohmack.core.document.vehicle import Battery, GroundKind, GroundPoint
from ohmack.core.figures.figure import Book, Term, reference
from ohmack.core.network.model import Branch, Cell, Consumer, Place, PowerNetwork
from ohmack.core.physics.conductors import Conductor
from ohmack.core.physics.protection import fuse_resistance_ohm
from ohmack.core.record import record
from ohmack.core.reference import Grade, Source, table
from ohmack.core.wording import amount

Fed = Amplifier | PoweredSubwoofer
HUB = "body"  # the body where the first battery's strap meets it
COMMON = "body at the ground points"  # of all points nobody has measured by themselves


@record
class Way:
    """The way one consumer's current takes: power links from the battery on, ground links back, and where they end."""

    part: Fed
    battery: Battery
    power: tuple[PowerLink, ...]
    ground: tuple[GroundLink, ...]  # empty while none is laid
    point: GroundPoint | None  # where the ground links end

    @property
    def own(self) -> PowerLink:
        """The last power link, which feeds this consumer alone."""
        return self.power[-1]

    @property
    def own_ground(self) -> GroundLink | None:
        """The first ground link, which carries this consumer's current alone."""
        return self.ground[0] if self.ground else None


@record
class Sized:
    """What a power link is made of: its conductor, and its fuse where it has one."""

    wire: Conductor
    fuse_a: float | None
    fuses: int = 1  # beside each other, one a lead

    @property
    def fused_a(self) -> float | None:
        """What its fuses let through together [a]."""
        return None if self.fuse_a is None else self.fuse_a * max(self.fuses, 1)


def ways(design: Design) -> tuple[Way, ...]:
    """The way of every consumer that a chain of power links ties to a battery, in the order of the links."""
    feeding: dict[str, PowerLink] = {k.to_id: k for k in reversed(tuple(design.links_of(PowerLink)))}
    returning: dict[str, GroundLink] = {k.from_id: k for k in reversed(tuple(design.links_of(GroundLink)))}
    batteries = {b.id: b for b in design.vehicle.supply.batteries}
    # a voltage converter hangs on both poles of the first battery: what it feeds comes back there
    batteries |= {c.id: design.vehicle.supply.batteries[0] for c in design.parts_of(VoltageConverter)}
    points = {p.id: p for p in design.vehicle.ground_points}
    found = []
    for link in design.links_of(PowerLink):
        part = design.part(link.to_id)
        if not isinstance(part, Fed) or feeding[part.id] is not link:
            continue
        power = tuple(reversed([feeding[name] for name in _chain(part.id, feeding, "from_id")]))
        ground = tuple(returning[name] for name in _chain(part.id, returning, "to_id"))
        if (battery := batteries.get(power[0].from_id)) is None:
            continue  # a block nothing feeds
        point = points.get(ground[-1].to_id) if ground else None
        found.append(Way(part, battery, power, ground if point else (), point))
    return tuple(found)


def _chain(start: str, links: Mapping[str, PowerLink | GroundLink], on: str) -> list[str]:
    """The things met from one link to the next, each once; every one of them has a link."""
    met: list[str] = []
    here = start
    while here in links and here not in met:
        met.append(here)
        here = getattr(links[here], on)
    return met


def parents(design: Design) -> dict[str, PowerLink]:
    """By power link, the one that feeds the block it starts at."""
    feeding = {link.to_id: link for link in design.links_of(PowerLink)}
    return {link.id: feeding[link.from_id] for link in design.links_of(PowerLink) if link.from_id in feeding}


# -- the way back ---------------------------------------------------------------------------------------------------


def _beside(design: Design, battery: Battery) -> bool:
    """Whether a battery besides the first stands by a ground point of the car, so that its strap meets the body
    there.
    """
    most_m = float(table("supply", "second_battery")["beside_m"])
    points = [p for p in design.vehicle.ground_points if p.kind.value is not GroundKind.BATTERY]
    return not points or any(_apart_m(point, battery) <= most_m for point in points)


def _apart_m(point: GroundPoint, battery: Battery) -> float:
    return hypot(point.position.x_m - battery.position.x_m, point.position.y_m - battery.position.y_m)


def _home(design: Design, battery: Battery) -> str:
    """The node of the body where a battery's strap meets it."""
    first = battery is design.vehicle.supply.batteries[0]
    return HUB if first or not _beside(design, battery) else f"body at {battery.id}"


def _end_of(design: Design, way: Way) -> str:
    """The node a way's ground lead ends at: a battery's post, a point with a reading of its own, by a battery, or in
    common.
    """
    supply, point = design.vehicle.supply, way.point or next(iter(design.vehicle.ground_points), None)
    if way.point is not None and way.point.kind.value is GroundKind.BATTERY:
        return f"{min(supply.batteries, key=lambda b: _apart_m(way.point, b)).id} minus"  # type: ignore[arg-type]
    if way.point is not None and way.point.body_return_ohm.value is not None:
        return way.point.id
    most_m = float(table("supply", "second_battery")["beside_m"])
    near = [b for b in supply.batteries[1:] if point is None or _apart_m(point, b) <= most_m]
    own = way.battery if way.battery in near else next(iter(near), None)
    return f"points at {own.id}" if own is not None else COMMON


def _back(book: Book, way: Way) -> tuple[str, tuple[tuple[Branch, bool], ...]]:
    """(the node the ground lead ends at, the branches from there to the way's own negative post, each with whether
    it is passed backwards).
    """
    design = book.design
    supply, start = design.vehicle.supply, _end_of(design, way)
    minus, home = f"{way.battery.id} minus", _home(design, way.battery)
    if start == minus:
        return start, ()
    along: list[tuple[Branch, bool]] = []
    here = start
    for battery in supply.batteries:
        if start == f"{battery.id} minus":  # grounded at another battery's post
            here = _home(design, battery)
            along.append((_strap(book, battery, here), True))
        elif start == f"points at {battery.id}" and battery is not supply.batteries[0]:
            here = f"body at {battery.id}"
            none: Source = table("supply", "second_battery")["source"]
            words = "no body between, the ground points lie beside each other"
            along.append(
                (Branch(f"{battery.id}/beside", Place.BODY, start, here, reference(words, 0.0, "ohm", none)), False)
            )
    if here != home:
        along += [(_body(book, way.point, here), False)] if here != HUB else []
        along += [(_body(book, None, home), True)] if home != HUB else []
    along.append((_strap(book, way.battery, home), False))
    return start, tuple(along)


def _body(book: Book, point: GroundPoint | None, start: str) -> Branch:
    """From a node of the body to where the first battery's strap meets it."""
    supply = book.design.vehicle.supply
    if point is not None and start == point.id:
        own = book.fact(point, lambda it: it.body_return_ohm, f"body return from {point.name}", "ohm")
        return Branch(f"{start}/body", Place.BODY, start, HUB, own)
    term = book.fact(supply, lambda it: it.body_return_ohm, "body return", "ohm")
    return Branch(f"{start}/body", Place.BODY, start, HUB, term)


def _strap(book: Book, battery: Battery, body: str) -> Branch:
    """From the body to a battery's negative post."""
    supply = book.design.vehicle.supply
    if battery is supply.batteries[0]:
        term = book.fact(supply, lambda it: it.battery_strap_ohm, "battery strap", "ohm")
    else:
        second = table("supply", "second_battery")
        term = reference(f"ground lead of {battery.name}", float(second["ground_lead_ohm"]), "ohm", second["source"])
    return Branch(f"{battery.id}/strap", Place.STRAP, body, f"{battery.id} minus", term)


def back_terms(book: Book, way: Way) -> tuple[Term, ...]:
    """What the way back through the body rests on."""
    return tuple(branch.term for branch, _ in _back(book, way)[1])


# -- the branches of a way ------------------------------------------------------------------------------------------


def short(source: Source) -> str:
    """A source in the narrow column of a working: its name where it is a standard, else its grade."""
    return source.text if source.grade is Grade.STANDARD else source.grade.value


def _piece(name: str, ohm: float, source: Source, path: str = "") -> Term:
    return Term(name, ohm, "ohm", None, source.grade, short(source), path)


def _joint(name: str, kind: str, many: int = 1) -> Term:
    """A joint as an input; of several beside each other, one a lead, all of them together."""
    row = table("joints", kind)
    words = name if many == 1 else f"{name}, {many} beside each other"
    return _piece(words, float(row["resistance_ohm"]) / many, row["source"])


def _screws(part: object, wire: Conductor) -> int:
    """How many terminals of a part a wire's leads go into, each way."""
    return min(wire.leads, part.terminal_count) if isinstance(part, Amplifier) else 1


def run_piece(what: str, wire: Conductor, length_m: float, path: str, length_unit: str = "m") -> Term:
    """The resistance of a length of wire as an input."""
    name = f"{what}{wire.label}, {amount(length_m, 'm', length_unit)}"
    return _piece(name, wire.resistance_ohm_per_m * length_m, wire.resistance_source, path)


def _out(way: Way, sized: Mapping[str, Sized], lengths_m: Mapping[str, float], length_unit: str) -> Iterator[Branch]:
    """From the post to the consumer's positive terminal."""
    for link in way.power:
        made = sized[link.id]
        what = "Main run " if link is not way.own else ""
        if link is way.power[0]:
            ring = _joint("Post and ring", "ring", made.wire.leads)
            yield Branch(f"{link.id}/post", Place.POST, f"{way.battery.id} plus", f"{link.id} 1", ring)
        else:
            yield Branch(
                f"{link.id}/out",
                Place.BLOCK,
                f"{link.from_id} plus",
                f"{link.id} 1",
                _joint("Block, way out", "set_screw"),
            )
        after = f"{link.id} 1"
        if made.fuse_a is not None:
            drop: Source = table("fuses", "voltage_drop")["source"]
            n = max(made.fuses, 1)
            words = "with holder" if n == 1 else f"with holder, {n} of them"
            fuse_ohm = fuse_resistance_ohm(made.fuse_a) / n
            holder = _piece(f"Fuse {made.fuse_a:g} A {words}", fuse_ohm, drop, at(link))
            yield Branch(f"{link.id}/fuse", Place.FUSE, after, f"{link.id} 2", holder)
            after = f"{link.id} 2"
        run = run_piece(what, made.wire, lengths_m[link.id], at(link), length_unit)
        yield Branch(f"{link.id}/run", Place.RUN, after, f"{link.id} 3", run, True)
        end, words = (Place.POSITIVE, "Positive terminal") if link is way.own else (Place.BLOCK, "Block, way in")
        screw = _joint(words, "set_screw", _screws(way.part, made.wire) if link is way.own else 1)
        yield Branch(f"{link.id}/terminal", end, f"{link.id} 3", f"{link.to_id} plus", screw)


def _leads(
    way: Way, wires: Mapping[str, Conductor], lengths_m: Mapping[str, float], end: str, length_unit: str
) -> Iterator[Branch]:
    """From the consumer's negative terminal to the body or the post; one that is not laid yet is taken as its place
    says.
    """
    laid = [(link.id, link.from_id, link.to_id) for link in way.ground] or [(unlaid(way), way.part.id, "")]
    for number, (name, start, to) in enumerate(laid):
        place, words = (Place.NEGATIVE, "Negative terminal") if number == 0 else (Place.BLOCK, "Block, way out")
        screw = _joint(words, "set_screw", _screws(way.part, wires[name]) if number == 0 else 1)
        yield Branch(f"{name}/terminal", place, f"{start} minus", f"{name} 1", screw)
        what = "Ground lead " if number == 0 else "Main ground lead "
        path = at_id(GroundLink, name) if to else ""
        lead = run_piece(what, wires[name], lengths_m[name], path, length_unit)
        yield Branch(f"{name}/run", Place.LEAD, f"{name} 1", f"{name} 2", lead, True)
        last = number == len(laid) - 1
        ring = _joint("Ground ring", "ring", wires[name].leads)
        joint = ring if last else _joint("Block, way in", "set_screw")
        yield Branch(
            f"{name}/end", Place.RING if last else Place.BLOCK, f"{name} 2", end if last else f"{to} minus", joint
        )


def unlaid(way: Way) -> str:
    """What the ground lead of a way is called while none is laid."""
    return f"{way.part.id} ground"


def build(
    book: Book,
    of: Iterable[Way],
    sized: Mapping[str, Sized],
    grounds: Mapping[str, Conductor],
    lengths_m: Mapping[str, float],
) -> PowerNetwork:
    """The network of some consumers, every branch with its term and resistance.

    Parameters:
        book: where terms come from.
        of: the consumers' ways; every term of theirs has a value.
        sized: by power link, its wire and fuse.
        grounds: by ground link (or `unlaid`), its wire.
        lengths_m: by link, how much wire [m].

    Returns:
        the network; consumers that share a link, a body point or a strap share its branch.
    """
    branches: dict[str, Branch] = {}
    unit = book.design.policy.length_unit
    consumers = []
    for way in of:
        end, back = _back(book, way)
        out, leads = _out(way, sized, lengths_m, unit), _leads(way, grounds, lengths_m, end, unit)
        along = [*out, *leads, *(branch for branch, _ in back)]
        branches |= {branch.id: branch for branch in along}
        name, against = way.part.id, frozenset(branch.id for branch, backwards in back if backwards)
        ids = tuple(branch.id for branch in along)
        consumers.append(Consumer(name, way.battery.id, f"{name} plus", f"{name} minus", ids, against))
    cells = tuple(Cell(b.id, f"{b.id} plus", f"{b.id} minus") for b in book.design.vehicle.supply.batteries)
    used = {c.cell_id for c in consumers}
    touched = {node for b in branches.values() for node in (b.start, b.end)}
    cells = tuple(c for c in cells if c.id in used or c.minus in touched)
    return PowerNetwork(tuple(branches.values()), cells, tuple(consumers))
