"""What brings the loss of a supply under the shop's limit: every cure tried on the car, alone and together."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.errors import NotPossible, OhmackError
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.laying import follow
from ohmack.core.planning.loss_acts import Act, acts_on_loss
from ohmack.core.record import record

OVER = "drop-over-policy"  # the rule the cures are for
PICKED = ("fuse-bought", "wire-on-reel")  # what follows from another wire, and is mended by another pick
MOST = 3  # acts at once: who needs more plans another supply
LEAST_V = 0.001  # what takes off less is no cure


@record
class Cure:
    """One act, or several together, tried: what is lost then at every consumer, cold and hot, and at which price."""

    acts: tuple[Act, ...]
    lost_v: dict[str, float]
    hot_v: dict[str, float]
    limit_v: float
    price: float | None  # more than today, in the shop's money
    power_w: dict[str, float]  # of amplifiers that give another power then
    stops: tuple[str, ...]  # that come with it
    besides: tuple[str, ...]  # what was picked for the old wire, and no longer goes

    @property
    def key(self) -> str:
        """What its press names."""
        return "+".join(act.key for act in self.acts)

    @property
    def name(self) -> str:
        """What is done, in words."""
        return "; ".join(act.name for act in self.acts)

    @property
    def begins(self) -> Act:
        """What a person has to read or to find before anything is pressed; else the first act."""
        return next((act for act in self.acts if not act.pressed), self.acts[0])

    @property
    def worst_v(self) -> float:
        """The most that is lost anywhere [v]."""
        return max(self.lost_v.values(), default=float("inf"))

    @property
    def holds(self) -> bool:
        """Whether every consumer is inside the limit, and nothing new stops it."""
        return bool(self.lost_v) and self.worst_v <= self.limit_v + 1e-9 and not self.stops

    @property
    def free(self) -> bool:
        """Whether Ohmack can do all of it, and nothing gets quieter."""
        return all(act.pressed and not act.quieter for act in self.acts)

    @property
    def holds_hot(self) -> bool:
        """Whether that is so with hot wire too."""
        return self.holds and max(self.hot_v.values(), default=float("inf")) <= self.limit_v + 1e-9


@record
class Loss:
    """What is lost today at every consumer [v], and the cures, the best first."""

    lost_v: dict[str, float]
    limit_v: float
    cures: tuple[Cure, ...]

    @property
    def over(self) -> bool:
        """Whether anything is over the limit."""
        return max(self.lost_v.values(), default=0.0) > self.limit_v + 1e-9


def less_loss(evaluation: Evaluation, catalogue: Sequence[dict[str, Any]] = ()) -> Loss:
    """Every cure tried on a copy of the design.

    Parameters:
        evaluation: of the design as it is.
        catalogue: part trees a thicker block or holder is taken from.

    Returns:
        losses [v] now and after each act; where no act alone holds, the acts that do together, at most three, found by
        always adding the one that takes most off, with readings among them where presses alone are not enough.
        Nothing where nothing is solved.
    """
    results = evaluation.results
    now = _lost(evaluation, "drop")
    limit_v = results.design.policy.drop_limit_v
    if not now:
        return Loss({}, limit_v, ())
    singles = [
        c for act in acts_on_loss(evaluation, catalogue) if (c := _tried(evaluation, evaluation, (act,))) is not None
    ]
    singles = _different([c for c in singles if c.worst_v < max(now.values()) - LEAST_V])
    if not any(c.holds and c.free for c in singles):
        together = _together(evaluation, singles, catalogue)
        if together is None and not any(c.holds for c in singles):
            together = _together(evaluation, singles, catalogue, readings=True)
        singles += [together] if together is not None else []
    return Loss(now, limit_v, tuple(sorted(singles, key=_rank)))


def edits_for(evaluation: Evaluation, key: str, catalogue: Sequence[dict[str, Any]] = ()) -> tuple[Edit, ...]:
    """The edits of one cure.

    Parameters:
        evaluation: of the design as it is.
        key: the cure's.
        catalogue: as of `less_loss`.

    Returns:
        the edits, the cables laid after them.

    Raises:
        NotPossible: there is no such cure on this car any more.
    """
    found = next((c for c in less_loss(evaluation, catalogue).cures if c.key == key), None)
    if found is None or not all(act.pressed for act in found.acts):
        raise NotPossible("cure", "This is no cure any more: the car is another by now. See what helps again.")
    edits: tuple[Edit, ...] = ()
    design = evaluation.results.design
    for act in found.acts:
        edits += tuple(follow(apply_edits(design, edits), act.edits))
    return edits


def _rank(cure: Cure) -> tuple[bool, bool, bool, bool, float, float]:
    """The better the smaller: what holds, what nobody hears, what a press does, what stops nothing; then cheap, then
    far under.
    """
    quieter = any(act.quieter for act in cure.acts)
    price = cure.price if cure.holds and cure.price is not None else 0.0
    return not cure.holds, quieter, not cure.free, bool(cure.stops), price, cure.worst_v


def _different(cures: Sequence[Cure]) -> list[Cure]:
    """Of parts in one place that bring the same, the cheapest."""
    kept: list[Cure] = []
    for cure in sorted(cures, key=lambda c: (c.price is None, c.price or 0.0)):
        place = cure.acts[-1].part_id
        if not place or all(c.acts[-1].part_id != place or c.worst_v > cure.worst_v + LEAST_V for c in kept):
            kept.append(cure)
    return kept


# -- trying -------------------------------------------------------------------------------------------------------


def _lost(evaluation: Evaluation, figure: str) -> dict[str, float]:
    """A loss of every consumer that is solved [v]."""
    found = {s.part.id: s.figures[figure].value for s in evaluation.results.supplies if not s.is_main and s.chosen}
    return {name: value for name, value in found.items() if value is not None}


def _tried(base: Evaluation, before: Evaluation, acts: tuple[Act, ...]) -> Cure | None:
    """The last of some acts done upon `before`, judged against `base`; None where the document refuses it or a consumer
    has no figure then.
    """
    design = before.results.design
    try:
        after = evaluate(apply_edits(design, follow(design, acts[-1].edits)))
    except OhmackError:
        return None
    lost = _lost(after, "drop")
    if set(lost) != set(_lost(base, "drop")):
        return None
    was = {f.title for f in base.findings}
    stops = [f for f in after.findings if f.severity is Severity.STOP and f.rule != OVER and f.title not in was]
    powers = {load.amplifier.id: load.power.value for load in base.results.amplifier_loads}
    now = {load.amplifier.id: load.power.value for load in after.results.amplifier_loads}
    costs = [e.results.cost.value if e.results.cost is not None else None for e in (base, after)]
    return Cure(
        acts,
        lost,
        _lost(after, "hot"),
        design.policy.drop_limit_v,
        costs[1] - costs[0]
        if costs[0] is not None and costs[1] is not None and all(act.pressed for act in acts)
        else None,
        {k: w for k, w in now.items() if w is not None and powers.get(k) is not None and abs(w - powers[k]) > 1.0},
        tuple(f.title for f in stops if f.rule not in PICKED),
        tuple(f.title for f in stops if f.rule in PICKED),
    )


def _together(
    base: Evaluation, singles: Sequence[Cure], catalogue: Sequence[dict[str, Any]], readings: bool = False
) -> Cure | None:
    """The fewest acts that hold together, each time the one that takes most off; None where they do not. With readings,
    what is only assumed may turn out at its lowest too.
    """

    def counts(act: Act) -> bool:
        return not act.quieter and (act.pressed or (readings and bool(act.path)))

    usable = (c for c in singles if not c.stops and all(counts(act) for act in c.acts))
    best = min(usable, key=lambda c: c.worst_v, default=None)
    here = base
    while best is not None and len(best.acts) < MOST and not best.holds:
        design = here.results.design
        here = evaluate(apply_edits(design, follow(design, best.acts[-1].edits)))
        done = {act.key for act in best.acts}
        tried = [
            _tried(base, here, (*best.acts, act))
            for act in acts_on_loss(here, catalogue)
            if counts(act) and act.key not in done
        ]
        good = [c for c in tried if c is not None and not c.stops and c.worst_v < best.worst_v - LEAST_V]
        holding = [c for c in good if c.holds]
        best = min(holding or good, key=lambda c: ((c.price or 0.0) if holding else 0.0, c.worst_v), default=None)
    return best if best is not None and best.holds and len(best.acts) > 1 else None
