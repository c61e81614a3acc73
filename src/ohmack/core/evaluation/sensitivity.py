"""Measure first: which assumed facts would flip a finding or a part somewhere in their range."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any, Protocol

from pydantic import BaseModel

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.cabin import AlterationKind
from ohmack.core.document.design import Wish
from ohmack.core.document.factory import Tier
from ohmack.core.document.handles import at
from ohmack.core.document.links import LinkBase, TapLink
from ohmack.core.document.paths import design_facts
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import feed_pattern
from ohmack.core.errors import OhmackError
from ohmack.core.evaluation.answer import Evaluation, Measure
from ohmack.core.evaluation.flips import SIDES, Flips, side_of
from ohmack.core.factory.advice import advise, best_way
from ohmack.core.factory.roles import ON_ONE
from ohmack.core.figures.finding import RULES, Severity
from ohmack.core.record import record
from ohmack.core.reference import read_toml
from ohmack.core.units import unit_of
from ohmack.core.wording import amount

PARTS = ("wire", "ground_wire", "fuse_a", "feed_fuse_a", "feed_wire", "pickup")
NO_REASON = "facts-contradict"  # to measure anything
LIKELY = 3  # how many of the best ways are asked what they rest on while nothing is planned
PLAN_LOW, PLAN_HIGH = 0.85, 1.20  # a taped run against the plan's estimate, common practice


class Tracing(Protocol):
    """A design that can be evaluated again with one fact changed."""

    @property
    def read(self) -> frozenset[str]:
        """The paths of every fact the evaluation looks at."""

    @property
    def best_way(self) -> StrategyKey | None:
        """The strategy that is recommended."""

    @property
    def steers(self) -> frozenset[str]:
        """The paths of every fact the recommendation looks at."""

    def after(self, path: str, value: Any) -> Evaluation:
        """The evaluation with one fact's value changed."""


def fact_guide(field: str) -> dict[str, Any]:
    """How a kind of fact is verified; empty where nothing is on file."""
    found: dict[str, Any] = read_toml("facts").get(field, {})
    return found


def probes(fact: Fact[Any], field: str, of: BaseModel, evaluation: Evaluation) -> list[Any]:
    """The other values an assumed fact of a thing may turn out to have: of its range, or of what is plausible of such a
    field where nobody gave one.
    """
    if fact.basis is not Basis.ASSUMED:
        return []
    if fact.value is None:
        length_m = _planned_m(fact, of, evaluation)
        return [] if length_m is None else [PLAN_LOW * length_m, PLAN_HIGH * length_m]
    low, high = fact.low, fact.high
    if low is None and isinstance(fact.value, float) and not fact.alternatives:
        guide = fact_guide(field)
        low, high = (min(guide["low"], fact.value), max(guide["high"], fact.value)) if "low" in guide else (None, None)
    values = [] if low is None or high is None else [low, high]
    return [v for v in (*values, *fact.alternatives) if v != fact.value]


def _planned_m(fact: Fact[Any], of: BaseModel, evaluation: Evaluation) -> float | None:
    """What the plan says of a run nobody has measured with a tape; None for any other fact."""
    if not isinstance(of, LinkBase) or of.tape_length_m is not fact:
        return None
    figure = evaluation.figure(f"{of.id}/length_m")
    return figure.value if figure else None


Findings = dict[tuple[str, str], tuple[Severity, str]]


def _counting(evaluation: Evaluation) -> Findings:
    """Findings of the plan that ask for something, by rule and thing. What was read, done or agreed to rests on no
    guess; a guess that what was looked at contradicts is wrong already.
    """
    return {
        (f.rule, f.about): (f.severity, f.title)
        for f in evaluation.findings
        if f.severity is not Severity.NOTE and not f.caution and RULES[f.rule].varied and f.rule != NO_REASON
    }


@record
class Decided:
    """What an evaluation decides: findings that count, and the parts it takes."""

    evaluation: Evaluation
    findings: Findings
    parts: dict[str, Any]


def decided(evaluation: Evaluation, pickup: bool) -> Decided:
    """The decisions of an evaluation, with or without the best place for a pickup."""
    parts = {i: figure.value for i, figure in evaluation.figures.items() if i.rsplit("/", 1)[-1] in PARTS}
    if not pickup:
        parts.pop("pickup", None)
    return Decided(evaluation, _counting(evaluation), parts)


def _shown(value: Any) -> str:
    return f"{value:g} A" if isinstance(value, float) else str(value)


def _difference(base: Decided, other: Evaluation) -> tuple[list[str], list[str], list[str]]:
    """(stops, watches, parts) that flip between two evaluations, in words."""
    was, had = base.findings, base.parts
    now, has = _counting(other), {k: other.figures[k].value for k in had if k in other.figures}
    stops: list[str] = []
    watches: list[str] = []
    for key in was.keys() | now.keys():
        a, b = was.get(key), now.get(key)
        if (a and a[0]) == (b and b[0]):
            continue
        worst = min((x for x in (a, b) if x), key=lambda x: x[0].rank)
        words = worst[1] if b else f"no longer: {worst[1]}"
        (stops if worst[0] is Severity.STOP else watches).append(words)
    parts = [
        f"{base.evaluation.figures[k].name} {_shown(had[k])} → {_shown(has[k])}"
        for k in had
        if k in has and had[k] != has[k] and had[k] is not None and has[k] is not None
    ]
    return sorted(stops), sorted(watches), parts


def _start(fact: Fact[Any], of: BaseModel, base: Evaluation) -> Any:
    """What the plan takes: the value, or the planned length of a run nobody taped."""
    return fact.value if fact.value is not None else _planned_m(fact, of, base)


def _thresholds(
    path: str, fact: Fact[Any], of: BaseModel, ends: list[Any], was: Decided, tracing: Tracing
) -> str:  # fmt: skip
    """Where the decision flips on each side it flips on."""
    found = (_threshold(path, fact, of, far, was, tracing) for far in ends)
    return " and ".join(words for words in found if words)


def _threshold(path: str, fact: Fact[Any], of: BaseModel, far: Any, was: Decided, tracing: Tracing) -> str:
    """Where between the assumed value and the far end the decision flips, to about 6 % of the span."""
    base = was.evaluation
    start = _start(fact, of, base)
    if not isinstance(start, float) or not isinstance(far, float):
        return ""
    near, end = start, far
    for _ in range(4):
        middle = (near + end) / 2
        try:
            flips = any(_difference(was, tracing.after(path, middle)))
        except OhmackError:
            flips = True
        near, end = (near, middle) if flips else (middle, end)
    side = "above" if far > start else "below"
    return f"{side} {amount(end, unit_of(path.rsplit('/', 1)[-1]), base.design.policy.length_unit)}"


def _owner(model: Any) -> str:
    return str(getattr(model, "name", "") or "")


def sweep(design: Design, base: Evaluation, tracing: Tracing) -> tuple[Measure, ...]:
    """Vary every assumed fact alone over its ends and alternatives.

    Parameters:
        design: the design.
        base: its evaluation.
        tracing: evaluates the design with one fact changed.

    Returns:
        the facts that flip a finding or a part, most consequential first.
    """
    found = list(_sweep(design, base, tracing))
    if not design.changes_something:  # the survey comes first: what the wishes, and then the likely plans, would ask
        found += [measure for measure in wished(design) if measure.path not in {m.path for m in found}]
        known = {measure.path for measure in found}
        found += [measure for measure in likely_asked(design) if measure.path not in known]
    return tuple(sorted(found, key=lambda m: m.consequence))


def likely_asked(design: Design) -> Iterator[Measure]:
    """The facts nobody has checked that the likeliest ways for this car rest on.

    Parameters:
        design: the design, nothing planned yet.

    Returns:
        one measure a fact, with the ways that ask for it. Source: common practice.
    """
    asked: dict[str, list[str]] = {}
    goals = design.intake.goals
    if not goals:
        return  # nobody knows yet what it is for
    ranked, sound = advise(design).ranked, {Wish.BASS, Wish.CLARITY}
    likely = [
        c
        for c in ranked
        if c.possible
        and (sound <= set(goals) or c.key not in ON_ONE or c is ranked[0])  # no more than is wished
        and len(c.short_of) < len(goals)  # and some of it
    ]
    for candidate in likely[:LIKELY]:
        for path in candidate.verify:
            asked.setdefault(path, []).append(candidate.key.value)
    for path, fact, owner, field in design_facts(design):
        if path in asked:
            yield _unplanned(design, path, fact, owner, field, plans=tuple(asked[path]))


def _unplanned(
    design: Design, path: str, fact: Fact[Any], owner: BaseModel, field: str, **why: Any
) -> Measure:  # fmt: skip
    """A fact to measure while nothing is planned, so that nothing flips yet."""
    guide, as_said = fact_guide(field), design.vehicle.as_said
    title = as_said(type(owner).model_fields[field].title or field)
    return Measure(
        path, title, _owner(owner), unit_of(field), fact.value, fact.low, fact.high, fact.alternatives, (), (), (), str,
        as_said(guide.get("how", "")), int(guide.get("minutes", 5)), guide.get("where", "car"), **why,
    )  # fmt: skip


def wished(design: Design) -> Iterator[Measure]:
    """What the customer's wishes, or what happened to this car before, make worth knowing first.

    Parameters:
        design: the design, nothing planned yet.

    Returns:
        one measure a fact nobody has checked, with the reason. Source: common practice.
    """
    radio, why = design.vehicle.radio, dict[str, str]()
    if Wish.SCREEN in design.intake.wishes:
        opening = (
            at(radio, lambda it: it.opening_width_mm),
            at(radio, lambda it: it.opening_height_mm),
            at(radio, lambda it: it.opening_depth_mm),
        )
        why |= dict.fromkeys(opening, "a screen has to go into it")
        if radio.tier.value in (Tier.RING, Tier.AMPLIFIED, Tier.SUB_AMPLIFIER) or design.vehicle.modules:
            why[at(radio, lambda it: it.starts_without)] = "the radio may have to go"
        if radio.tier.value is Tier.RING:
            why[at(radio, lambda it: it.ring_master)] = "the ring is silent without its master"
    for alteration in design.vehicle.alterations:
        if alteration.kind is AlterationKind.FAILED_ADAPTER:
            why[at(alteration, lambda it: it.cause)] = "until it is known, the next one may fail too"
    for path, fact, owner, field in design_facts(design):
        if path in why and fact.basis is Basis.ASSUMED:
            yield _unplanned(design, path, fact, owner, field, wish=why[path])


def _sweep(design: Design, base: Evaluation, tracing: Tracing) -> Iterator[Measure]:
    read = tracing.read
    best, system = tracing.best_way, at(design.vehicle.radio, lambda it: it.tier)
    on_its_plug = {part.id for part in design.parts_of(Amplifier) if part.plugs_in}
    chosen = any(tap.to_id not in on_its_plug for tap in design.links_of(TapLink))
    takes = chosen or not design.changes_something  # else nothing hangs on where the signal is taken
    plan = decided(base, pickup=takes)
    whole = plan if takes else decided(base, pickup=True)
    for path, fact, owner, field in design_facts(design):
        if path not in read:
            continue
        was = whole if path == system else plan
        stops, watches, parts = Flips(), Flips(), Flips()
        ends: dict[str, Any] = {}  # by side, the value the decision is another at
        values = probes(fact, field, owner, base)
        for value in values:
            other, side = tracing.after(path, value), side_of(value, _start(fact, owner, base))
            s, w, p = _difference(was, other)
            way = _other_way(best, other.design) if path in tracing.steers else ""
            stops.add(s, side)
            watches.add([*w, way] if way and design.strategy else w, side)
            parts.add([*p, way] if way and not design.strategy else p, side)
            if s or w or p or way:
                ends.setdefault(side, value)
        if not ends:
            continue
        both = len(ends) > 1
        guide, as_said = fact_guide(field), design.vehicle.as_said
        given = fact.value is not None and (fact.low is not None or bool(fact.alternatives))
        low, high = (fact.low, fact.high) if given else (min(values), max(values))
        title = as_said(type(owner).model_fields[field].title or field)
        yield Measure(
            path,
            title,
            _owner(owner) or _end_names(base, owner),
            unit_of(field),
            fact.value,
            low,
            high,
            fact.alternatives,
            stops.said(both),
            watches.said(both),
            parts.said(both),
            partial(_thresholds, path, fact, owner, [ends[side] for side in SIDES if side in ends], was, tracing),
            as_said(guide.get("how", "")),
            int(guide.get("minutes", 5)),
            guide.get("where", "car"),
        )


def _other_way(best: StrategyKey | None, other: Design) -> str:
    """The strategy that would be recommended instead, in words; empty where it stays."""
    now = best_way(other)
    if best is None or now is None or best is now:
        return ""
    return f"Best way {best.value} → {now.value}"


def _end_names(base: Evaluation, of: BaseModel) -> str:
    run = base.results.runs.get(of.id) if isinstance(of, LinkBase) else None
    return f"{run.start_name} to {run.end_name}" if run else ""


def said(value: Any, unit: str, length_unit: str = "m") -> str:
    """A fact's value in words.

    >>> said(0.0015, "ohm")
    '1.50 mΩ'
    """
    if value is None:
        return "not known"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return feed_pattern(value)
    if isinstance(value, (int, float)):
        return amount(value, unit, length_unit)
    return str(value)
