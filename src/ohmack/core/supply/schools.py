"""What each school of design current comes to on the same network: current, fuse and wire of every run."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, get_args

from ohmack.core.document.links import PowerLink
from ohmack.core.document.policy import Policy
from ohmack.core.figures.figure import Book, Figure, Reading, Term, fixed
from ohmack.core.network.states import State
from ohmack.core.physics.conductors import cable_price
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.supply.draws import Wanted, demand_of
from ohmack.core.supply.sizing import study
from ohmack.core.supply.study import Study

School = Literal["calculated", "amplifier fuses"]
SCHOOLS: tuple[School, ...] = get_args(Policy.model_fields["current_school"].annotation)

CURRENT = Reading("Current in the run", "a", "all consumers solved together", lambda run: run.current_a, PHYSICS)
FUSE = Reading("Fuse", "a", "as the chooser sets it", lambda run: run.fuse_a, PRACTICE)
WIRE = Reading("Wire", "", "as the chooser sets it", lambda run: run.wire, PRACTICE)
DROP = Reading("Lost, most behind it", "v", "all consumers solved together", lambda run: run.drop_v, PHYSICS)


@record
class _Solved:
    """A run as one school has it."""

    current_a: float | None
    fuse_a: float
    wire: str
    drop_v: float | None


@record
class SchoolRun:
    """A run as one school has it, for the page."""

    current: Figure
    fuse: Figure
    wire: Figure
    drop: Figure
    fits: bool


@record
class SchoolResult:
    """One school over the whole network, by power link."""

    school: School
    is_shops: bool
    runs: dict[str, SchoolRun]
    price: float


def compute_schools(book: Book, wanted: Wanted) -> tuple[SchoolResult, ...]:
    """Every school on the same network.

    Parameters:
        book: the book of the design.
        wanted: the consumers and the lengths of their wires.

    Returns:
        the schools, the shop's own first; empty while something a run rests on is not known.
    """
    policy = book.design.policy
    planned, lengths_m = wanted.consumers, wanted.lengths_m
    order = sorted(SCHOOLS, key=lambda school: school != policy.current_school)
    found = []
    for number, school in enumerate(order):
        demands = [d for p in planned if (d := demand_of(book, p, school)) is not None]
        if not demands or len(demands) < len(planned):
            return ()
        made = study(book, demands, lengths_m)
        terms = tuple(term for p in planned for term in p.terms)
        shown = {
            link.id: _run(book, made, link, f"school/{number}/{link.id}", school, terms)
            for link in book.design.links_of(PowerLink)
            if made.chosen(link.id) is not None
        }
        price = sum(cable_price(c.wire, lengths_m[name]) for name in shown if (c := made.chosen(name)) is not None)
        found.append(SchoolResult(school, school == policy.current_school, shown, price))
    return tuple(found)


def _run(book: Book, made: Study, link: PowerLink, scope: str, school: str, terms: Sequence[Term]) -> SchoolRun:
    taken = made.chosen(link.id)
    assert taken is not None
    solution = made.solutions[State.RUNNING]
    names = [d.way.part.id for d in made.behind(link.id)]
    solved = None if any(n in solution.collapsed for n in names) else sum(solution.current_a[n] for n in names)
    run = _Solved(solved, taken.fuse_a, taken.wire.label, taken.drop_v)
    inputs = (fixed("school", school), *terms)
    return SchoolRun(
        book.reading(f"{scope}/current_a", CURRENT, run, *inputs, name=f"Current, {school}"),
        book.reading(f"{scope}/fuse_a", FUSE, run, *inputs, name=f"Fuse, {school}"),
        book.reading(f"{scope}/wire", WIRE, run, *inputs, name=f"Wire, {school}"),
        book.reading(f"{scope}/drop_v", DROP, run, *inputs, name=f"Lost, {school}"),
        taken.fits,
    )
