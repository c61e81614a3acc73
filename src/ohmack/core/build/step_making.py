"""The steps of the work, generated from the plan: routes, passages, links, joints, positions, what has to come off."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.build.outgoing import going_back
from ohmack.core.build.step_book import StepBook
from ohmack.core.build.steps import Phase, Step
from ohmack.core.build.steps_at_the_car import before, ground, lay, take_off
from ohmack.core.build.steps_at_the_parts import fix, join, on_the_table
from ohmack.core.build.steps_out import make_good, take_out
from ohmack.core.loads.driven import any_tweeter
from ohmack.core.reference import table
from ohmack.core.supply.second_battery import negatives
from ohmack.core.wording import listed, times_of

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def generated(results: Results) -> tuple[Step, ...]:
    """The steps a plan asks for.

    Parameters:
        results: the evaluated plan.

    Returns:
        steps, each after what it needs as far as the phases go; none where the plan changes nothing. Source of minutes
        and tools: common practice (`reference/steps.toml`).
    """
    book = StepBook(results)
    if book.wired or book.swaps or book.pieces:
        for work in (
            on_the_table,
            before,
            take_off,
            take_out,
            lay,
            ground,
            fix,
            join,
            make_good,
            _first_power,
            _put_back,
        ):
            work(book)
    return tuple(book.steps.values())


def _first_power(book: StepBook) -> None:
    """Checked without a fuse, then the battery, the fuse, every function."""
    done = book.of_phase(Phase.FIT, Phase.JOIN)
    if not book.wired:
        book.add("first-power", Phase.POWER, "Every speaker alone, fade and balance", "first-power", done)
        return
    batteries = book.design.vehicle.supply.batteries
    post = batteries[0].position.point
    checks = "Continuity of every new wire, ohms of every output, no speaker lead to the body"
    if book.design.coming_out:
        more = "what was joined again holds a pull, no bare end is left, nothing touches the body"
        checks = f"{checks}; {more}" if book.links else f"{more[:1].upper()}{more[1:]}"
    book.add("dead-checks", Phase.CHECK, checks, "dead-checks", done)
    needs = ("dead-checks", "battery-off")
    book.add("battery-on", Phase.POWER, f"{negatives([b.name for b in batteries])} on, last", "battery-on", needs, post)
    if book.fed_anew or book.fused_anew:
        fused = [s for s in book.fused_anew if s.figures["fuse"].value is not None]
        sizes = [f"{times_of(s.link.fuse_count)}{s.figures['fuse'].value:g} A" for s in fused]
        into = f", {listed(sizes)} into what holds it now" if sizes else ""
        what, needs = f"Main fuse in{into}: everything is joined, polarity is checked", ("battery-on", "dead-checks")
        book.add("main-fuse", Phase.POWER, what, "main-fuse", (*needs, "join-post"), post)
    what = "Volts in every key state, every function, every speaker alone, fade and balance"
    treble = [load.scope for load in book.results.loads if any_tweeter(book.design, load.links)]
    set_first = any(entry.words or entry.source_words for entry in book.results.crossovers if entry.scope in treble)
    mind = ("The tweeters' filters set before anything plays",) if set_first else ()
    book.add("first-power", Phase.POWER, what, "first-power", ("main-fuse", "battery-on"), cautions=mind)
    if book.results.signals:
        book.add("gains", Phase.POWER, "Set gains and filters by Signal's procedure", "gains", ("first-power",))


def _put_back(book: StepBook) -> None:
    """What came off, in reverse, once everything was tried."""
    share, tried = float(table("steps", "closing")["share"]), ("first-power", "gains")
    for name in reversed(book.taken):
        off = book.steps[name]
        back, what, parts = f"back-{name.removeprefix('off-')}", f"{off.takes_off} back", tuple[str, ...]()
        if name == "off-radio" and (unit := book.new_radio) is not None:
            hidden = f"{off.takes_off} set down where it is hidden, " if book.design.radio_hidden else ""
            what, parts = f"{hidden}{unit.name} into the dash", (unit.id,)
        elif name == "off-radio" and any(one.is_radio for one in going_back(book.results)):
            what = f"{book.design.vehicle.radio.name} back into the dash"
        book.add(back, Phase.CLOSE, f"{what}; everything counted in", off.kind, (name, *tried), off.where,
                 times=share, part_ids=parts)  # fmt: skip
    if "note" in book.steps:
        stored = "Clock" if book.without_radio else "Clock, stations, code"
        what = f"{stored} and memories back in; everything the car did, tried again"
        book.add("settings-back", Phase.CLOSE, what, "settings-back", (*book.of_phase(Phase.CLOSE), *tried))
