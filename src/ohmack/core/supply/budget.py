"""The charging budget: what the alternator gives against what the car and the music take, and what would help."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from ohmack.core.document import Basis, Design
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import DistributionBlock, PoweredSubwoofer
from ohmack.core.document.vehicle import CrankingStandard, SplitCharging, SupplyKind, SystemVoltage
from ohmack.core.figures.figure import Book, Figure, Formula, Missing, Reading, Term, fixed, reference
from ohmack.core.loads.corners import corner_of
from ohmack.core.network.states import State, battery_resistance_ohm, held_v, inner_terms
from ohmack.core.physics.charging import average_current_a, battery_lasts_h
from ohmack.core.physics.conductors import Conductor, ampacity_a, conductor, sizes
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, source, table
from ohmack.core.supply.alternator import idle_share
from ohmack.core.supply.battery_side import at_batteries, follows_level
from ohmack.core.supply.charging import Charging
from ohmack.core.supply.results import Consumer, SupplyResult
from ohmack.core.supply.second_battery import JOINS, batteries_behind, charged_by, join_term, joined_with_first
from ohmack.core.supply.stiffening import Sags, sags_of, usual_capacitor

SMALL_A = 30.0  # audio below this at full level hardly changes a car's charging, common practice


def _sum(*values: float) -> float:
    return float(sum(values))


def _post_in_a_note(holds_v: float, rests_v: float, over_a: float, cca_a: float, standard: str) -> float:
    """What the post is left with while more is drawn than the alternator gives."""
    if over_a <= 0:
        return holds_v
    return min(holds_v, rests_v - over_a * battery_resistance_ohm(cca_a, CrankingStandard(standard)))


def _larger_alternator(car_a: float, music_a: float, share: float) -> float:
    return (car_a + music_a) / share


def _post_of_two(
    holds_v: float, rests_v: float, over_a: float, on_second_a: float, cca_a: float, standard: str, second_cca_a: float,
    second_standard: str, join_ohm: float,
) -> float:  # fmt: skip
    """The same with a second battery joined: what each gives goes by the resistances on its way."""
    if over_a <= 0:
        return holds_v
    one = battery_resistance_ohm(cca_a, CrankingStandard(standard))
    other = battery_resistance_ohm(second_cca_a, CrankingStandard(second_standard))
    given_a = ((over_a - on_second_a) * (other + join_ohm) + on_second_a * other) / (one + join_ohm + other)
    return min(holds_v, rests_v - given_a * one)


AVERAGE = Formula(
    "Average over music", "a", "I_idle + share × (I − I_idle), class AB √share", average_current_a, PRACTICE
)
TOGETHER = Formula("Audio, together", "a", "sum over what is fed", _sum, PHYSICS)
AT_IDLE = Formula("Alternator at idle", "a", "rating × share", lambda rated, share: rated * share, PRACTICE)
ON_ROAD = Formula("Charging on the road", "a", "as rated", float)
BALANCE = Formula("Left over", "a", "given − car − music", lambda given, car, music: given - car - music, PHYSICS)
OVER = Formula("Out of the battery", "a", "car + music − given", lambda given, car, music: car + music - given, PHYSICS)
LASTS = Formula(
    "Battery half empty after", "h", "share × H × (C / (I H))^k; below the rated current share × C / I",
    lambda ah, balance, share, k: battery_lasts_h(ah, -balance, share, k), source("supply", "bridging"),
)  # fmt: skip
POST_IN_NOTE = Formula(
    "Post in a bass note at idle", "v", "while I > given: E_rest − (I − given) × R_battery", _post_in_a_note, PRACTICE
)
POST_OF_TWO = Formula(
    "Post in a bass note at idle", "v",
    "while I > given: E_rest − R₁ × ((I − I₂ − given) (R₂ + R_join) + I₂ R₂) / (R₁ + R_join + R₂), I₂ on the second",
    _post_of_two, PRACTICE,
)  # fmt: skip
NEEDED = Formula("Alternator that would do at idle", "a", "(car + music) / share", _larger_alternator, PRACTICE)
STRAP_GAIN = Formula(
    "A sound strap gives", "v", "(R − R_sound) × I", lambda r, sound, i: max(0.0, r - sound) * i, PHYSICS
)
LOST_THEN = Reading(
    "Lost with one size up", "v", "the loop solved again with the next size", lambda row: row.drop_v, PHYSICS
)
CABLE_GAIN = Formula(
    "A main cable gives", "v", "(R_usual − R_new) × L × I",
    lambda usual, new, length, amps: (usual - new) * length * amps, PHYSICS,
)  # fmt: skip
WIRE_GAIN = Formula("One size up gives", "v", "lost now − lost then", lambda now, then: now - then, PHYSICS)
THREE_CABLES = Reading(
    "The big three cables", "", "smallest that carries the alternator's rating in the engine space",
    lambda wire: wire.label, PRACTICE,
)  # fmt: skip

Worth = Literal["helps", "nothing to gain", "not known"]


@record
class Cure:
    """One thing that could be done, in the order it is to be looked at, with what it brings."""

    key: str
    title: str
    brings: tuple[Figure, ...]
    worth: Worth
    why: str


@record
class Budget:
    """Given and taken at idle and on the road. What lacks a fact is not filed; `lacks` names what nothing can be set
    against the music without.
    """

    figures: dict[str, Figure]
    cures: tuple[Cure, ...]
    lacks: tuple[Missing, ...] = ()
    car_a: float | None = None  # what the car itself draws with everything on
    always_the_same: bool = False  # a converter gives standing what it gives on the road

    def value(self, key: str) -> float | None:
        """The value of one figure; None where it is not filed or not known."""
        figure = self.figures.get(key)
        return None if figure is None else figure.value

    @property
    def unjudged(self) -> Missing | None:
        """What nobody can say without whether the car is charged; None where it was judged, or where the music hardly
        changes the charging of an alternator. A converter gives no more than its limit, however little is added.
        """
        draws = self.value("full") or 0.0
        return next(iter(self.lacks), None) if draws > SMALL_A or (self.always_the_same and draws > 0) else None

    @property
    def capacity_unknown(self) -> bool:
        """Whether a deficit is there and nobody knows how long the battery bridges it."""
        return (self.value("idle_bass") or 0.0) < 0 and "lasts" not in self.figures


def plays_bass(design: Design, part: Consumer | DistributionBlock) -> bool:
    """Whether a consumer drives a subwoofer, its own or the car's."""
    if isinstance(part, PoweredSubwoofer):
        return True
    driven = (link.to_id for link in design.links_of(SpeakerLink) if link.from_id == part.id)
    return any(corner_of(design, name) is ChannelPlace.SUB for name in driven)


def _averages(book: Book, supply: SupplyResult) -> tuple[Figure, Figure]:
    """(over music, over heavy bass) of one consumer."""
    part, row = supply.part, table("supply", "programme")
    idle = book.part(part, lambda it: getattr(it, "idle_current_a", None), "idle current", "a")
    bass = plays_bass(book.design, part)
    how = fixed("current follows the level", follows_level(part))
    music, heavy = (
        book.figure(
            f"{part.id}/average_{key}_a", AVERAGE, supply.figures["current"], idle,
            reference(f"share, {words}", float(row[share]), "", row["source"]), how, name=f"{part.name}, {words}",
        )
        for key, words, share in (
            ("music", "average over music", "music"),
            ("bass", "average over heavy bass", "heavy_bass" if bass else "music"),
        )
    )  # fmt: skip
    return music, heavy


def compute_budget(
    book: Book, supplies: Sequence[SupplyResult], charging: Sequence[Charging]
) -> Budget | None:  # fmt: skip
    """The charging budget of a plan.

    Parameters:
        book: the book of the design.
        supplies: every run with what it feeds.
        charging: every charge cable of the plan.

    Returns:
        the budget: given, car, music, balance [a], time on the battery [h], post in a bass note [v], and the cures in
        order; None where nothing is fed, or by a pack that nothing charges on the way.
    """
    fed = [supply for supply in supplies if not supply.is_main]
    supply = book.design.vehicle.supply
    if not fed or supply.system.value is SystemVoltage.PACK:
        return None
    averages = [tuple(at_batteries(book, figure) for figure in _averages(book, one)) for one in fed]
    drawn = [at_batteries(book, one.figures["current"]) for one in fed]
    full = book.figure("charging/full_a", TOGETHER, *drawn, name="Audio at full level")
    music = book.figure("charging/music_a", TOGETHER, *(a for a, _ in averages), name="Audio, average over music")
    bass = book.figure("charging/bass_a", TOGETHER, *(b for _, b in averages), name="Audio, average over heavy bass")
    figures = {"full": full, "music": music, "bass": bass}
    car = book.fact(supply, lambda it: it.car_draw_a, "the car's own draw, everything on", "a")
    hard = supply.kind is SupplyKind.DC_DC
    rated = (
        book.fact(supply, lambda it: it.dc_dc_limit_a, "DC-DC converter limit", "a")
        if hard
        else book.fact(supply, lambda it: it.alternator_rating_a, "alternator rating", "a")
    )
    lacks = (*rated.missing, *car.missing)
    if not lacks and full.value is not None:
        figures |= _balances(book, figures, rated, car, hard)
        pulled = [
            note if _pulls(book.design, one) else average
            for one, note, (average, _) in zip(fed, drawn, averages, strict=True)
        ]
        figures |= _out_of_the_battery(book, figures, car, pulled)
        figures |= _post_in_note(book, figures["over"], [*zip(fed, drawn, strict=True)], charging)
    return Budget(figures, _cures(book, fed, figures, rated, car, hard), lacks, car.value, hard)


def _balances(book: Book, figures: dict[str, Figure], rated: Term, car: Term, hard: bool) -> dict[str, Figure]:
    """What is given at idle and on the road, and what is left of it over music and over heavy bass."""
    idle = (
        book.figure("charging/idle_a", ON_ROAD, rated, name="Converter, at any time")
        if hard
        else book.figure("charging/idle_a", AT_IDLE, rated, idle_share(book))
    )
    found = {"idle": idle, "road": book.figure("charging/road_a", ON_ROAD, rated, name=idle.name if hard else "")}
    for state, where in (("idle", "" if hard else " at idle"), ("road", "" if hard else " on the road")):
        for kind, words in (("music", "music"), ("bass", "heavy bass")):
            found[f"{state}_{kind}"] = book.figure(
                f"charging/{state}_{kind}_a", BALANCE, found[state], car, figures[kind],
                name=f"Left over{where}, {words}",
            )  # fmt: skip
    return found


def _pulls(design: Design, supply: SupplyResult) -> bool:
    """Whether a bass note of a consumer pulls at the first battery: not through a charger, which passes the average."""
    battery = next((b for b in design.vehicle.supply.batteries[1:] if b.id == supply.battery_id), None)
    return battery is None or charged_by(design, battery) in (*JOINS, SplitCharging.DIODE, None)


def _out_of_the_battery(
    book: Book, figures: dict[str, Figure], car: Term, pulled: Sequence[Figure]
) -> dict[str, Figure]:  # fmt: skip
    """What a bass note takes out of the battery at idle, and how long that bridges a deficit."""
    note = figures["full"]
    if book.design.vehicle.supply.batteries[1:]:
        note = book.figure("charging/pulled_a", TOGETHER, *pulled, name="Audio in a bass note, at the first battery")
    found = {
        "over": book.figure(
            "charging/over_a", OVER, figures["idle"], car, note, name="Out of the battery in a bass note, idling"
        )
    }
    if (balance := figures["idle_bass"].value) is not None and balance < 0:
        row = table("supply", "bridging")
        capacities = tuple(
            book.fact(b, lambda it: it.capacity_ah, f"{b.name}: capacity", "ah") for b in batteries_behind(book.design)
        )
        if any(term.value is None for term in capacities):
            return found
        whole = book.figure("charging/capacity_ah", CAPACITY, *capacities)
        found["lasts"] = book.figure(
            "charging/lasts_h", LASTS, whole, figures["idle_bass"],
            reference("share of its charge", float(row["share"]), "", row["source"]),
            reference("exponent", float(row["exponent"]), "", row["source"]),
        )  # fmt: skip
    return found


CAPACITY = Formula("Capacity behind it", "ah", "sum of the batteries joined", _sum, PHYSICS)


def _post_in_note(
    book: Book, over: Figure, drawn: Sequence[tuple[SupplyResult, Figure]], charging: Sequence[Charging]
) -> dict[str, Figure]:
    """How far the first post falls in a bass note at idle, where the labels of the batteries in it were read."""
    supply = book.design.vehicle.supply
    first, joined = supply.batteries[0], joined_with_first(book.design)
    holds = held_v(book, first, State.IDLING if supply.post_loaded_v.value is not None else State.RUNNING)
    rests = held_v(book, first, State.ENGINE_OFF)
    inner = inner_terms(book, first, State.ENGINE_OFF)
    if len(inner) < 2 or any(term.value is None for term in (*holds, *rests, *inner)):
        return {}
    if joined is not None:
        on_it = [figure for one, figure in drawn if one.battery_id == joined.id]
        second = (*inner_terms(book, joined, State.ENGINE_OFF), join_term(book, joined, charging))
        if all(term.value is not None for term in second):
            there = book.figure("charging/on_second_a", TOGETHER, *on_it, name=f"Audio at full level on {joined.name}")
            two = book.figure("charging/post_in_note_v", POST_OF_TWO, *holds, *rests, over, there, *inner, *second)
            return {"post": two}
        if on_it:
            return {}
    return {"post": book.figure("charging/post_in_note_v", POST_IN_NOTE, *holds, *rests, over, *inner)}


def _sags(book: Book, fed: Sequence[SupplyResult]) -> Sags | None:
    """The sags at the consumer that draws most, with a usual capacitor."""
    worst = max(fed, key=lambda one: one.figures["current"].value or 0.0)
    if worst.figures["loop"].value is None or not worst.segments:
        return None
    return sags_of(book, f"{worst.part.id}/usual", worst, usual_capacitor())


def _cures(
    book: Book, fed: Sequence[SupplyResult], figures: dict[str, Figure], rated: Term, car: Term, hard: bool
) -> tuple[Cure, ...]:  # fmt: skip
    """Strap and main cables, alternator, wire, capacitor: in this order, each with what it brings."""
    return (
        _strap(book, fed, figures["full"], None if hard else rated),
        _alternator(book, figures, car, hard),
        _wire(book, fed),
        _capacitor(_sags(book, fed)),
    )


SMALL_V = 0.05  # less is neither seen nor heard, common practice


def _worth(*gains: float | None) -> Worth:
    if any(gain is None for gain in gains):
        return "not known"
    return "helps" if any(gain >= SMALL_V for gain in gains if gain is not None) else "nothing to gain"


def _main_cables(book: Book, wire: Conductor, rated: Term) -> list[Figure]:
    """What each of the three main cables gives as that wire at the alternator's rating, over the usual one."""
    row = table("supply", "big_three")
    usual = conductor(str(row["usual"]))
    if wire.resistance_ohm_per_m >= usual.resistance_ohm_per_m:
        return []
    per_m = [
        reference(f"{one.label}, a metre", one.resistance_ohm_per_m, "ohm_per_m", one.resistance_source)
        for one in (usual, wire)
    ]
    return [
        book.figure(
            f"charging/cable_{n}_v", CABLE_GAIN, *per_m, reference(words, float(length_m), "m", row["source"]), rated,
            name=f"{words[:1].upper()}{words[1:]}",
        )
        for n, (words, length_m) in enumerate(row["rows"], 1)
    ]  # fmt: skip


def _strap(book: Book, fed: Sequence[SupplyResult], full: Figure, rated: Term | None) -> Cure:
    """The battery's strap, and the cables between alternator, battery, engine and body where an alternator is rated."""
    supply, row = book.design.vehicle.supply, table("supply", "good_strap")
    first = f"{supply.batteries[0].id}/strap"
    through = [one for one in fed if any(piece.id == first for piece in one.pieces)]
    strap = book.fact(supply, lambda it: it.battery_strap_ohm, "battery strap", "ohm")
    sound = reference("a sound strap", float(row["resistance_ohm"]), "ohm", row["source"])
    brings: list[Figure] = []
    if through and strap.value is not None and full.value is not None:
        carried = book.figure(
            "charging/strap_a", TOGETHER, *(one.figures["current"] for one in through), name="Audio through the strap"
        )
        brings.append(book.figure("charging/strap_gain_v", STRAP_GAIN, strap, sound, carried))
    gain = brings[0].value if brings else None
    if rated is not None and rated.value is not None:
        pool = sizes(book.design.policy.wire_system)
        carries = next((w for w in pool if ampacity_a(w, engine_space=True) >= rated.value), None)
        if carries is not None:
            brings.append(book.reading("charging/three_cables", THREE_CABLES, carries, rated))
            brings += _main_cables(book, carries, rated)
    worth = _worth(gain) if through else "nothing to gain"
    if worth == "nothing to gain" and through and strap.basis is Basis.ASSUMED:
        worth = "not known"
    why = {
        "helps": "Every other reading rests on it; a bad one dims lamps by itself.",
        "not known": "Nobody read it yet, and every other reading rests on it.",
        "nothing to gain": "The strap reads well." if through else "The audio's current does not come back through it.",
    }[worth]
    if through and rated is not None and worth != "helps":
        why += " The big three cables want to carry the alternator: look what is fitted."
    title = "Battery strap" if rated is None else "Battery strap and the big three cables"
    return Cure("strap", title, tuple(brings), worth, why)


def _alternator(book: Book, figures: dict[str, Figure], car: Term, hard: bool) -> Cure:
    """Whether the alternator keeps up at idle, and which one would."""
    if hard:
        return Cure("alternator", "Larger converter", (), "nothing to gain",
                    "A DC-DC converter is not exchanged: choose what draws less.")  # fmt: skip
    if "idle_bass" not in figures:
        return Cure("alternator", "Alternator", (), "not known", "Its rating and the car's own draw decide.")
    needed = book.figure("charging/alternator_needed_a", NEEDED, car, figures["bass"], idle_share(book))
    balance = figures["idle_bass"].value or 0.0
    if balance >= 0:
        return Cure("alternator", "Alternator", (needed,), "nothing to gain", "It covers car and music at idle.")
    return Cure("alternator", "Alternator", (needed, figures["idle_bass"]), "helps",
                "Only this ends the deficit; until then the battery gives it.")  # fmt: skip


def _wire(book: Book, fed: Sequence[SupplyResult]) -> Cure:
    """One size of power wire up, at the consumer that loses most."""
    worst = max(fed, key=lambda one: one.figures["drop"].value or 0.0)
    above = [c for c in worst.candidates if worst.chosen and c.wire.area_mm2 > worst.chosen.wire.area_mm2]
    larger = min((c for c in above if c.drop_v is not None), key=lambda c: c.wire.area_mm2, default=None)
    if larger is None or worst.figures["drop"].value is None:
        return Cure("wire", "Thicker power wire", (), "not known" if not worst.chosen else "nothing to gain",
                    "There is no thicker one to take." if worst.chosen else "No wire is chosen yet.")  # fmt: skip
    then = book.reading(
        "charging/wire_then_v", LOST_THEN, larger, *worst.figures["drop"].inputs, name=f"Lost with {larger.wire.label}"
    )
    gain = book.figure("charging/wire_gain_v", WIRE_GAIN, worst.figures["drop"], then,
                       name=f"{larger.wire.label} to {worst.part.name} gives")  # fmt: skip
    why = "At the amplifier only: the lamps are fed from the post and see nothing of it."
    return Cure("wire", "Thicker power wire", (gain,), _worth(gain.value), why)


def _capacitor(sags: Sags | None) -> Cure:
    """A capacitor at the amplifier."""
    if sags is None:
        return Cure("capacitor", "Capacitor of 1 F", (), "not known", "The loop it would steady is not known yet.")
    edge, note = (_less(sags.edge_bare, sags.edge), _less(sags.note_bare, sags.note))
    worth = _worth(note)
    held = " It softens the edge of a kick." if (edge or 0.0) >= SMALL_V else ""
    return Cure("capacitor", "Capacitor of 1 F", sags.all, worth,
                f"It holds for milliseconds; a bass note lasts some tenths of a second.{held}")  # fmt: skip


def _less(bare: Figure, held: Figure) -> float | None:
    return None if bare.value is None or held.value is None else float(bare.value - held.value)
