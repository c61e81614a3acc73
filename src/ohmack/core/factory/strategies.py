"""Strategies: each way judged for this car and this customer, what it means, its marks."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ohmack.core.document import Basis, Design, Intake
from ohmack.core.document.design import GOALS, Wish
from ohmack.core.document.functions import Intervention, KeepAlive
from ohmack.core.document.handles import at
from ohmack.core.document.paths import design_facts
from ohmack.core.document.policy import with_tax
from ohmack.core.document.strategy import StrategyKey, Weights
from ohmack.core.factory.beside import ENOUGH, beside, chosen_bass, for_what
from ohmack.core.factory.evidence import (
    Evidence,
    adapted_digitally,
    digital_link,
)
from ohmack.core.factory.function_edits import KEPT
from ohmack.core.factory.functions import Fate, Verdict, judge_functions
from ohmack.core.factory.graph import about
from ohmack.core.factory.pickup_places import Pickup
from ohmack.core.factory.roles import SOUNDING, in_the_car
from ohmack.core.factory.strategy_marks import HALF_DAY_MIN, NO_BUDGET, Span, limit_mark, moved, spans, weigh
from ohmack.core.factory.strategy_words import channel_words, signal_words, supply_words
from ohmack.core.factory.way_acts import Kept, acts_of, needs_of, obstacle, rescued, way_of, with_kept
from ohmack.core.record import record
from ohmack.core.wording import listed

WORTH = {Fate.KEPT: 1.0, Fate.ADAPTED: 0.7, Fate.LOST: 0.0}
ASKED, VITAL = 3.0, 5.0  # how much more a function counts that the customer asked for, or that the car needs
CRITERIA = tuple(Weights.model_fields)
DIGITAL = 0.15  # how much less robust a way is whose music goes through a digital adapter, common practice
CHOSEN_BASS = 0.6  # how well bass is served where a person put a subwoofer into the plan, whatever the way


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
    cost: Span  # parts, without tax
    minutes: Span
    labour: Span  # at the shop's rate, without tax
    to_pay: Span  # both, the tax on them
    uncut: bool
    case: str
    risks: tuple[str, ...]
    verify: tuple[str, ...]
    over_budget: bool
    short_of: tuple[str, ...]
    served: Mapping[str, float]  # how well each wish is served, 0 to 1
    marks: Mapping[str, float]  # by criterion; one that nobody could judge is not among them
    score: float = 0.0
    known: tuple[Evidence, ...] = ()  # what this car says for and against it
    below: str = ""  # why it stands below one with a lower mark
    beside: tuple[StrategyKey, ...] = ()  # whose parts are fitted with it
    there: tuple[str, ...] = ()  # of what it needs, what the car has already

    @property
    def title(self) -> str:
        """What it is called, with what is fitted beside it."""
        others = listed([str(way_of(other)["beside"]) for other in self.beside])
        return f"{way_of(self.key).get('together', self.key.value)}, with {others}" if others else self.key.value

    @property
    def possible(self) -> bool:
        """Whether the car allows it."""
        return not self.why_not

    def fate(self, fate: Fate) -> tuple[str, ...]:
        """The functions with one fate, by name."""
        return tuple(v.function.title for v in self.ledger if v.fate is fate)


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


def _functions_mark(design: Design, ledger: tuple[Verdict, ...]) -> dict[str, float]:
    """The mark for what is kept, by its name; none where no function on file could be judged."""
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
    return {"functions": reached / total} if total else {}


def _open_facts(design: Design, patterns: list[str]) -> tuple[str, ...]:
    """Paths of the facts a strategy rests on that nobody has checked yet."""
    found = []
    quiet = tuple(f"vehicle/modules/{m.id}/" for m in design.vehicle.modules if not m.amplifies)
    quiet += tuple(at(s, lambda it: it.window_depth_mm) for s in design.vehicle.speakers if not s.in_door)
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


def _is_gone(design: Design, needs: tuple[str, ...]) -> bool:
    """Whether everything that makes the sound of a way was in the car before this job."""
    sounding = [role for role in needs if role in SOUNDING]
    return bool(sounding) and all(in_the_car(design, role) for role in sounding)


# What of a way serves a goal: where all of it is in the car already, the way adds nothing to that.
SERVED_BY = {Wish.BASS: ("subwoofer", "powered subwoofer"), Wish.CLARITY: ("driver",), Wish.SCREEN: ("radio",)}


def _serves(design: Design, way: Mapping[str, Any], wish: str) -> float:
    """How well a way serves a wish by what it puts in."""
    roles = next((by for goal, by in SERVED_BY.items() if goal.value == wish), ())
    mine = [role for role in roles if role in way["needs"]]
    return 0.0 if mine and all(in_the_car(design, role) for role in mine) else float(way["serves"][wish])


def judged_way(
    design: Design,
    key: StrategyKey,
    taps: tuple[Pickup, ...],
    kept: Kept,
    of_car: tuple[Evidence, ...],
    ask: bool = True,
    alone: bool = False,
) -> Candidate:
    """One way judged for this car and this customer.

    Parameters:
        design: the design.
        key: the way.
        taps: where the signal could be taken from.
        kept: measures a person chose.
        of_car: what is known of this car.
        ask: whether the open facts it rests on are wanted too.
        alone: whether nothing is fitted beside it.

    Returns:
        the candidate with its marks, possible or not; with what is fitted beside it for the other wishes, where that
        is not what takes it over the budget. Source: common practice.
    """
    way, others = way_of(key), () if alone else beside(design, key, taps)
    ways = (way, *(way_of(other) for other in others))
    why_not = obstacle(design, key, taps)
    acts = rescued(design, with_kept(design, acts_of(design, key), kept)) if not why_not else ()
    ledger = judge_functions(design, acts)
    needs = tuple(dict.fromkeys(role for one in (key, *others) for role in needs_of(design, one, ledger)))
    if not why_not and _is_gone(design, needs):
        why_not, acts = "what makes its sound is in the car already", ()
    interfaces = sum(KeepAlive.INTERFACE in i.keep_alive for i in acts)
    cost, minutes = spans(design, key, needs, acts)
    chosen = chosen_bass(design) and key is not StrategyKey.POWERED_SUB  # it is fitted beside whatever way is gone
    for one in (*others, *([StrategyKey.POWERED_SUB] if chosen else [])):
        took = way_of(one)["minutes"]
        minutes = (minutes[0] + float(took[0]), minutes[1] + float(took[1]))
    labour = (minutes[0] / 60 * design.policy.labour_rate, minutes[1] / 60 * design.policy.labour_rate)
    known = tuple(one for one in of_car if key in one.ways) if not why_not else ()
    signal, quality = signal_words(design, key, taps)
    serves_it = {wish: max(_serves(design, one, wish) for one in ways) for wish in way["serves"]}
    serves_it |= {wish: float(way["serves"][wish]) for wish in serves_it if wish not in GOALS}
    if chosen_bass(design):
        serves_it[Wish.BASS.value] = max(float(serves_it[Wish.BASS.value]), CHOSEN_BASS)
    goals = [float(serves_it[w.value]) for w in design.intake.goals]
    digital = DIGITAL if key in adapted_digitally(design) else 0.0
    robust, whole = (min(float(one[name]) for one in ways) for name in ("robust", "whole"))
    robust = max(0.0, robust - digital)
    serving = {**serves_it, Wish.RELIABLE.value: robust}
    manner = [float(serving[w.value]) for w in design.intake.wishes if w not in GOALS]
    serves = _served(goals or [float(serves_it[w.value]) for w in GOALS], manner)
    adapted = sum(v.fate is Fate.ADAPTED for v in ledger)
    budget, policy = design.intake.budget, design.policy
    to_pay = with_tax(policy, cost[0] + labour[0]), with_tax(policy, cost[1] + labour[1])
    marks = {
        "sound": serves * quality,
        **_functions_mark(design, ledger),
        "reversible": max(0.0, whole - 0.1 * sum(KeepAlive.BOARD in i.keep_alive for i in acts)),
        "cost": limit_mark(sum(to_pay) / 2, budget or NO_BUDGET),
        "time": limit_mark(sum(minutes) / 2, HALF_DAY_MIN),
        "robust": max(0.0, robust - 0.15 * interfaces - 0.03 * adapted),
    }
    marks = moved(marks, known)
    short_of = tuple(w.value for w in design.intake.goals if float(serves_it[w.value]) < ENOUGH)
    in_doors = way.get("risks_doors", ()) if any(s.in_door for s in design.vehicle.speakers) else ()
    link = "risks_digital" if digital_link(design) else "risks_analogue"
    over = budget is not None and to_pay[0] > budget
    if over and others:
        plainer = judged_way(design, key, taps, kept, of_car, ask, alone=True)
        if not plainer.over_budget:
            return plainer
    return Candidate(
        key,
        " ".join(
            (str(way["plain"]), *(f"With it {way_of(other)['beside']}, for {for_what(other)}." for other in others))
        ),
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
        to_pay,
        whole >= 0.75,
        str(way["case"]),
        (*(one.words for one in known if one.change < 0), *way.get(link, ()), *way["risks"], *in_doors),
        _open_facts(design, [pattern for one in ways for pattern in one["verify"]]) if ask else (),
        over,
        short_of,
        {w.value: float(serving[w.value]) for w in design.intake.wishes},
        marks,
        weigh(marks, design.weights or usual_weights(design.intake)),
        known,
        beside=others,
        there=tuple(role for role in needs if in_the_car(design, role)),
    )
