"""Would this part go with this car? It is tried: put into a copy of the design, evaluated, and compared with what
was.
"""

from __future__ import annotations

from collections.abc import Sequence
from re import sub
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import TapLink
from ohmack.core.document.parts import Converter, Driver, Part
from ohmack.core.document.registry import reference_of
from ohmack.core.errors import OhmackError
from ohmack.core.evaluation.answer import Evaluation, Moved
from ohmack.core.evaluation.changes import what_moved
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.advice import advise
from ohmack.core.factory.roles import ORDER, ROLE_KINDS, SOUNDING, filled, fits_role
from ohmack.core.factory.strategies import Candidate
from ohmack.core.figures.finding import BESIDE, RULES, Finding, Severity
from ohmack.core.fit.runs import Run
from ohmack.core.planning.laying import follow
from ohmack.core.planning.lines_anew import lines_anew
from ohmack.core.planning.outputs_anew import layout, outputs_anew
from ohmack.core.planning.part_added import added
from ohmack.core.planning.placing import built_for, place_part
from ohmack.core.planning.role_parts import choose_part
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.record import record

CARRYING = (*SOUNDING, "converter", "processor")  # what carries the sound of a plan
SAME_SIZE = 0.15  # of the frame's diameter: one step of the usual sizes is more; common practice
BEFORE_AMPLIFIERS = {"converter", "processor"}  # one does what the other does, and more
# Kinds a job has several of: a new one joins, it takes nobody's place.
MANY = ("accessory", "driver", "wire", "line cable", "fuse")


@record
class Trial:
    """What a part would bring: stops and watches it adds, those it takes away, the figures it moves."""

    replaces: str
    new_stops: tuple[str, ...]
    new_watches: tuple[str, ...]
    solved: tuple[str, ...]
    moved: tuple[Moved, ...]
    refused: str = ""
    asks: tuple[str, ...] = ()  # facts not known yet that stop it, or without which nobody knows whether it goes in
    beside: tuple[str, ...] = ()  # what was put in with it, because its way needs it
    anew: tuple[str, ...] = ()  # the cables laid anew with it, because those that lie there do not carry it
    after: Evaluation | None = None  # the car with it, and with what was put in besides
    same: bool = False  # whether it is the one that is there
    other_size: bool = False  # whether it is a speaker of another size than the one it replaces
    eased: tuple[str, ...] = ()  # the watches it takes away

    @property
    def fits(self) -> bool:
        """Whether nothing stops it, and what it goes into was measured."""
        return not self.new_stops and not self.refused and not self.asks

    @property
    def only_asks(self) -> bool:
        """Whether it is stopped by nothing but facts nobody knows yet."""
        return bool(self.asks) and set(self.new_stops) <= set(self.asks)

    @property
    def rank(self) -> tuple[bool, bool, int, bool, int]:
        """The better the smaller: what stops, what it solves, whether it is of the old one's size, what it adds to
        watch.
        """
        stopped = not self.fits and not self.only_asks
        watched = len(self.new_watches) - len(self.eased)
        return self.same, stopped, len(self.new_stops) - len(self.solved), self.other_size, watched


def in_place_of(design: Design, tree: dict[str, Any], instead: str = "") -> Part | None:
    """The part a new one would take the place of: the one that is named, where the new one does the same; none with
    BESIDE; else the only one of its kind.
    """
    if instead == BESIDE:
        return None
    named = design.part(instead)
    if named is not None and (named.kind == tree["kind"] or {named.kind, tree["kind"]} == BEFORE_AMPLIFIERS):
        return named
    same = [p for p in design.parts if p.kind == tree["kind"]]
    return same[0] if len(same) == 1 and tree["kind"] not in MANY else None


def taking(design: Design, tree: dict[str, Any], instead: str = "") -> tuple[Edit, ...]:
    """Edits that take a part: in the place of another, else beside what is there, wired up.

    Parameters:
        design: the design.
        tree: the part's data without id and place.
        instead: the id of the part it takes the place of; of the only one of its kind where none is named.

    Returns:
        the edits.
    """
    old = in_place_of(design, tree, instead)
    if old is not None:
        kept: dict[str, Any] = {  # where the old one was and what it was in line with
            **old.model_dump(mode="json", include={n for n in type(old).model_fields if reference_of(type(old), n)}),
            "id": old.id,
            "phase": old.phase.value,
            "position": old.position.model_dump(mode="json") if old.position else None,
        }
        swapped = Edit(path=at(old), value={**built_for(design, tree), **kept})
        after = apply_edits(design, [swapped]) if isinstance(old, Amplifier | Converter) else design
        new = after.part(old.id)
        if isinstance(old, Amplifier) and isinstance(new, Amplifier) and layout(old) != layout(new):
            return (swapped, *outputs_anew(after, old.id))
        if isinstance(old, Converter) and isinstance(new, Converter) and old.output_pairs != new.output_pairs:
            return (swapped, *lines_anew(after, old.id))
        return (swapped,)
    return added(design, tree)


def taken(design: Design, tree: dict[str, Any], instead: str = "") -> tuple[Edit, ...]:
    """The edits of `taking`, and with them those that lay a cable anew which lies in the car and stops the new part,
    because it was laid for the old one.

    Parameters:
        design, tree, instead: as of `taking`.

    Returns:
        the edits.
    """
    edits, old = taking(design, tree, instead), in_place_of(design, tree, instead)
    return edits if old is None else (*edits, *_with_cables(evaluate(apply_edits(design, edits)), old.id)[0])


def _with_cables(after: Evaluation, part_id: str) -> tuple[tuple[Edit, ...], Evaluation]:
    """What lays the cables of a part anew that lie in the car and stop it, and the car with them: a thicker run may
    want a thicker ground.
    """
    edits: tuple[Edit, ...] = ()
    while cables := _laid_anew(after, part_id):
        edits, after = (*edits, *cables), evaluate(apply_edits(after.design, cables))
    return edits, after


def _laid_anew(after: Evaluation, part_id: str) -> tuple[Edit, ...]:
    """Those of them that the car as it is calls for; each is laid once."""
    lying = {at(k, lambda it: it.in_car) for k in after.design.links if k.in_car and part_id in ends_of(k)}
    stopped = (f.remedy.edits for f in _said(after, Severity.STOP) if f.remedy is not None)
    anew = (edits for edits in stopped if any(edit.path in lying and edit.value is False for edit in edits))
    return tuple({edit.path: edit for edits in anew for edit in edits}.values())


def way_for(design: Design, kind: str) -> Candidate | None:
    """The way a part of a kind is tried in: the one chosen, else of those that have a use for it the one that leaves
    least of the plan idle, the best for this car and customer of several; None where none has a use for it.
    """
    ranked = advise(design).ranked
    chosen = [c for c in ranked if c.key is design.strategy]

    def uses(way: Candidate) -> bool:
        return any(ROLE_KINDS[role][0] == kind for role in way.needs if role in ROLE_KINDS)

    def idle(way: Candidate) -> int:
        there = {role for role in CARRYING if any(fits_role(role, part) for part in design.parts)}
        picked_up = "radio" in way.needs and "radio" not in there and any(design.links_of(TapLink))
        return len(there.difference(way.needs)) + picked_up  # a new radio leaves the pickup idle

    return next((c for c in (*chosen, *sorted(ranked, key=idle)) if c.possible and uses(c)), None)


def completed(
    design: Design, tree: dict[str, Any], way: Candidate, catalogue: Sequence[dict[str, Any]], instead: str = ""
) -> tuple[Design, tuple[str, ...]]:
    """A part in a plan made whole: with what its way needs besides and the plan has not.

    Parameters:
        design: the design.
        tree: the part's data without id and place.
        way: the way it is tried in.
        catalogue: part trees to choose from.
        instead: as of `taking`.

    Returns:
        (the plan with all of it, the names of what was added besides).
    """
    now = apply_edits(design, taking(design, tree, instead))
    if design.strategy is None:
        acts = [i.model_dump(mode="json") for i in way.interventions]
        now = apply_edits(now, [Edit(path=at_the(Design, lambda it: it.interventions), value=acts)])
    beside = []
    for role in sorted((r for r in way.needs if r in ROLE_KINDS), key=ORDER.index):
        found = None if filled(now, role) else choose_part(now, role, catalogue)
        if found is not None:
            tree = {k: v for k, v in found.items() if k not in ("id", "position")}
            now = apply_edits(now, follow(now, place_part(now, tree)))
            beside.append(str(found["name"]))
    return apply_edits(now, connect_everything(now)), tuple(beside)


def _said(evaluation: Evaluation, severity: Severity) -> list[Finding]:
    """What is said of a plan before it is swept: what is judged last is judged of no trial."""
    return [f for f in evaluation.findings if f.severity is severity and not f.caution and not RULES[f.rule].last]


def try_part(
    design: Design,
    base: Evaluation,
    tree: dict[str, Any],
    way: Candidate | None = None,
    catalogue: Sequence[dict[str, Any]] = (),
    instead: str = "",
) -> Trial:
    """Try a part on a design: by itself, and where something stops it only because the rest is not there yet, together
    with what its way needs besides.

    Parameters:
        design: the design.
        base: its evaluation.
        tree: the part's data without id and place.
        way: the way it is tried in, from `way_for`; None for by itself only.
        catalogue: part trees the rest is chosen from.
        instead: as of `taking`.

    Returns:
        the trial; a part the document refuses is a trial with the reason.
    """
    old = in_place_of(design, tree, instead)
    name = old.name if old else ""
    same = old is not None and (old.name, old.maker) == (tree["name"], tree.get("maker", ""))
    beside: tuple[str, ...] = ()
    anew: tuple[str, ...] = ()
    try:
        after = evaluate(apply_edits(design, taking(design, tree, instead)))
        if old is not None and not same:
            after = _with_cables(after, old.id)[1]
            anew = tuple(f"{run.start_name} to {run.end_name}" for run in _new_runs(design, after))
        elif old is None and way is not None and _new(base, after, Severity.STOP, (name, tree["name"])):
            whole, beside = completed(design, tree, way, catalogue, instead)
            after = evaluate(whole) if beside else after
    except OhmackError as error:
        return Trial(name, (), (), (), (), str(error))
    spaces = {at(space) for space in after.design.vehicle.spaces}
    missing = {f.title for f in after.findings if f.rule == "fact-missing"}
    unmeasured = {f.title for f in after.findings if f.title in missing and f.about in spaces}
    renamed = (name, tree["name"])
    stops, watches = _new(base, after, Severity.STOP, renamed), _new(base, after, Severity.WATCH, renamed)
    moved = what_moved(base.figures, after.results, design.policy.length_unit)
    return Trial(
        name,
        stops,
        watches,
        _gone(base, after, renamed),
        tuple(item for item in moved if not beside or item.figure_id != "cost"),
        asks=(*(title for title in stops if title in missing), *(title for title in watches if title in unmeasured)),
        beside=beside,
        anew=anew,
        after=after,
        same=same,
        eased=_eased(base, after),
        other_size=isinstance(old, Driver) and abs(tree["frame_mm"] / old.frame_mm - 1.0) > SAME_SIZE,
    )


def _new_runs(design: Design, after: Evaluation) -> list[Run]:
    """The runs that are laid anew where a cable lay in the car."""
    lay = {link.id for link in design.links if link.in_car}
    return [after.results.runs[link.id] for link in after.design.links if link.id in lay and not link.in_car]


def _new(before: Evaluation, after: Evaluation, severity: Severity, renamed: tuple[str, str]) -> tuple[str, ...]:
    """What the second says and the first does not, not even of the part that was there before."""
    said = {_as(found, renamed) for found in _said(before, severity)}
    return tuple(found.title for found in _said(after, severity) if found.title not in said)


def _gone(before: Evaluation, after: Evaluation, renamed: tuple[str, str]) -> tuple[str, ...]:
    """The stops of the first that the second has no longer, of either part, nor with other numbers."""
    said = {_numberless(found.title) for found in _said(after, Severity.STOP)}
    return tuple(found.title for found in _said(before, Severity.STOP) if _numberless(_as(found, renamed)) not in said)


def _numberless(words: str) -> str:
    return sub(r"\d[\d.,]*", "#", words)


def _eased(before: Evaluation, after: Evaluation) -> tuple[str, ...]:
    """The watches of the first of which the second says nothing, not even with other numbers."""
    left = {(found.rule, found.about) for found in after.findings}
    return tuple(found.title for found in _said(before, Severity.WATCH) if (found.rule, found.about) not in left)


def _as(found: Finding, renamed: tuple[str, str]) -> str:
    """What is said of a part as it would be said of the new one; whether it goes in is said of either by itself."""
    old, new = renamed
    return found.title.replace(old, new) if old and found.rule != "fit" else found.title
