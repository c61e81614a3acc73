"""Loads: every wiring of a driver's coils on an amplifier, judged; and the one that is chosen."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache

from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Amplifier, Subwoofer
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.sections.figures import Book, Figure, reference
from ohmack.core.speaker_loads import Coil, Wiring, power_voltage_v, rated_power_w, wirings
from ohmack.core.wording import amount, trimmed

DC_LOW, DC_TYPICAL, DC_HIGH = 0.75, 0.85, 1.05  # DC resistance over nominal, common practice


@dataclass(frozen=True, slots=True)
class WiringOption:
    """One wiring judged: load, power, what a meter reads, and why it is taken or not."""

    wiring: Wiring
    key: str
    words: str
    load_ohm: float
    meter_ohm: float
    permitted: bool
    power_w: float | None
    coil_power_w: tuple[tuple[str, float], ...]
    match: float | None
    reason: str
    chosen: bool = False
    best: bool = False


@dataclass(frozen=True, slots=True)
class LoadResult:
    """Loads of one speaker link."""

    link: SpeakerLink
    amplifier: Amplifier
    driver: Subwoofer
    options: tuple[WiringOption, ...]
    chosen: WiringOption
    load: Figure
    power: Figure
    meter: Figure
    match: Figure
    full_scale: Figure
    coil_power: Figure


# wiring, key, words, load, DC reading, shares of power
Entry = tuple[Wiring, str, str, float, float, tuple[tuple[str, float], ...]]


@cache
def _wirings(coils: tuple[Coil, ...]) -> tuple[Entry, ...]:
    return tuple(
        (w, w.key(), w.words(), w.resistance_ohm(), w.resistance_ohm(dc=True), tuple(sorted(w.shares().items())))
        for w in wirings(coils)
    )


def driver_coils(driver: Subwoofer) -> tuple[Coil, ...]:
    """The coils of a driver, with the DC resistance of the papers or the typical share of nominal."""
    return tuple(
        Coil(f"{number}", coil.impedance_ohm, coil.dc_resistance_ohm or DC_TYPICAL * coil.impedance_ohm)
        for number, coil in enumerate(driver.coils, start=1)
    )


def _judge(amplifier: Amplifier, driver: Subwoofer, low: float, high: float, entry: Entry) -> WiringOption:
    wiring, key, words, load_ohm, meter_ohm, shares = entry
    lowest_ohm = amplifier.lowest_load_ohm
    rows = [(rating.load_ohm, rating.power_w) for rating in amplifier.ratings]
    permitted = load_ohm >= lowest_ohm * (1 - 1e-9)
    power_w = match = None
    coil_power: tuple[tuple[str, float], ...] = ()
    if not permitted:
        reason = f"below the {trimmed(lowest_ohm)} Ω the amplifier permits: it overheats, trips or clips"
    elif load_ohm < min(rows)[0] * (1 - 1e-9):
        reason = f"the papers give no rating below {trimmed(min(rows)[0])} Ω"
    else:
        power_w = rated_power_w(rows, load_ohm)
        match = power_w / driver.power_rms_w
        coil_power = tuple((name, share * power_w) for name, share in shares)
        if match < low:
            reason = f"only {match:.0%} of what the driver takes: tempts into clipping"
        elif match > high:
            reason = f"{match:.0%} of what the driver takes: needs discipline"
        else:
            reason = f"{match:.0%} of what the driver takes"
    return WiringOption(
        wiring, key, words, load_ohm, meter_ohm, permitted, power_w, coil_power, match, reason
    )  # fmt: skip


def _rank(option: WiringOption, low: float, high: float) -> tuple[bool, bool, float]:
    inside = option.match is not None and low <= option.match <= high
    too_much = option.match is not None and option.match > high
    return (option.power_w is None, not inside, option.match or 0 if too_much else -(option.power_w or 0))


def compute_load(book: Book, link: SpeakerLink) -> LoadResult:
    """Figures of one driver on one amplifier, with every wiring ranked."""
    design, policy = book.design, book.design.policy
    amplifier = next(p for p in design.parts_of(Amplifier) if p.id == link.amplifier_id)
    driver = next(p for p in design.parts_of(Subwoofer) if p.id == link.driver_id)
    low, high = policy.match_low, policy.match_high
    judged = [_judge(amplifier, driver, low, high, entry) for entry in _wirings(driver_coils(driver))]
    best = min(judged, key=lambda option: _rank(option, low, high))
    wanted = next((option for option in judged if option.key == link.wiring), best)
    options = tuple(replace(o, chosen=o is wanted, best=o is best) for o in judged)
    chosen = next(o for o in options if o.chosen)

    scope = amplifier.id
    coils = book.part(driver, "coils", "voice coils")
    load = book.derive(
        f"{scope}/load_ohm",
        "Net load",
        "ohm",
        f"{chosen.words}: series adds, parallel is the reciprocal sum",
        lambda _: chosen.load_ohm,
        coils,
        source=PHYSICS,
    )
    ratings = book.part(amplifier, "ratings", "rating table")
    power = book.derive(
        f"{scope}/power_w",
        "Amplifier power at the wired load",
        "w",
        "rating table, straight in log power over log load; half per doubling above it",
        lambda rows, load_ohm: rated_power_w([(r.load_ohm, r.power_w) for r in rows], load_ohm),
        ratings,
        load,
        source=PRACTICE,
    )
    spread = reference("coil reading over nominal", f"{DC_LOW:.0%} to {DC_HIGH:.0%}", "", PRACTICE)
    meter = book.derive(
        f"{scope}/meter_ohm",
        "An ohmmeter reads",
        "ohm",
        "the same network with DC resistances, leads zeroed",
        lambda *_: chosen.meter_ohm,
        coils,
        spread,
        source=PRACTICE,
    )
    allowed = book.part(driver, "power_rms_w", "driver RMS power", "w")
    match = book.derive(
        f"{scope}/match_percent",
        "Amplifier power over driver power",
        "percent",
        "P_amplifier / P_driver × 100",
        lambda p, d: 100 * p / d,
        power,
        allowed,
        source=PRACTICE,
    )
    full_scale = book.derive(
        f"{scope}/full_scale_v",
        "Voltage at full power",
        "v",
        "√(P × Z)",
        power_voltage_v,
        power,
        load,
        source=PHYSICS,
    )
    coil_power = book.derive(
        f"{scope}/coil_power_w",
        "Power in the hardest worked coil",
        "w",
        "net power × the coil's share",
        lambda p, _: p * max(chosen.wiring.shares().values()),
        power,
        load,
        source=PHYSICS,
    )
    return LoadResult(link, amplifier, driver, options, chosen, load, power, meter, match, full_scale, coil_power)


def meter_range(result: LoadResult) -> str:
    """The range an ohmmeter may show for the chosen wiring, in words."""
    nominal = result.chosen.load_ohm
    return f"{amount(DC_LOW * nominal, 'ohm')} to {amount(DC_HIGH * nominal, 'ohm')}"
