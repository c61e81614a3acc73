"""Every wiring of what hangs on an output, judged: permitted, rated, what reaches each driver, and which is best."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import cache, lru_cache

from ohmack.core.loads.wiring_words import NamedDriver, words_of
from ohmack.core.physics.bench_wiring import BenchWiring, leads_of
from ohmack.core.physics.grouped_wirings import MOST_COILS, grouped_wirings
from ohmack.core.physics.nodal import OPEN_OHM
from ohmack.core.physics.speaker_loads import Coil, Wiring, rated_power_w, structure_of, wirings
from ohmack.core.record import record
from ohmack.core.wording import LETTERS, amount, listed, trimmed

EVERY_WIRING = 6  # coils up to which every network is tried; beyond, drivers of a kind are wired alike
IN_SERIES = "a tweeter in series bars the bass from what lies behind it: side by side only"
EVEN = 1.2  # the fullest driver over the emptiest, each against its own rating: more is unequal; common practice


@record
class DriverPower:
    """What reaches one driver of a wiring, and what it takes; None where that is not known."""

    name: str
    power_w: float
    takes_w: float | None

    @property
    def share(self) -> float | None:
        """Of what it takes."""
        return self.power_w / self.takes_w if self.takes_w else None


@record
class WiringOption:
    """One wiring judged: load, power, what a meter reads, and why it is taken or not."""

    wiring: Wiring | BenchWiring
    key: str
    words: str
    load_ohm: float  # 0 where a lead shorts the output, OPEN_OHM where nothing hangs on it
    meter_ohm: float
    permitted: bool
    power_w: float | None
    coil_power_w: tuple[tuple[str, float], ...]
    drivers: tuple[DriverPower, ...]
    match: float | None
    reason: str
    chosen: bool = False
    best: bool = False
    bars: bool = False  # whether a tweeter in series keeps the bass from the others
    stays: bool = True  # whether a load is there to be judged: no short, nothing open

    @property
    def net(self) -> str:
        """Its load in words."""
        return amount(self.load_ohm, "ohm") if self.stays else "shorted" if self.load_ohm == 0 else "open"

    @property
    def reads(self) -> str:
        """What a meter shows, in words."""
        return amount(self.meter_ohm, "ohm") if self.meter_ohm < OPEN_OHM / 1000 else "OL"

    @property
    def uneven(self) -> float:
        """The fullest driver over the emptiest, each against its rating where all are known; 1 for one driver."""
        shares = [one.share for one in self.drivers]
        known = [share for share in shares if share is not None]
        of = known if len(known) == len(self.drivers) else [one.power_w for one in self.drivers]
        return max(of) / min(of) if len(of) > 1 and min(of) > 0 else 1.0


# wiring, key, words, load, DC reading, shares of power
Entry = tuple[Wiring | BenchWiring, str, str, float, float, tuple[tuple[str, float], ...]]


@record
class OnChannel:
    """A driver on a channel: how it is called there, its coils, what it takes."""

    name: str
    coils: tuple[Coil, ...]
    takes_w: float | None
    letter: str = ""  # how it is called beside others of its name


@cache
def all_wirings(drivers: tuple[OnChannel, ...], grouped: bool = False) -> tuple[Entry, ...]:
    """Every network of few coils; of many, or where asked, those that keep the coils of a driver together."""
    coils = tuple(coil for driver in drivers for coil in driver.coils)
    named = [NamedDriver(driver.letter or driver.name, tuple(coil.name for coil in driver.coils)) for driver in drivers]
    every = len(coils) <= EVERY_WIRING and not grouped
    found = wirings(coils) if every else grouped_wirings([driver.coils for driver in drivers])
    return tuple(
        (
            w,
            w.key(),
            words_of(w, named),
            w.resistance_ohm(),
            w.resistance_ohm(dc=True),
            tuple(sorted(w.shares().items())),
        )
        for w in found
    )


@record
class Judge:
    """What every wiring of one output is judged by."""

    rows: Sequence[tuple[float, float]]
    lowest_ohm: float
    drivers: tuple[OnChannel, ...]
    single_w: float | None  # what the driver takes, where there is only one
    coil_rms_w: dict[str, float]
    low: float
    high: float
    trebles: frozenset[str] = frozenset()  # coils of tweeters beside others, which want the whole voltage

    def _bars(self, option: WiringOption) -> bool:
        """Whether a tweeter lies in series with something that plays lower: it bars the bass, and hears little."""
        if not self.trebles or not option.stays:
            return False
        shares = option.wiring.shares()
        coils = (coil for driver in self.drivers for coil in driver.coils if coil.name in self.trebles)
        return any(shares[c.name] < option.load_ohm / c.impedance_ohm * (1 - 1e-6) for c in coils)

    def option(self, entry: Entry) -> WiringOption:
        """One wiring judged."""
        wiring, key, words, load_ohm, meter_ohm, shares = entry
        stays = 0 < load_ohm < OPEN_OHM / 1000
        permitted = load_ohm >= self.lowest_ohm * (1 - 1e-9)
        power_w = match = None
        coil_power: tuple[tuple[str, float], ...] = ()
        each: tuple[DriverPower, ...] = ()
        if not stays:
            reason = "a lead shorts the output" if load_ohm == 0 else "nothing hangs on the output: a lead is missing"
        elif not permitted:
            reason = f"below the {trimmed(self.lowest_ohm)} Ω the amplifier permits: it overheats, trips or clips"
        elif not self.rows:
            reason = "the papers give no rating bridged"
        elif load_ohm < min(self.rows)[0] * (1 - 1e-9):
            reason = f"the papers give no rating below {trimmed(min(self.rows)[0])} Ω"
        else:
            power_w = rated_power_w(self.rows, load_ohm)
            coil_power = tuple((name, share * power_w) for name, share in shares)
            powers = dict(coil_power)
            each = tuple(_reaching(driver, powers) for driver in self.drivers)
            whole = self.single_w is not None and isinstance(wiring, Wiring)
            takes_w = self.single_w if whole else _weakest_w(shares, self.coil_rms_w)
            match = power_w / takes_w if takes_w else None
            reason = self._reason(match, each)
        judged = WiringOption(
            wiring, key, words, load_ohm, meter_ohm, permitted, power_w, coil_power, each, match, reason,
            stays=stays,
        )  # fmt: skip
        return replace(judged, reason=IN_SERIES, bars=True) if permitted and self._bars(judged) else judged

    def _reason(self, match: float | None, each: tuple[DriverPower, ...]) -> str:
        if match is None:
            return "what the speaker takes is not known"
        known = [(one.share, one.name) for one in each if one.share is not None]
        if len(known) > 1 and max(known)[0] > EVEN * min(known)[0]:
            (least, small), (most, full) = min(known), max(known)
            return f"uneven: {full} gets {most:.0%} of what it takes, {small} {least:.0%}"
        whose = "each driver" if len(each) > 1 else "the driver"
        if match < self.low:
            return f"only {match:.0%} of what {whose} takes: tempts into clipping"
        return f"{match:.0%} of what {whose} takes" + (": needs discipline" if match > self.high else "")

    def rank(self, option: WiringOption) -> tuple[bool, bool, bool, bool, bool, float, int]:
        """What bars no bass first, then what may be driven, what the papers rate, what suits every driver, who shares
        alike; unrated loads from the highest down, simple wirings before others of the same power.
        """
        shares = [one.share for one in option.drivers if one.share is not None]
        suits = option.match is None or all(self.low <= share <= self.high for share in shares or [option.match])
        too_much = option.match is not None and option.match > self.high
        unrated = option.power_w is None
        last = -option.load_ohm if unrated else option.match or 0 if too_much else -round(option.power_w or 0, 6)
        return (
            option.bars,
            not option.permitted,
            unrated,
            not suits,
            option.uneven > EVEN,
            last,
            option.key.count("("),
        )


def _reaching(driver: OnChannel, powers: dict[str, float]) -> DriverPower:
    """What reaches a driver, and what those of its coils take that anything reaches."""
    driven = [coil for coil in driver.coils if powers[coil.name] > 0]
    takes_w = driver.takes_w
    if takes_w is not None and 0 < len(driven) < len(driver.coils):
        takes_w *= len(driven) / len(driver.coils)
    return DriverPower(driver.name, sum(powers[coil.name] for coil in driver.coils), takes_w)


@lru_cache(maxsize=512)
def best_wiring(
    rows: tuple[tuple[float, float], ...],
    lowest_ohm: float,
    drivers: tuple[OnChannel, ...],
    low: float,
    high: float,
) -> WiringOption | None:
    """The best wiring of some drivers on an output.

    Parameters:
        rows: (load [ohm], power [w]) of its ratings.
        lowest_ohm: the lowest load it may drive [ohm].
        drivers: what hangs on it; their coils are renamed, so names may repeat.
        low: least share of what a driver takes that suits the shop.
        high: most share.

    Returns:
        the wiring that keeps the coils of a driver together; None where none is permitted and rated, or there are too
        many coils.

    Source: the ranking of wirings.
    """
    named = tuple(_renamed(driver, letter) for driver, letter in zip(drivers, LETTERS, strict=False))
    if sum(len(driver.coils) for driver in named) > MOST_COILS or len(named) < len(drivers):
        return None
    rms = {c.name: d.takes_w / len(d.coils) for d in named if d.takes_w for c in d.coils}
    judge = Judge(rows, lowest_ohm, named, drivers[0].takes_w if len(drivers) == 1 else None, rms, low, high)
    best = min(map(judge.option, all_wirings(named, grouped=True)), key=judge.rank)
    return best if best.permitted and best.power_w is not None else None


def _renamed(driver: OnChannel, letter: str) -> OnChannel:
    coils = tuple(replace(coil, name=f"{letter}{n}") for n, coil in enumerate(driver.coils, 1))
    return OnChannel(driver.name, coils, driver.takes_w)


def _weakest_w(shares: Sequence[tuple[str, float]], coil_rms_w: dict[str, float]) -> float | None:
    """The net power at which the first coil has what it takes; None where one of them is not known."""
    if any(name not in coil_rms_w for name, _ in shares):
        return None
    return min((coil_rms_w[name] / share for name, share in shares if share > 0), default=None)


def laid_by_hand(key: str, drivers: Sequence[OnChannel]) -> BenchWiring | None:
    """The wiring a person laid lead by lead; None for one of the list, or where a terminal is not there any more."""
    coils = tuple(coil for driver in drivers for coil in driver.coils)
    leads = leads_of(key, coils)
    return None if leads is None else BenchWiring(leads, coils)


def bench_entry(bench: BenchWiring, drivers: Sequence[OnChannel]) -> Entry:
    """A wiring laid by hand as one to be judged beside the others."""
    named = [NamedDriver(driver.letter or driver.name, tuple(coil.name for coil in driver.coils)) for driver in drivers]
    words = bench.words() if bench.reduced is None else words_of(bench.reduced, named)
    reversed_ = [name for name, sign in bench.polarity.items() if sign < 0]
    if reversed_:
        words += ", reversed" if len(reversed_) == len(bench.each) else f", {listed(reversed_)} reversed"
    return (
        bench, bench.key(), words, bench.resistance_ohm(), bench.resistance_ohm(dc=True),
        tuple(sorted(bench.shares().items())),
    )  # fmt: skip


def as_listed(bench: BenchWiring) -> str:
    """The key of the wiring of the list that leads come to, every coil the right way round; "" for none."""
    plain = bench.reduced is not None and all(sign > 0 for sign in bench.polarity.values())
    return bench.reduced.key() if plain and bench.reduced is not None else ""


def as_chosen(key: str, judged: Sequence[WiringOption], drivers: Sequence[OnChannel]) -> WiringOption | None:
    """The option a person chose: by its key, else the one that is the same but for which of equal coils sits where."""
    found = next((option for option in judged if option.key == key), None)
    if found is not None or not key:
        return found
    kinds = {c.name: repr((c.impedance_ohm, c.dc_resistance_ohm, d.takes_w)) for d in drivers for c in d.coils}
    wanted = structure_of(key, kinds)
    return next((option for option in judged if wanted and structure_of(option.key, kinds) == wanted), None)
