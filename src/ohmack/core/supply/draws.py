"""What feeds a consumer and what it draws: every input of its supply, known or not, and what it puts on the network."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field

from ohmack.core.document.amplifiers import Amplifier, AmplifierClass
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.document.vehicle import Battery
from ohmack.core.figures.figure import Book, Term
from ohmack.core.fit.runs import Run
from ohmack.core.loads.wirings import AmplifierLoad
from ohmack.core.network.build import Way, back_terms, unlaid, ways
from ohmack.core.network.states import State, emf_v, held_v
from ohmack.core.physics.supply import Load, amplifier_load
from ohmack.core.record import record
from ohmack.core.supply.results import Consumer
from ohmack.core.supply.study import Demand
from ohmack.core.supply.wire_choice import size_there


def running_post(book: Book, battery: Battery) -> tuple[Term, ...]:
    """What a consumer is fed with, engine running."""
    return held_v(book, battery, State.RUNNING)


def efficiency_of(book: Book, amplifier: Amplifier) -> Term:
    """The efficiency at full power: the maker's, or the shop's for the class."""
    if amplifier.efficiency is not None:
        return book.part(amplifier, lambda it: it.efficiency, "efficiency at full power")
    name = f"class {amplifier.amplifier_class} efficiency at full power"
    if amplifier.amplifier_class is AmplifierClass.D:
        return book.policy(lambda it: it.efficiency_class_d, name)
    return book.policy(lambda it: it.efficiency_class_ab, name)


def _draw_terms(book: Book, part: Consumer, load: AmplifierLoad | None) -> dict[str, Term] | None:
    """The inputs of what a consumer draws; None for an amplifier without a load."""
    if isinstance(part, PoweredSubwoofer):
        return {"stated": book.part(part, lambda it: it.supply_current_a, f"{part.name} draws at full level", "a")}
    if load is None:
        return None
    return {
        "power": load.power.term,
        "efficiency": efficiency_of(book, part),
        "idle": book.part(part, lambda it: it.idle_current_a, "idle current", "a"),
        "regulated": book.part(part, lambda it: it.regulated, "regulated supply"),
    }


def load_of(terms: dict[str, Term], fuses_a: float) -> Load:
    """The load behind the terms of a consumer's draw, all of them known; at least its own fuses by the school that
    asks for it.
    """
    if "stated" in terms:
        return Load(current_a=terms["stated"].value)
    made = amplifier_load(*(terms[name].value for name in ("power", "efficiency", "idle", "regulated")))
    return Load(made.power_w, made.conductance_s, made.current_a, fuses_a)


@record
class Planned:
    """A consumer on its way, with every input of its supply, known or not."""

    way: Way
    draw: dict[str, Term]
    source: tuple[Term, ...]
    rest: tuple[Term, ...]  # lengths, the way back, a fuse its maker names

    @property
    def terms(self) -> tuple[Term, ...]:
        return (*self.draw.values(), *self.source, *self.rest)


@record
class Wanted:
    """Everything that is to hang on the supply, with how much wire leads there and back."""

    consumers: tuple[Planned, ...] = ()
    lengths_m: dict[str, float] = field(default_factory=dict)  # by link, or what an unlaid ground is called


def compute_wanted(book: Book, runs: dict[str, Run], loads: Sequence[AmplifierLoad]) -> Wanted:
    """Every consumer a chain of power links ties to a battery and that has something to draw for.

    Parameters:
        book: the book of the design.
        runs: every link's run.
        loads: what amplifiers drive.

    Returns:
        the consumers, and the lengths that are known [m]; the shop's longest ground lead stands for one nobody laid.
    """
    by_amplifier = {result.amplifier.id: result for result in loads}
    found: list[Planned] = []
    lengths_m: dict[str, float] = {}
    for way in ways(book.design):
        draw = _draw_terms(book, way.part, by_amplifier.get(way.part.id))
        if draw is None:
            continue
        lengths = {link.id: runs[link.id].length for link in (*way.power, *way.ground)}
        lengths_m |= {name: length.value for name, length in lengths.items() if length.value is not None}
        terms = [length.term for length in lengths.values()]
        terms += [size_there(link, runs[link.id]) for link in (*way.power, *way.ground) if link.unread]
        if not way.ground:
            terms.append(book.policy(lambda it: it.ground_lead_max_m, "ground lead, none laid yet", "m"))
            lengths_m[unlaid(way)] = book.design.policy.ground_lead_max_m
        named = (
            [book.part(way.part, lambda it: it.fuse_a, "fuse its maker names", "a")]
            if isinstance(way.part, PoweredSubwoofer)
            else []
        )
        found.append(Planned(way, draw, running_post(book, way.battery), (*terms, *back_terms(book, way), *named)))
    return Wanted(tuple(found), lengths_m)


def demand_of(book: Book, planned: Planned, school: str = "") -> Demand | None:
    """What a consumer puts on the network by the shop's school or another; None while an input is not known."""
    source_v = emf_v(planned.source)
    if source_v is None or any(term.value is None for term in planned.terms):
        return None
    part = planned.way.part
    by_fuses = (school or book.design.policy.current_school) == "amplifier fuses"
    fuses_a = sum(part.fuses_a) if by_fuses else 0.0
    return Demand(planned.way, load_of(planned.draw, fuses_a), Load(current_a=part.idle_current_a), source_v)
