"""Strategies: which ways this car allows, what each means for it, and which suits this customer best."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from ohmack.core.document import Basis, Design, Intake
from ohmack.core.document.design import Wish
from ohmack.core.document.factory import Tier
from ohmack.core.document.functions import Act, Intervention, KeepAlive
from ohmack.core.document.interventions import factory_amplifier
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.document.paths import design_facts
from ohmack.core.document.strategy import StrategyKey, Weights
from ohmack.core.document.vehicle import SystemVoltage
from ohmack.core.factory.evidence import (
    Evidence,
    adapted_digitally,
    digital_link,
    evidence,
    room_for_amplifier,
    splits_bands,
)
from ohmack.core.factory.function_edits import KEPT
from ohmack.core.factory.functions import Fate, Verdict, fitting_measures, judge_functions
from ohmack.core.factory.graph import about
from ohmack.core.factory.pickup_places import Pickup, pickups
from ohmack.core.factory.strategy_marks import HALF_DAY_MIN, NO_BUDGET, Span, limit_mark, moved, spans, weigh
from ohmack.core.factory.strategy_words import channel_words, signal_words, supply_words
from ohmack.core.record import record
from ohmack.core.reference import read_toml

WORTH = {Fate.KEPT: 1.0, Fate.ADAPTED: 0.7, Fate.LOST: 0.0}
ASKED, VITAL = 3.0, 5.0  # how much more a function counts that the customer asked for, or that the car needs
CRITERIA = tuple(Weights.model_fields)
GOALS = (Wish.BASS, Wish.CLARITY, Wish.SCREEN)  # what must come out; the other wishes say in what manner
DIGITAL = 0.15  # how much less robust a way is whose music goes through a digital adapter, common practice
CHOSEN_BASS = 0.6  # how well bass is served where a person put a subwoofer into the plan, whatever the way
ENOUGH = 0.4  # a goal served less than this is missed


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
    cost: Span  # parts
    minutes: Span
    labour: Span  # at the shop's rate
    uncut: bool
    case: str
    risks: tuple[str, ...]
    verify: tuple[str, ...]
    over_budget: bool
    short_of: tuple[str, ...]
    served: Mapping[str, float]  # how well each wish is served, 0 to 1
    marks: Mapping[str, float]
    score: float = 0.0
    known: tuple[Evidence, ...] = ()  # what this car says for and against it
    below: str = ""  # why it stands below one with a lower mark

    @property
    def total(self) -> Span:
        """Parts and labour together."""
        return self.cost[0] + self.labour[0], self.cost[1] + self.labour[1]

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
        robust=5.0 if Wish.RELIABLE in intake.wishes else 2.0,
    )


def _obstacle(design: Design, key: StrategyKey, taps: tuple[Pickup, ...]) -> str:
    """Why a strategy cannot be done on this car; empty where it can."""
    vehicle = design.vehicle
    tier, amplifier = vehicle.radio.tier.value, factory_amplifier(design)
    if vehicle.supply.system.value is SystemVoltage.V6:
        return "a 6 V car: no part of today runs on it; convert it first, or leave it original"
    if vehicle.supply.positive_ground.value:
        return "its positive pole is on the body: every case and shield of today's parts is negative"
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
        case StrategyKey.SCREEN_ON_TOP if tier is not Tier.RING:
            return "the radio may go: no ring needs it as its master"
        case StrategyKey.SCREEN_ON_TOP if vehicle.radio.spare_input.value is False:
            return "the factory radio has no input a screen could play into"
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
        case StrategyKey.SCREEN_ON_TOP:
            return (Intervention(id=radio, act=Act.REMOVED, keep_alive=(KeepAlive.STAYS,)),)
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
    digital = digital_link(design)
    for role in roles:
        if role == "plug adapter" and not design.vehicle.has_known_plug:
            continue  # nobody makes one: its few wires are joined one by one
        if role == "plug-in amplifier" and key is StrategyKey.RADIO_BYPASS and room_for_amplifier(design) is not None:
            role = "amplifier"  # with wires of its own, where there is room for it
        if role == "amplifier adapter" and not digital:
            if "plug-in amplifier" in roles:
                continue  # a plug-in amplifier on analogue lines needs none
            role = "line adapter"  # line leads to its plug are enough
        yield role
    if key is StrategyKey.RADIO_BYPASS and splits_bands(design):
        yield "processor"
    if key is StrategyKey.AFTER_AMPLIFIER and design.intake.reversible:
        yield "plug adapter"  # a splice would cost the way back
    if key is StrategyKey.NEW_RADIO and any(
        m.amplifies and m.fitted.value is not False for m in design.vehicle.modules
    ):
        yield "line adapter"  # the factory subwoofer amplifier heard the old radio
    yield from dict.fromkeys(part for verdict in ledger for part in verdict.rests_on)


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


def chosen_bass(design: Design) -> bool:
    """Whether a person put a powered subwoofer into the plan that no way laid: it goes with any of them."""
    return any(sub.laid_by is None for sub in design.parts_of(PoweredSubwoofer))


def _served(goals: list[float], manner: list[float]) -> float:
    """How far wishes are met: the worst goal counts as much as their mean, the manner a quarter."""
    goal = (sum(goals) / len(goals) + min(goals)) / 2
    return 0.75 * goal + 0.25 * sum(manner) / len(manner) if manner else goal


def _candidate(
    design: Design,
    key: StrategyKey,
    taps: tuple[Pickup, ...],
    kept: Kept,
    of_car: tuple[Evidence, ...],
    ask: bool = True,
) -> Candidate:
    way = read_toml("strategies")["ways"][key.value]
    why_not = _obstacle(design, key, taps)
    acts = _rescued(design, _with_kept(design, _acts(design, key), kept)) if not why_not else ()
    ledger = judge_functions(design, acts)
    needs = tuple(_needs(design, key, ledger))
    interfaces = sum(KeepAlive.INTERFACE in i.keep_alive for i in acts)
    cost, minutes = spans(design, key, needs, acts)
    if chosen_bass(design) and key is not StrategyKey.POWERED_SUB:  # it is fitted beside whatever way is gone
        beside = read_toml("strategies")["ways"][StrategyKey.POWERED_SUB.value]["minutes"]
        minutes = (minutes[0] + float(beside[0]), minutes[1] + float(beside[1]))
    labour = (minutes[0] / 60 * design.policy.labour_rate, minutes[1] / 60 * design.policy.labour_rate)
    known = tuple(one for one in of_car if key in one.ways) if not why_not else ()
    signal, quality = signal_words(design, key, taps)
    serves_it = dict(way["serves"])
    if chosen_bass(design):
        serves_it[Wish.BASS.value] = max(float(serves_it[Wish.BASS.value]), CHOSEN_BASS)
    goals = [float(serves_it[w.value]) for w in design.intake.wishes if w in GOALS]
    robust = max(0.0, float(way["robust"]) - (DIGITAL if key in adapted_digitally(design) else 0.0))
    serving = {**serves_it, Wish.RELIABLE.value: robust}
    manner = [float(serving[w.value]) for w in design.intake.wishes if w not in GOALS]
    serves = _served(goals or [float(serves_it[w.value]) for w in GOALS], manner)
    adapted = sum(v.fate is Fate.ADAPTED for v in ledger)
    budget = design.intake.budget
    marks = {
        "sound": serves * quality,
        "functions": _functions_mark(design, ledger),
        "reversible": max(0.0, float(way["whole"]) - 0.1 * sum(KeepAlive.BOARD in i.keep_alive for i in acts)),
        "cost": limit_mark((sum(cost) + sum(labour)) / 2, budget or NO_BUDGET),
        "time": limit_mark(sum(minutes) / 2, HALF_DAY_MIN),
        "robust": max(0.0, robust - 0.15 * interfaces - 0.03 * adapted),
    }
    marks = moved(marks, known)
    short_of = tuple(w.value for w in design.intake.wishes if w in GOALS and float(serves_it[w.value]) < ENOUGH)
    link = "risks_digital" if digital_link(design) else "risks_analogue"
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
        labour,
        float(way["whole"]) >= 0.75,
        str(way["case"]),
        (*(one.words for one in known if one.change < 0), *way.get(link, ()), *way["risks"]),
        _open_facts(design, list(way["verify"])) if ask else (),
        budget is not None and cost[0] + labour[0] > budget,
        short_of,
        {w.value: float(serving[w.value]) for w in design.intake.wishes},
        marks,
        weigh(marks, design.weights or usual_weights(design.intake)),
        known,
    )


def _place(c: Candidate, weights: Weights) -> tuple[bool, bool, int, float, str]:
    """Where a candidate comes, the best first: money and wishes go before the mark while they weigh anything."""
    over = c.over_budget and weights.cost > 0
    short = len(c.short_of) if weights.sound > 0 else 0
    return (not c.possible, over, short, -c.score, c.key.value)


def _why_below(ranked: list[Candidate], weights: Weights) -> Iterator[Candidate]:
    """The candidates in their order, each that stands below a lower mark with the reason."""
    for number, c in enumerate(ranked):
        passed = [o for o in ranked[:number] if o.possible and round(o.score, 2) < round(c.score, 2)]
        if not c.possible or not passed:
            yield c
            continue
        reasons = []
        if c.over_budget and weights.cost > 0 and not all(o.over_budget for o in passed):
            reasons.append("over the budget with labour")
        if weights.sound > 0 and any(len(o.short_of) < len(c.short_of) for o in passed):
            reasons.append(f"little for {' and '.join(c.short_of)}")
        yield replace(c, below=f"below lower marks: {', '.join(reasons)}" if reasons else "")


def best_way(design: Design) -> StrategyKey | None:
    """The strategy that is recommended, without the words and questions of `advise`; None where the car allows none."""
    taps, kept, of_car = pickups(design.vehicle), kept_by_choice(design), evidence(design)
    weights = design.weights or usual_weights(design.intake)
    ways = (_candidate(design, key, taps, kept, of_car, ask=False) for key in StrategyKey)
    first = min(ways, key=lambda c: _place(c, weights))
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
    kept, of_car = kept_by_choice(design), evidence(design)
    ways = [_candidate(design, key, taps, kept, of_car) for key in StrategyKey]
    ranked = list(_why_below(sorted(ways, key=lambda c: _place(c, weights)), weights))
    possible = [c for c in ranked if c.possible]
    reasons = _reasons(possible[0], possible[1:], weights) if possible else ()
    return Advice(tuple(ranked), weights, reasons, _runner_up(possible, weights))


def _reasons(best: Candidate, others: list[Candidate], weights: Weights) -> tuple[str, ...]:
    found = [*(one.words for one in best.known if one.change > 0), best.case]
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
        against = [one.words for one in others[0].known if one.change < 0]
        found += [f"Against {others[0].key.value}: {words}" for words in against[:2]]
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
    speaks = "".join(f" {one.words}" for one in second.known if one.change > 0)
    return f"{second.key.value[0].upper()}{second.key.value[1:]}: {second.case}{speaks}{tail}"
