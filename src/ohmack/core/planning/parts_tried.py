"""Would this part go with this car? It is tried: put into a copy of the design, evaluated, and compared with what
was.
"""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Part
from ohmack.core.errors import OhmackError
from ohmack.core.evaluation.answer import Evaluation, Moved
from ohmack.core.evaluation.changes import compare
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.starting_points import place_part
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.record import record

MANY = ("accessory", "driver", "wire", "fuse")  # kinds a job has several of: a new one joins, it takes nobody's place


@record
class Trial:
    """What a part would bring: stops and watches it adds, those it takes away, the figures it moves."""

    replaces: str
    new_stops: tuple[str, ...]
    new_watches: tuple[str, ...]
    solved: tuple[str, ...]
    moved: tuple[Moved, ...]
    refused: str = ""

    @property
    def fits(self) -> bool:
        """Whether nothing stops it."""
        return not self.new_stops and not self.refused

    @property
    def rank(self) -> tuple[bool, int, int]:
        """The better the smaller: what stops, what it solves, what it adds to watch."""
        return not self.fits, len(self.new_stops) - len(self.solved), len(self.new_watches)


def in_place_of(design: Design, tree: dict[str, Any]) -> Part | None:
    """The part a new one would take the place of: the only one of its kind."""
    same = [p for p in design.parts if p.kind == tree["kind"]]
    return same[0] if len(same) == 1 and tree["kind"] not in MANY else None


def taking(design: Design, tree: dict[str, Any]) -> tuple[Edit, ...]:
    """Edits that take a part: in the place of the only one of its kind, else beside what is there, wired up.

    Parameters:
        design: the design.
        tree: the part's data without id and place.

    Returns:
        the edits.
    """
    old = in_place_of(design, tree)
    if old is not None:
        kept = {
            "id": old.id,
            "phase": old.phase.value,
            "position": old.position.model_dump(mode="json") if old.position else None,
        }
        return (Edit(path=at(old), value={**tree, **kept}),)
    placed = place_part(design, tree)
    return (*placed, *connect_everything(apply_edits(design, placed)))


def _said(evaluation: Evaluation, severity: Severity) -> list[str]:
    return [f.title for f in evaluation.findings if f.severity is severity and not f.caution]


def try_part(design: Design, base: Evaluation, tree: dict[str, Any]) -> Trial:
    """Try a part on a design.

    Parameters:
        design: the design.
        base: its evaluation.
        tree: the part's data without id and place.

    Returns:
        the trial; a part the document refuses is a trial with the reason.
    """
    old = in_place_of(design, tree)
    name = old.name if old else ""
    try:
        after = evaluate(apply_edits(design, taking(design, tree)))
    except OhmackError as error:
        return Trial(name, (), (), (), (), str(error))
    was, now = _said(base, Severity.STOP), _said(after, Severity.STOP)
    watched, watches = _said(base, Severity.WATCH), _said(after, Severity.WATCH)
    return Trial(
        name,
        tuple(t for t in now if t not in was),
        tuple(t for t in watches if t not in watched),
        tuple(t for t in was if t not in now),
        compare(base.figures, after.figures),
    )
