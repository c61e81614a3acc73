"""Rules on the charging budget and on a capacitor across an amplifier's supply."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at, at_the
from ohmack.core.document.vehicle import Supply, SupplyKind
from ohmack.core.figures.figure import Figure
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, stop, watch
from ohmack.core.physics.conductors import goes_in
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.supply.battery_findings import CHARGED_V
from ohmack.core.supply.budget import SMALL_A, Budget
from ohmack.core.supply.second_battery import batteries_behind, charger_of
from ohmack.core.supply.stiffening import Stiffening
from ohmack.core.wording import amount, listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

EVEN_A = 0.5  # nearer than this to even, nothing is said: no reading is that good
IDLE, ROAD = "charging at idle", "charging on the road"


@rule("charging-budget", "supply", PRACTICE)
def charging_budget(results: Results) -> Iterator[Draft]:
    """The music takes more than the alternator gives: at idle, or on the road too."""
    budget, supply = results.budget, results.design.vehicle.supply
    if budget is None:
        return
    road = budget.figures.get("road_music")
    if road is None or road.value is None:
        yield from _not_known(budget)
        return
    hard = budget.always_the_same
    if road.value < 0:
        ends = "Smaller amplifiers: no converter is exchanged"
        ends = ends if hard else "Smaller amplifiers, or an alternator that covers car and music"
        yield stop(
            ROAD,
            f"{'With everything on' if hard else 'Even on the road'} {_shown(road)} more is drawn than charging gives",
            f"With music at full level the battery empties on every drive. {ends}.",
            Remedy("See the budget", sheet="charging"),
        )
    elif (budget.value("road_bass") or 0.0) < 0:
        over = f"{_shown(budget.figures['road_bass'])} more is drawn"
        yield watch(
            ROAD,
            f"With heavy bass {over} than the converter gives"
            if hard
            else f"With heavy bass {over} on the road than charging gives",
            "With ordinary music it charges; an evening of bass at full level it does not.",
            Remedy("See the budget", sheet="charging"),
        )
    idle = budget.figures["idle_music"]
    loaded_v = supply.post_loaded_v.value
    if idle.value is not None and idle.value < -EVEN_A and not hard and road.value >= 0:
        yield watch(
            IDLE,
            f"At idle {_shown(idle)} more is drawn than the alternator gives",
            f"With everything on and music at full level; with heavy bass{_lasts(budget)}. Strap and the big three"
            " cables first, then the alternator; thicker wire and a capacitor do not make current.",
            Remedy("See what helps", sheet="charging"),
        )
    elif loaded_v is not None and loaded_v < CHARGED_V:
        yield watch(
            IDLE,
            f"The post reads {amount(loaded_v, 'v')} idling: nothing is left there for music",
            "The reading goes before the arithmetic: the battery is giving already. Look at strap, main cables, belt"
            f" and {'converter' if hard else 'alternator'} before anything is added.",
            Remedy("See what helps", sheet="charging"),
        )
    elif (budget.value("idle_bass") or 0.0) < -EVEN_A and road.value >= 0 and not hard:
        yield note(
            IDLE,
            f"Idling with heavy bass {_shown(budget.figures['idle_bass'])} come out of the battery",
            f"With everything on and at full level{_lasts(budget)}. On the road it is charged again.",
            Remedy("See what helps", sheet="charging"),
        )


def _not_known(budget: Budget) -> Iterator[Draft]:
    """A draw worth asking after, and nothing to set against it."""
    full_a = budget.value("full")
    gap = next(iter(budget.lacks), None)
    if full_a is not None and gap is not None:
        draft = note if budget.unjudged is None else watch
        yield draft(
            gap.path,
            f"{full_a:.0f} A of audio are set against nothing: {gap.name} is not known",
            "Whether it is charged at idle and on the road is not judged.",
            Remedy("Enter it", path=gap.path),
        )


def _shown(balance: Figure) -> str:
    return f"{abs(balance.value or 0.0):.0f} A"


def _lasts(budget: Budget) -> str:
    """How long the battery bridges it, where that is known."""
    hours = budget.value("lasts")
    if hours is None:
        return " it comes out of the battery"
    span = f"{hours:.1f} h" if hours >= 1 else f"{60 * hours:.0f} min"
    return f" the battery is half empty after {span}"


DRIVE = "the usual drive"
TAKES_PERCENT = 0.5  # less out of a drive is no finding: no assumption behind it is that good


@rule("usual-drive", "supply", PRACTICE)
def usual_drive(results: Results) -> Iterator[Draft]:
    """The usual drive takes more out of the battery than it puts back, or nobody can say whether it does."""
    energy = results.energy
    if energy is not None and not energy.seasons:
        yield from _not_reckoned(results)
    winter, summer = (energy.season(key) if energy else None for key in ("winter", "summer"))
    if winter is None or summer is None or (winter.change.value or 0.0) > -TAKES_PERCENT:
        return
    use = results.design.use
    takes = f"{amount(-(winter.change.value or 0.0), 'percent')}"
    hard = results.design.vehicle.supply.kind is SupplyKind.DC_DC
    ends = "Longer drives, quieter music, or an alternator that gives more at idle"
    if hard:
        ends = "Quieter music, or an amplifier that draws less: the converter's limit is hard"
    also = (summer.change.value or 0.0) < -TAKES_PERCENT
    yield watch(
        DRIVE,
        f"{'Every drive' if also else 'A drive in a winter night'} takes {takes} out of the battery",
        f"{use.trip.value.capitalize()}, music at {amount(use.programme_percent, 'percent')} of full power on average."
        f"{'' if also else ' A summer day charges it.'} {ends}; a larger battery only takes longer to be empty.",
        Remedy("See the drive", sheet="charging"),
    )


def _not_reckoned(results: Results) -> Iterator[Draft]:
    """The balance at one moment is known, that of a drive is not for want of a capacity, and enough is drawn to ask."""
    budget = results.budget
    bare = next((b for b in batteries_behind(results.design) if b.capacity_ah.value is None), None)
    if budget is None or budget.lacks or bare is None or (budget.value("full") or 0.0) <= SMALL_A:
        return
    path = at(bare, lambda it: it.capacity_ah)
    yield note(
        path,
        f"What the usual drive does to the battery is not judged: {bare.name}: capacity is not known",
        "Short drives in winter give a battery less than they take, sooner with music.",
        Remedy("Enter it", path=path),
    )


@rule("charger-average", "supply", PRACTICE)
def charger_average(results: Results) -> Iterator[Draft]:
    """More is drawn from a second battery on average than what charges it passes."""
    design = results.design
    for battery in design.vehicle.supply.batteries[1:]:
        relay = charger_of(design, battery.id)
        fed = [s for s in results.supplies if not s.is_main and s.battery_id == battery.id]
        drawn = [results.book.figures.get(f"{s.part.id}/average_bass_a") for s in fed]
        averages = [figure.value if figure is not None else None for figure in drawn]
        known = [value for value in averages if value is not None]
        if relay is None or not known or len(known) < len(averages):
            continue
        taken_a = sum(known)
        if taken_a > relay.current_a:
            yield watch(
                relay.id,
                f"{battery.name} gives {taken_a:.0f} A on average, {relay.name} passes {amount(relay.current_a, 'a')}",
                "With heavy bass it empties while the car is driven. A larger one, or feed the bass from the starter"
                " battery.",
                Remedy("Look at it", path=at(relay)),
            )


STANDS_DAYS = 21.0  # a parked car should start after three weeks, common practice


@rule("parked", "supply", PRACTICE)
def parked_short(results: Results) -> Iterator[Draft]:
    """What is new draws so much asleep that a parked car does not start after three weeks, or more than is proved."""
    parked = results.parked
    if parked is None or not parked.added_a:
        return
    path = at_the(Supply, lambda it: it.standby_current_a)
    days, before = parked.days.value, parked.before.value
    most_a = float(table("proof", "limits")["asleep_ma"]) / 1000
    what = listed([f"{term.name} {amount(term.value, 'a')}" for term in parked.asleep if term.value])
    if days is not None and before is not None and days < STANDS_DAYS <= before:
        yield watch(
            path,
            f"Parked, the start is at risk after {days:.0f} days, {before:.0f} without what is new",
            f"{what}, until {trimmed(results.design.use.reserve_percent)} % of the charge are left. Look for what"
            " should sleep and does not, or tell the customer.",
            Remedy("See how long it stands", sheet="charging"),
        )
    elif parked.added_a > most_a:
        yield watch(
            path,
            f"What is new draws {amount(parked.added_a, 'a')} asleep",
            f"{what}; a whole car should sleep with {amount(most_a, 'a')} at most.",
            Remedy("See how long it stands", sheet="charging"),
        )


@rule("capacitor-wired", "supply", PRACTICE)
def capacitor_wired(results: Results) -> Iterator[Draft]:
    """A capacitor is in no wire, or its leads are long, thin or too thick for it."""
    most_m = float(table("supply", "burst")["lead_max_m"])
    for entry in results.stiffening:
        if entry.link is None:
            yield stop(
                entry.part.id,
                f"{entry.part.name} is in no wire",
                "It goes across the terminals of the amplifier it is to steady.",
                Remedy("Wire it up", connect=entry.part.id)
                if results.supplies
                else find_part("Find an amplifier", "amplifier"),
            )
            continue
        length_m = results.runs[entry.link.id].length.value
        if length_m is not None and length_m > most_m:
            yield watch(
                entry.link.id,
                f"{results.say(length_m, 'm')} of lead to {entry.part.name}",
                f"Over {results.say(most_m, 'm')} the leads take back what the capacitor gives. Put it beside the"
                " amplifier.",
                Remedy("Move it", path=at(entry.part)),
            )
        if entry.wire is not None and not goes_in(entry.wire, entry.part.terminal_area_max_mm2):
            yield stop(
                entry.link.id,
                f"{entry.wire.label} does not go into {entry.part.name}",
                "Never trim strands to make it fit: take a thinner lead, short as it is, or another capacitor.",
                Remedy("Look at the leads", path=at(entry.link)),
            )
        yield from _brings(entry)


@rule("capacitor-overvoltage", "supply", PHYSICS)
def capacitor_overvoltage(results: Results) -> Iterator[Draft]:
    """A capacitor is rated for less than the car charges with."""
    post = results.design.vehicle.supply.post_running_v
    for entry in results.stiffening:
        most_v = max(v for v in (post.value, post.high, 0.0) if v is not None)
        if most_v > entry.part.rated_v:
            yield stop(
                entry.part.id,
                f"{entry.part.name} is rated for {amount(entry.part.rated_v, 'v')}; the post reaches"
                f" {amount(most_v, 'v')}",
                "Over its rating it fails, and may burst.",
                Remedy("Look at the part", path=at(entry.part)),
            )


def _brings(entry: Stiffening) -> Iterator[Draft]:
    """What it does and does not do, in volts."""
    sags = entry.sags
    if sags is None or any(figure.value is None for figure in sags.all):
        return
    edge, bare = amount(sags.edge.value, "v"), amount(sags.edge_bare.value, "v")
    yield note(
        entry.part.id,
        f"{entry.part.name}: {edge} instead of {bare} at the edge of a kick",
        f"In a bass note {amount(sags.note.value, 'v')} instead of {amount(sags.note_bare.value, 'v')}: it holds for"
        " milliseconds. Dimming lamps and a deficit it does not cure.",
        Remedy("See what helps", sheet="charging"),
    )
