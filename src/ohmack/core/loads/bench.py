"""The leads of an output as they lie on the bench: one laid, one taken off, a driver reversed."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.loads.driven import Driven
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import MINUS, PLUS, BenchWiring, Lead, laid, leads_of, terminals_of
from ohmack.core.physics.speaker_loads import Coil
from ohmack.core.record import record


@record
class Terminal:
    """A terminal of an output or of a coil: its name, and how it is said."""

    name: str
    words: str


def coils_on(load: LoadResult) -> tuple[Coil, ...]:
    """Every coil of an output, in the order of its drivers."""
    return tuple(coil for driven in load.driven for coil in driven.coils)


def terminals(load: LoadResult) -> tuple[Terminal, ...]:
    """Every terminal there is to join on an output, the amplifier's first."""
    ends = [(PLUS, "+"), (MINUS, "−")]
    found = [Terminal(end, f"amplifier {sign}") for end, sign in ends]
    for driven in load.driven:
        for coil in driven.coils:
            found += [Terminal(f"{coil.name}{end}", f"{_said(driven, coil)} {sign}") for end, sign in ends]
    return tuple(found)


def _said(driven: Driven, coil: Coil) -> str:
    letter = coil.name.rstrip("0123456789")
    driver = f"{letter}, {driven.name}" if letter else driven.name
    number = f", coil {driven.coils.index(coil) + 1}" if len(driven.coils) > 1 else ""
    return f"{driver}{number}"


def bench_of(load: LoadResult) -> BenchWiring:
    """The leads of an output as they lie: as a person laid them, else the fewest that make the wiring taken."""
    coils = coils_on(load)
    kept = leads_of(load.link.wiring, coils)
    chosen = load.chosen.wiring
    if kept is None:
        kept = chosen.leads if isinstance(chosen, BenchWiring) else laid(chosen)
    return BenchWiring(kept, coils)


def with_lead(load: LoadResult, a: str, b: str) -> str:
    """The wiring with one more lead.

    Parameters:
        load: the output.
        a: a terminal.
        b: another one.

    Returns:
        the wiring as the design keeps it.

    Raises:
        UnknownName: no such terminal.
        OutOfRange: both are one terminal, or one piece of wire already.
    """
    bench = bench_of(load)
    for terminal in (a, b):
        if terminal not in terminals_of(bench.each):
            raise UnknownName("terminal", terminal)
    if a == b:
        raise OutOfRange("lead", 0, "", "from one terminal to another")
    if bench.net_of(a) == bench.net_of(b):
        raise OutOfRange("lead", 1, "", "between two that are not joined yet; these are")
    return BenchWiring((*bench.leads, (a, b)), bench.each).key()


def without_lead(load: LoadResult, a: str, b: str) -> str:
    """The wiring without one of its leads.

    Raises:
        UnknownName: there is none between these terminals.
    """
    bench = bench_of(load)
    kept = tuple(lead for lead in bench.leads if set(lead) != {a, b})
    if len(kept) == len(bench.leads):
        raise UnknownName("lead", f"{a} to {b}")
    return BenchWiring(kept, bench.each).key()


def reversed_at(load: LoadResult, letters: Sequence[str]) -> str:
    """The wiring with the polarity of some coils reversed.

    Parameters:
        load: the output.
        letters: names of the coils.

    Returns:
        the wiring as the design keeps it.
    """
    bench = bench_of(load)
    swap = {f"{name}{PLUS}": f"{name}{MINUS}" for name in letters}
    swap |= {minus: plus for plus, minus in swap.items()}
    leads: list[Lead] = [(swap.get(a, a), swap.get(b, b)) for a, b in bench.leads]
    return BenchWiring(tuple(leads), bench.each).key()
