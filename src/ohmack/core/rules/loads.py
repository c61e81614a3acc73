"""Rules on speaker loads and power."""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.reference import PRACTICE, Grade, Source
from ohmack.core.rules.finding import Draft, Remedy, rule, set_to, stop, watch
from ohmack.core.sections.loads import LoadResult
from ohmack.core.sections.results import Results
from ohmack.core.wording import trimmed

SHEET = Source("the amplifier's data sheet; consequence common practice", Grade.PRACTICE)


def _rewire(load: LoadResult) -> Remedy | None:
    best = next(option for option in load.options if option.best)
    if best.chosen or best.power_w is None:
        return None
    return Remedy(f"Wire {best.words}: {trimmed(best.load_ohm)} Ω", (set_to(f"links/{load.link.id}/wiring", best.key),))


@rule("load-below-permitted", "loads", SHEET)
def load_below_permitted(results: Results) -> Iterator[Draft]:
    """The wired load is below what the channel may drive."""
    for load in results.loads:
        if not load.chosen.permitted:
            lowest = load.amplifier.lowest_load_ohm
            yield stop(
                load.link.id,
                f"{trimmed(load.chosen.load_ohm)} Ω is below the {trimmed(lowest)} Ω {load.amplifier.name} may drive",
                "It overheats, trips its protection or clips; some fail. Wire the coils for a higher load.",
                _rewire(load) or Remedy("Choose another amplifier or driver", path="stage:plan"),
            )


@rule("driver-underpowered", "loads", PRACTICE)
def driver_underpowered(results: Results) -> Iterator[Draft]:
    """The amplifier gives less than the usual share of what the driver takes."""
    for load in results.loads:
        match, low = load.match.value, results.design.policy.match_low
        if match is not None and match < 100 * low:
            yield watch(
                load.driver.id,
                f"{load.driver.name} gets {match:.0f} % of what it takes",
                f"{results.say(load.power.value, 'w')} for a {results.say(load.driver.power_rms_w, 'w')} driver; the shop "
                f"wants {low:.0%} or more. Too little power tempts into clipping.",
                _rewire(load),
            )


@rule("driver-overpowered", "loads", PRACTICE)
def driver_overpowered(results: Results) -> Iterator[Draft]:
    """The amplifier gives more than the usual share of what the driver takes."""
    for load in results.loads:
        match, high = load.match.value, results.design.policy.match_high
        if match is not None and match > 100 * high:
            yield watch(
                load.driver.id,
                f"{load.amplifier.name} has {match:.0f} % of what {load.driver.name} takes",
                f"{results.say(load.power.value, 'w')} against {results.say(load.driver.power_rms_w, 'w')}. The target voltage "
                "holds the driver's limit, but a turned-up knob will not.",
                _rewire(load),
            )
