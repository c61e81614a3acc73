"""Rules on speaker loads and power."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from math import isclose
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.parts import Part
from ohmack.core.document.rewired import new_wire
from ohmack.core.document.small_parts import CrossoverNet
from ohmack.core.figures.finding import Draft, Remedy, find_part, rule, set_to, stop, watch
from ohmack.core.loads.bridging import bridged_with_free
from ohmack.core.loads.driven import channels_in_use, driven_by
from ohmack.core.loads.meter import OPENS_FROM_OHM, meaning_of, points, wired_now
from ohmack.core.loads.wiring_judge import EVEN
from ohmack.core.loads.wirings import LoadResult, what_plays_on
from ohmack.core.physics.grouped_wirings import MOST_COILS
from ohmack.core.reference import PHYSICS, PRACTICE, Grade, Source
from ohmack.core.wording import count, listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

MOST_LOST_DB = 1.0  # a fifth of the power; beyond it a cable is wrong, not just thin; common practice
SHEET = Source("the amplifier's data sheet; consequence common practice", Grade.PRACTICE)


SAME = 1e-3  # of a load, what solving leads laid by hand may leave


def _rewire(load: LoadResult) -> Remedy | None:
    """The best wiring, where that is another load than the one there is; leads laid by hand may come to the same."""
    best = next(option for option in load.options if option.best)
    if best.chosen or best.power_w is None or isclose(best.load_ohm, load.chosen.load_ohm, rel_tol=SAME):
        return None
    return Remedy(
        f"Wire {best.words}: {trimmed(best.load_ohm)} Ω", (set_to(at(load.link, lambda it: it.wiring), best.key),)
    )


def _another(load: LoadResult) -> Remedy | None:
    """The search for an amplifier in its place, where it is not in the car already."""
    amplifier = load.amplifier
    return None if amplifier.in_car else find_part("Find one that suits", amplifier.kind, amplifier.id)


@rule("load-below-permitted", "loads", SHEET)
def load_below_permitted(results: Results) -> Iterator[Draft]:
    """The wired load is below what the channel may drive."""
    for load in results.loads:
        if load.chosen.stays and not load.chosen.permitted:
            yield stop(
                load.link.id,
                f"{trimmed(round(load.chosen.load_ohm, 2))} Ω is below the {trimmed(load.lowest_ohm)} Ω"
                f" {load.channel_name} may drive",
                "It overheats, trips its protection or clips; some fail. Wire the coils for a higher load.",
                _rewire(load) or _another(load) or Remedy("Choose another amplifier or driver", sheet="plan"),
            )


@rule("driver-underpowered", "loads", PRACTICE)
def driver_underpowered(results: Results) -> Iterator[Draft]:
    """The amplifier gives less than the usual share of what the driver takes."""
    low, alike = results.design.policy.match_low, dict[tuple[str, str, float], list[LoadResult]]()
    for load in results.loads:
        if load.match.value is not None and load.match.value < 100 * low:
            alike.setdefault((load.amplifier.id, load.driver.path, load.match.value), []).append(load)
    for (_, _, match), loads in alike.items():
        load, many = loads[0], sum(len(one.driven) for one in loads) > 1
        share = f"{match:.0f}" if round(match) < 100 * low else f"{match:.1f}"  # never as much as is wanted
        yield watch(
            load.driver.id,
            f"{what_plays_on(loads)} {'get' if many else 'gets'} {share} % of what"
            f" {'they take' if many else 'it takes'}",
            f"{results.say(load.power.value, 'w')} where {results.say(load.allowed_w or 0, 'w')} are taken; the"
            f" shop wants {low:.0%} or more. Too little power tempts into clipping.",
            _rewire(load) or bridged_with_free(results.design, loads) or _another(load),
        )


@rule("uneven-sharing", "loads", PRACTICE)
def uneven_sharing(results: Results) -> Iterator[Draft]:
    """Drivers on one output do not share its power as they take it."""
    for load in results.loads:
        option = load.chosen
        if len(option.drivers) < 2 or option.uneven <= EVEN or load.parted:
            continue
        shares = [one.share for one in option.drivers]
        known = [share for share in shares if share is not None]
        by = known if len(known) == len(shares) else [one.power_w for one in option.drivers]
        full, small = option.drivers[by.index(max(by))], option.drivers[by.index(min(by))]
        yield watch(
            load.link.id,
            f"{full.name} works {option.uneven:.1f} times as hard as {small.name} on {load.channel_name}",
            f"{results.say(full.power_w, 'w')} against {results.say(small.power_w, 'w')}: unequal impedances share"
            " unequally, and their level cannot be set apart. Wire them otherwise, or give each its own channel.",
            _rewire(load),
        )


@rule("tweeter-in-series", "loads", PHYSICS)
def tweeter_in_series(results: Results) -> Iterator[Draft]:
    """Somebody wired a tweeter in series with what plays lower."""
    for load in results.loads:
        if load.chosen.bars:
            yield stop(
                load.link.id,
                f"A tweeter lies in series on {load.channel_name}",
                "Its capacitor keeps the bass from what lies behind it; without one the bass kills it. What parts the"
                " range hangs side by side.",
                _rewire(load),
            )


@rule("load-reading", "loads", PHYSICS)
def load_reading(results: Results) -> Iterator[Draft]:
    """A pair read at the amplifier is not what its wiring should show."""
    for load in results.loads:
        ohm = load.link.reads_ohm.value
        lead_ohm = results.lead_ohm(load)
        if ohm is None or load.unread or not load.chosen.stays or not (meaning := meaning_of(load, ohm, lead_ohm)):
            continue
        whole = points(load, lead_ohm)[0]
        path = at(load.link, lambda it: it.reads_ohm)
        low, high = results.say(whole.low_ohm, "ohm"), results.say(whole.high_ohm, "ohm")
        shown = "OL" if ohm >= OPENS_FROM_OHM else results.say(ohm, "ohm")
        now = wired_now(load, lead_ohm)
        if now is not None:
            yield watch(
                path,
                f"{load.channel_name} reads {shown}: {now.words} now, {load.chosen.words} by the plan",
                f"The leads at the driver are moved in this job; then {low} to {high} is expected: read the pair again"
                " before the amplifier goes on.",
                Remedy("Read it again", path=path),
            )
            continue
        yield stop(
            path,
            f"{load.channel_name} reads {shown}; {low} to {high} is expected",
            f"That is what would show: {meaning}. No amplifier goes on before it reads right.",
            Remedy("Read it again", path=path),
        )


@rule("driver-overpowered", "loads", PRACTICE)
def driver_overpowered(results: Results) -> Iterator[Draft]:
    """The amplifier gives more than the usual share of what the driver takes."""
    high = results.design.policy.match_high
    over = [load for load in results.loads if load.match.value is not None and load.match.value > 100 * high]
    alike: dict[tuple[str, str], list[LoadResult]] = {}  # the same driver on equal channels is said once
    own: dict[str, list[LoadResult]] = {}  # and so are the car's own speakers on an amplifier
    for load in over:
        if len(load.driven) == 1 and _part_of(results, load) is None:
            own.setdefault(load.amplifier.id, []).append(load)
        else:
            alike.setdefault((f"{load.amplifier.id} {load.driver.path}", f"{load.match.value:.1f}"), []).append(load)
    for amplifier_id, loads in own.items():
        yield _too_much(results, amplifier_id, loads, _whose(loads), _against(results, loads))
    for loads in alike.values():
        load, part = loads[0], _part_of(results, loads[0])
        whose = _whose(loads[:1])
        if isinstance(part, CrossoverNet):
            whose = f"what plays through {part.name} takes"
        elif part is not None and len(loads) > 1:
            places = [one.driven_name.removeprefix(f"{part.name}, ") for one in loads]
            whose = f"{part.name} takes in {listed(places)}"
        yield _too_much(results, load.driver.id, loads, whose, _against(results, loads[:1]))


def _whose(loads: Sequence[LoadResult]) -> str:
    """Who takes what is too much."""
    if len(loads) > 1:
        return "the car's own speakers take"
    return f"{loads[0].driven_name} {'take' if len(loads[0].driven) > 1 else 'takes'}"


def _against(results: Results, loads: Sequence[LoadResult]) -> str:
    """What is given against what is taken, with where where that differs."""
    named: dict[str, list[str]] = {}
    for load in loads:
        watts = f"{results.say(load.power.value, 'w')} against {results.say(load.allowed_w or 0, 'w')}"
        named.setdefault(watts, []).append(load.driven_name)
    return "; ".join(f"{watts} at {listed(names)}" if len(loads) > 1 else watts for watts, names in named.items())


def _too_much(results: Results, about: str, loads: Sequence[LoadResult], whose: str, against: str) -> Draft:
    most, load = max(load.match.value or 0.0 for load in loads), loads[0]
    return watch(
        about,
        f"{load.amplifier.name} has {most:.0f} % of what {whose}",
        f"{against}. The target voltage holds the driver's limit, but a turned-up knob will not.",
        _rewire(load) or _another(load),
    )


def _part_of(results: Results, load: LoadResult) -> Part | None:
    """The new speaker on an output; None where the car's own hangs there."""
    return results.design.part(load.driver.path.rpartition("/")[2])


@rule("channel-clash", "loads", SHEET)
def channel_clash(results: Results) -> Iterator[Draft]:
    """A channel the amplifier does not have, one used twice over a bridge, or more on it than can be compared."""
    taken: dict[tuple[str, int], str] = {}
    for amplifier, links in channels_in_use(results.design):
        first = links[0]
        numbers = (first.channel, first.channel + 1) if any(link.bridged for link in links) else (first.channel,)
        where = Remedy("Choose the channel", path=at(first))
        if numbers[-1] > amplifier.channels:
            yield stop(
                first.id,
                f"{amplifier.name} has {count(amplifier.channels, 'channel')}, the plan uses channel {numbers[-1]}",
                "Nothing comes out of a channel that is not there.",
                where,
            )
        elif amplifier.group_of(numbers[0]).first != amplifier.group_of(numbers[-1]).first:
            yield stop(
                first.id,
                f"{amplifier.name}: channels {numbers[0]} and {numbers[-1]} are not of a kind",
                "A bridge takes two channels that are alike; their papers rate no bridge over both.",
                where,
            )
        if other := next((taken[amplifier.id, n] for n in numbers if (amplifier.id, n) in taken), ""):
            yield stop(
                first.id,
                f"{amplifier.name}: channel {first.channel} is in the bridge of another speaker",
                f"A bridged pair belongs to one load alone; {other} shares it.",
                where,
            )
        taken |= {(amplifier.id, n): first.to_id for n in numbers}
        if len({link.bridged for link in links}) > 1:
            yield stop(
                first.id, "One channel cannot be bridged and single at once", "Choose one for everything on it.", where
            )
        coils = sum(len(d.coils) for link in links if (d := driven_by(results.book, link)))
        if coils > MOST_COILS:
            yield stop(
                first.id,
                f"{coils} voice coils on one channel",
                f"Up to {MOST_COILS} are compared. Spread them over channels or take them to a second amplifier.",
                where,
            )


@rule("speaker-cable", "loads", PRACTICE)
def speaker_cable(results: Results) -> Iterator[Draft]:
    """A speaker cable carries more than it may, or loses more than the shop allows."""
    limit_db = results.design.policy.speaker_loss_db
    for cable in results.cables:
        lost_db, current_a = cable.loss.value, cable.current.value
        free = Remedy("Let Ohmack choose the size", new_wire(cable.link, at(cable.link, lambda it: it.wire.size), None))
        remedy = free if cable.link.wire.size and cable.enough else Remedy("Look at the cable", path=at(cable.link))
        if current_a is not None and current_a > cable.wire.ampacity_a:
            yield stop(
                cable.link.id,
                f"{results.say(current_a, 'a')} in a {cable.wire.label} speaker cable, which may carry"
                f" {cable.wire.ampacity_a:.0f} A",
                "It overheats at full level.",
                remedy,
            )
        if lost_db is not None and lost_db > limit_db + 1e-9:
            left = 10 ** (-lost_db / 10)
            draft = stop if lost_db > MOST_LOST_DB else watch
            yield draft(
                cable.link.id,
                f"{results.say(lost_db, 'db')} lost in {cable.wire.label} speaker cable; the shop allows"
                f" {results.say(limit_db, 'db')}",
                f"The driver gets {left:.0%} of the power, and is damped less. "
                + (
                    "A thicker one does."
                    if cable.enough
                    else "No single cable does: bring amplifier and driver nearer, or load it higher."
                ),
                remedy,
            )
