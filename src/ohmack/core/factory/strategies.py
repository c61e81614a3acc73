"""Strategies: which ways this car allows, what each means for it, and which suits this customer best."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from ohmack.core.document import Basis, Design, Intake
from ohmack.core.document.design import Wish
from ohmack.core.document.factory import Tier
from ohmack.core.document.functions import Act, Intervention, KeepAlive
from ohmack.core.document.interventions import factory_amplifier
from ohmack.core.document.paths import design_facts
from ohmack.core.document.strategy import StrategyKey, Weights
from ohmack.core.factory.function_edits import KEPT
from ohmack.core.factory.functions import Fate, Verdict, fitting_measures, judge_functions
from ohmack.core.factory.graph import about
from ohmack.core.factory.pickup_places import Pickup, pickups
from ohmack.core.factory.strategy_words import channel_words, signal_words, supply_words
from ohmack.core.record import record
from ohmack.core.reference import read_toml

WORTH = {Fate.KEPT: 1.0, Fate.ADAPTED: 0.7, Fate.LOST: 0.0}
ASKED, VITAL = 3.0, 5.0  # how much more a function counts that the customer asked for, or that the car needs
CRITERIA = tuple(Weights.model_fields)
GOALS = (Wish.BASS, Wish.CLARITY, Wish.SCREEN)  # what must come out; the other wishes say in what manner
ENOUGH = 0.4  # a goal served less than this is missed
NO_BUDGET, HALF_DAY_MIN = 900.0, 240.0  # what cost and time are held against where nothing is said


@record
class Candidate:
    """One strategy for this car: whether it can be done, what it means, and its marks from 0 to 1."""

    key: StrategyKey
    plain: str
    why_not: str
    interventions: tuple[Intervention, ...]
    ledger: tuple[Verdict, ...]
    needs: tuple[str, ...]
    signal: str
    supply: str
    channels: str
    cost: tuple[float, float]
    minutes: tuple[float, float]
    uncut: bool
    case: str
    risks: tuple[str, ...]
    verify: tuple[str, ...]
    over_budget: bool
    short_of: tuple[str, ...]
    marks: Mapping[str, float]
    score: float = 0.0

    @property
    def possible(self) -> bool:
        """Whether the car allows it."""
        return not self.why_not

    def fate(self, fate: Fate) -> tuple[str, ...]:
        """The functions with one fate, by name."""
        return tuple(v.function.title for v in self.ledger if v.fate is fate)


@record
class Advice:
    """All candidates, best first, with the reasons for the first and the fair case for the second."""

    ranked: tuple[Candidate, ...]
    weights: Weights
    reasons: tuple[str, ...]
    runner_up: str

    @property
    def best(self) -> Candidate | None:
        """The recommendation; None where the car allows nothing on the list."""
        return next((c for c in self.ranked if c.possible), None)


def usual_weights(intake: Intake) -> Weights:
    """What weighs how much, from what the customer said.

    Parameters:
        intake: the job's front page.

    Returns:
        weights from 0 to 5.

    Source: common practice.
    """
    return Weights(
        sound=5.0 if intake.wishes else 3.0,
        functions=4.0 if intake.must_keep else 2.0,
        reversible=4.0 if intake.reversible or Wish.ORIGINAL in intake.wishes else 1.0,
        cost=2.0,
        time=1.0,
        robust=2.0,
    )


def _obstacle(design: Design, key: StrategyKey, taps: tuple[Pickup, ...]) -> str:
    """Why a strategy cannot be done on this car; empty where it can."""
    vehicle = design.vehicle
    tier, amplifier = vehicle.radio.tier.value, factory_amplifier(design)
    if tier is None:
        return "the factory system is not known yet"
    radio_tap = next((t for t in taps if t.source_id == vehicle.radio.id), None)
    if tier is Tier.NONE and key in (
        StrategyKey.RADIO_KEEP_AMPLIFIER,
        StrategyKey.RADIO_BYPASS,
        StrategyKey.DRIVER_SWAP,
    ):
        return "there is no radio and nothing that drives speakers"
    match key:
        case StrategyKey.RADIO_PICKUP | StrategyKey.POWERED_SUB if radio_tap is None or not radio_tap.usable:
            if key is StrategyKey.POWERED_SUB and amplifier is not None and tier is not Tier.NONE:
                return ""
            return radio_tap.words if radio_tap else "nothing to pick up at the radio"
        case StrategyKey.AFTER_AMPLIFIER:
            found = next((t for t in taps if t.source_id != vehicle.radio.id), None)
            if found is None:
                return "no factory amplifier"
            return "" if found.usable else found.words
        case StrategyKey.RADIO_KEEP_AMPLIFIER | StrategyKey.RADIO_BYPASS | StrategyKey.REPLACE_AMPLIFIER if (
            amplifier is None
        ):
            return "no factory amplifier"
        case StrategyKey.NEW_RADIO if amplifier is not None:
            return "the factory amplifier stays silent without an adapter"
        case StrategyKey.NEW_RADIO if tier is Tier.RING:
            return "the audio leaves over the ring"
    return ""


def _acts(design: Design, key: StrategyKey) -> tuple[Intervention, ...]:
    radio, amplifier = design.vehicle.radio.id, factory_amplifier(design)
    ring = design.vehicle.radio.tier.value is Tier.RING
    new_radio = Intervention(id=radio, act=Act.REPLACED, keep_alive=(KeepAlive.INTERFACE,) if ring else ())
    match key:
        case StrategyKey.NEW_RADIO if design.vehicle.radio.tier.value is not Tier.NONE:
            return (new_radio,)
        case StrategyKey.RADIO_KEEP_AMPLIFIER:
            return (new_radio,)
        case StrategyKey.RADIO_BYPASS if amplifier:
            return new_radio, Intervention(id=amplifier.id, act=Act.BYPASSED)
        case StrategyKey.REPLACE_AMPLIFIER if amplifier:
            adapter = (KeepAlive.INTERFACE,) if ring else ()
            return (Intervention(id=amplifier.id, act=Act.REPLACED, keep_alive=adapter),)
    return ()


def _rescued(design: Design, interventions: tuple[Intervention, ...]) -> tuple[Intervention, ...]:
    """The interventions with the simplest measures for every function that is asked for or vital."""
    wanted = set(design.intake.must_keep)
    for _ in range(6):
        lost = [
            v
            for v in judge_functions(design, interventions)
            if v.fate is Fate.LOST
            and v.measures
            and (KEPT.get(v.function.kind) in wanted or about(v.function.kind)["vital"])
        ]
        if not lost:
            break
        thing_id, measure = lost[0].measures[0]
        interventions = tuple(
            i.model_copy(update={"keep_alive": (*i.keep_alive, measure)}) if i.id == thing_id else i
            for i in interventions
        )
    return interventions


Kept = Mapping[str, tuple[KeepAlive, ...]]


def kept_by_choice(design: Design) -> Kept:
    """The measures a person chose for a module, against what the chosen way proposes by itself."""
    proposed = {}
    if design.strategy is not None:
        proposed = {i.id: set(i.keep_alive) for i in _rescued(design, _acts(design, design.strategy))}
    return {i.id: tuple(m for m in i.keep_alive if m not in proposed.get(i.id, ())) for i in design.interventions}


def _with_kept(design: Design, acts: tuple[Intervention, ...], kept: Kept) -> tuple[Intervention, ...]:
    """The acts of a way with what a person chose before it, where that still makes sense for what happens to the
    module.
    """
    result = []
    for act in acts:
        mine = tuple(m for m in kept.get(act.id, ()) if m in fitting_measures(design, act) and m not in act.keep_alive)
        result.append(act.model_copy(update={"keep_alive": (*mine, *act.keep_alive)[:4]}))
    return tuple(result)


def _needs(design: Design, key: StrategyKey, ledger: tuple[Verdict, ...]) -> Iterator[str]:
    """The parts a strategy needs: its own, and what the functions it touches live on by."""
    roles = read_toml("strategies")["ways"][key.value]["needs"]
    assert isinstance(roles, list)
    ring = design.vehicle.radio.tier.value is Tier.RING
    for role in roles:
        if role == "amplifier adapter" and not ring and "plug-in amplifier" in roles:
            continue  # a plug-in amplifier on analogue lines needs none
        yield role
    if key is StrategyKey.AFTER_AMPLIFIER and design.intake.reversible:
        yield "plug adapter"  # a splice would cost the way back
    if key is StrategyKey.NEW_RADIO and any(
        m.amplifies and m.fitted.value is not False for m in design.vehicle.modules
    ):
        yield "amplifier adapter"  # the factory subwoofer amplifier heard the old radio
    yield from dict.fromkeys(part for verdict in ledger for part in verdict.rests_on)


def _spans(
    needs: tuple[str, ...], acts: tuple[Intervention, ...], minutes: list[float]
) -> tuple[tuple[float, float], tuple[float, float]]:
    """Cost and time from low to high: the parts, and the keep-alive measures besides them."""
    prices = read_toml("strategies")["roles"]["price"]
    measures = [read_toml("functions")["measures"][m.value] for i in acts for m in i.keep_alive]
    bare = [m for m in measures if not m["part"]]  # done without a part of its own
    low, high = (sum(float(prices[n][i]) for n in needs) + sum(float(m["price"][i]) for m in bare) for i in (0, 1))
    a, b = (minutes[i] + sum(float(m["minutes"][i]) for m in measures) for i in (0, 1))
    return (low, high), (a, b)


def _functions_mark(design: Design, ledger: tuple[Verdict, ...]) -> float:
    wanted = set(design.intake.must_keep)
    total = reached = 0.0
    for verdict in ledger:
        if verdict.fate is Fate.UNCLEAR:
            continue
        weight = (
            VITAL
            if about(verdict.function.kind)["vital"]
            else ASKED
            if KEPT.get(verdict.function.kind) in wanted
            else 1.0
        )
        total += weight
        reached += weight * WORTH[verdict.fate]
    return reached / total if total else 1.0


def _open_facts(design: Design, patterns: list[str]) -> tuple[str, ...]:
    """Paths of the facts a strategy rests on that nobody has checked yet."""
    found = []
    quiet = tuple(f"vehicle/modules/{m.id}/" for m in design.vehicle.modules if not m.amplifies)
    for path, fact, _, _ in design_facts(design):
        if path.startswith(quiet):
            continue
        for pattern in patterns:
            head, _, tail = pattern.partition("*")
            if (
                path == pattern or (tail and path.startswith(head) and path.endswith(tail))
            ) and fact.basis is Basis.ASSUMED:
                found.append(path)
                break
    return tuple(found)


def _served(goals: list[float], manner: list[float]) -> float:
    """How far wishes are met: the worst goal counts as much as their mean, the manner a quarter."""
    goal = (sum(goals) / len(goals) + min(goals)) / 2
    return 0.75 * goal + 0.25 * sum(manner) / len(manner) if manner else goal


def _limit_mark(value: float, limit: float) -> float:
    """1 up to half the limit, 0.5 at it, 0 from one and a half times on."""
    return min(1.0, max(0.0, 1.5 - value / limit))


def _candidate(design: Design, key: StrategyKey, taps: tuple[Pickup, ...], kept: Kept, ask: bool = True) -> Candidate:
    way = read_toml("strategies")["ways"][key.value]
    why_not = _obstacle(design, key, taps)
    acts = _rescued(design, _with_kept(design, _acts(design, key), kept)) if not why_not else ()
    ledger = judge_functions(design, acts)
    needs = tuple(_needs(design, key, ledger))
    interfaces = sum(KeepAlive.INTERFACE in i.keep_alive for i in acts)
    cost, minutes = _spans(needs, acts, [float(m) for m in way["minutes"]])
    signal, quality = signal_words(design, key, taps)
    goals = [float(way["serves"][w.value]) for w in design.intake.wishes if w in GOALS]
    manner = [float(way["serves"][w.value]) for w in design.intake.wishes if w not in GOALS]
    serves = _served(goals or [float(way["serves"][w.value]) for w in GOALS], manner)
    adapted = sum(v.fate is Fate.ADAPTED for v in ledger)
    marks = {
        "sound": serves * quality,
        "functions": _functions_mark(design, ledger),
        "reversible": max(0.0, float(way["whole"]) - 0.1 * sum(KeepAlive.BOARD in i.keep_alive for i in acts)),
        "cost": _limit_mark(sum(cost) / 2, design.intake.budget or NO_BUDGET),
        "time": _limit_mark(sum(minutes) / 2, HALF_DAY_MIN),
        "robust": max(0.0, float(way["robust"]) - 0.15 * interfaces - 0.03 * adapted),
    }
    budget = design.intake.budget
    short_of = tuple(w.value for w in design.intake.wishes if w in GOALS and float(way["serves"][w.value]) < ENOUGH)
    return Candidate(
        key,
        str(way["plain"]),
        why_not,
        acts,
        ledger,
        needs,
        signal,
        supply_words(design, needs),
        channel_words(design, key),
        cost,
        minutes,
        float(way["whole"]) >= 0.75,
        str(way["case"]),
        tuple(way["risks"]),
        _open_facts(design, list(way["verify"])) if ask else (),
        budget is not None and cost[0] > budget,
        short_of,
        marks,
        weigh(marks, design.weights or usual_weights(design.intake)),
    )


def weigh(marks: Mapping[str, float], weights: Weights) -> float:
    """The weighted mean of marks.

    Parameters:
        marks: criterion to mark, 0 to 1.
        weights: what counts how much; only their ratios matter.

    Returns:
        0 to 1; the plain mean where every weight is zero.
    """
    given: dict[str, float] = {name: getattr(weights, name) for name in marks}
    total = sum(given.values())
    if total <= 0:
        return sum(marks.values()) / len(marks)
    return sum(marks[name] * given[name] for name in marks) / total


def _place(c: Candidate) -> tuple[bool, bool, int, float, str]:
    """Where a candidate comes, the best first."""
    return (not c.possible, c.over_budget, len(c.short_of), -c.score, c.key.value)


def best_way(design: Design) -> StrategyKey | None:
    """The strategy that is recommended, without the words and questions of `advise`; None where the car allows none."""
    taps, kept = pickups(design.vehicle), kept_by_choice(design)
    first = min((_candidate(design, key, taps, kept, ask=False) for key in StrategyKey), key=_place)
    return first.key if first.possible else None


def advise(design: Design) -> Advice:
    """Every strategy judged for this car and this customer, the best first.

    Parameters:
        design: the design.

    Returns:
        the ranked candidates; those the car does not allow come last with the reason.

    Source: common practice.
    """
    weights = design.weights or usual_weights(design.intake)
    taps = pickups(design.vehicle)
    kept = kept_by_choice(design)
    ranked = sorted((_candidate(design, key, taps, kept) for key in StrategyKey), key=_place)
    possible = [c for c in ranked if c.possible]
    reasons = _reasons(possible[0], possible[1:], weights) if possible else ()
    return Advice(tuple(ranked), weights, reasons, _runner_up(possible, weights))


def _reasons(best: Candidate, others: list[Candidate], weights: Weights) -> tuple[str, ...]:
    found = [best.case]
    lost, adapted = best.fate(Fate.LOST), best.fate(Fate.ADAPTED)
    if best.ledger and not lost:
        found.append(
            "Nothing the car does is lost" + (f"; {', '.join(adapted)} through an adapter." if adapted else ".")
        )
    elif lost:
        found.append(f"It costs {', '.join(lost)}.")
    if best.short_of:
        found.append(f"It does little for {' and '.join(best.short_of)}; nothing on the list does all that was asked.")
    if others:
        ahead = _lead(best, others[0], weights)
        if ahead:
            found.append(f"Ahead of the next on {' and '.join(ahead)}.")
    return tuple(found)


def _lead(one: Candidate, other: Candidate, weights: Weights) -> list[str]:
    gain = {name: (one.marks[name] - other.marks[name]) * getattr(weights, name) for name in CRITERIA}
    strong = sorted((n for n in gain if gain[n] > 0.05), key=lambda n: -gain[n])
    return [(Weights.model_fields[n].title or n).lower() for n in strong[:2]]


def _runner_up(possible: list[Candidate], weights: Weights) -> str:
    if len(possible) < 2:
        return ""
    best, second = possible[:2]
    better = _lead(second, best, weights)
    tail = f" It is better on {' and '.join(better)}." if better else ""
    return f"{second.key.value[0].upper()}{second.key.value[1:]}: {second.case}{tail}"
