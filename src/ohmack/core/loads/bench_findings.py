"""Rules on leads laid by hand: shorts, open ends, coils the wrong way round, and a wiring that fits no longer."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.loads.bench import reversed_at
from ohmack.core.loads.driven import Driven
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import BenchWiring
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def _anew(load: LoadResult) -> Remedy:
    best = next(option for option in load.options if option.best)
    return Remedy(f"Wire it {best.words}", (set_to(at(load.link, lambda it: it.wiring), best.key),))


def _laid(results: Results) -> Iterator[tuple[LoadResult, BenchWiring]]:
    """Outputs with leads that come to none of the listed wirings."""
    for load in results.loads:
        if isinstance(load.chosen.wiring, BenchWiring):
            yield load, load.chosen.wiring


@rule("leads-make-no-load", "loads", PHYSICS)
def leads_make_no_load(results: Results) -> Iterator[Draft]:
    """The leads short an output, or leave it or a driver open."""
    for load, bench in _laid(results):
        if bench.shorted:
            yield stop(
                load.link.id,
                f"A lead shorts {load.channel_name}",
                "Its plus and its minus are one piece of wire. It goes into protection, or fails.",
                _anew(load),
            )
            continue
        if bench.opened:
            yield stop(
                load.link.id,
                f"Nothing hangs on {load.channel_name}",
                "No way leads from its plus through a coil to its minus: a lead is missing.",
                _anew(load),
            )
            continue
        over = bench.bridged_over()
        for driven in load.driven:
            yield from _driver(load, driven, bench.polarity, over)


def _driver(load: LoadResult, driven: Driven, polarity: dict[str, int], over: tuple[str, ...]) -> Iterator[Draft]:
    idle = [coil.name for coil in driven.coils if polarity[coil.name] == 0]
    if not idle:
        return
    about = f"{load.link.id}/{idle[0]}"
    if shorted := [name for name in idle if name in over]:
        yield stop(
            about,
            f"A lead joins both ends of {_coils(driven, shorted)}",
            "It takes no power and brakes its cone like a generator with its terminals joined.",
            _anew(load),
        )
    elif len(idle) == len(driven.coils):
        yield stop(
            about,
            f"{driven.name} gets nothing on {load.channel_name}",
            "An end of it is open, or both ends lie at one voltage: no current can flow.",
            _anew(load),
        )
    else:
        yield watch(
            about,
            f"{_coils(driven, idle).capitalize()} hangs open",
            f"{driven.name} plays with part of its coils: it takes only their part of its power, and its data no"
            " longer holds for the box. A maker may forbid it: see its papers.",
            _anew(load),
        )


def _coils(driven: Driven, names: list[str]) -> str:
    if len(driven.coils) == 1:
        return driven.name
    return f"coil {listed(names)} of {driven.name}"


@rule("polarity-reversed", "loads", PHYSICS)
def polarity_reversed(results: Results) -> Iterator[Draft]:
    """Coils of the other polarity than those beside them, or a whole output reversed."""
    for load, bench in _laid(results):
        polarity = bench.polarity
        wrong = [name for name, sign in polarity.items() if sign < 0]
        if not wrong:
            continue
        put_right = Remedy(
            "Reverse them back" if len(wrong) > 1 else "Reverse it back",
            (set_to(at(load.link, lambda it: it.wiring), reversed_at(load, wrong)),),
        )
        if any(sign > 0 for sign in polarity.values()):
            yield stop(
                load.link.id,
                f"{_who(load, wrong)} reversed on {load.channel_name}",
                "They move against the others: the bass cancels, and two coils on one cone only make heat. Only an"
                " isobaric pair face to face is wired so.",
                put_right,
            )
        else:
            wanted = any(met.load.link.id == load.link.id and met.better_so for met in results.meetings)
            yield (note if wanted else watch)(
                load.link.id,
                f"{load.channel_name} is reversed as a whole",
                "It works, against what plays beside it: right only where the crossover or the place asks for it. Say"
                " so on the label, and listen both ways.",
                Remedy("See where it meets the front", sheet="crossing") if wanted else put_right,
            )


def _who(load: LoadResult, wrong: list[str]) -> str:
    whole = [d.name for d in load.driven if {c.name for c in d.coils} <= set(wrong)]
    names = [c.name for d in load.driven for c in d.coils if c.name in wrong]
    if len(load.driven) > 1 and whole and len(set(whole)) == len(whole):
        return f"{listed(whole)} {'are' if len(whole) > 1 else 'is'}"
    return f"Coil{'s' if len(names) > 1 else ''} {listed(names)} {'are' if len(names) > 1 else 'is'}"


@rule("wiring-gone", "loads", PRACTICE)
def wiring_gone(results: Results) -> Iterator[Draft]:
    """The wiring that was chosen names coils that do not hang there any more."""
    for load in results.loads:
        if load.gone:
            path = at(load.link, lambda it: it.wiring)
            yield watch(
                path,
                f"The wiring chosen for {load.channel_name} does not fit its drivers any more",
                f"Drivers or coils changed since. Ohmack takes {load.chosen.words} until one is chosen.",
                Remedy(f"Take {load.chosen.words}", (set_to(path, load.chosen.key),)),
            )
