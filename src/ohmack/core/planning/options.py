"""Options of one job: they share the survey, and are compared figure by figure, differences first."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits, is_list
from ohmack.core.document.handles import at, within
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.document.paths import get
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import UnknownName
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.changes import shown
from ohmack.core.factory.advice import advise
from ohmack.core.factory.functions import Fate
from ohmack.core.factory.strategies import Candidate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.kind_of_car import parts_along
from ohmack.core.planning.laying import follow
from ohmack.core.record import record
from ohmack.core.wording import amount, count, hours

LISTS = (
    "speakers",
    "feeds",
    "ground_points",
    "passages",
    "modules",
    "factory_links",
    "zones",
    "spaces",
    "alterations",
    "functions",
    "connectors",
)


@record
class ComparedRow:
    """One line of the comparison: a value an option, and whether they differ."""

    name: str
    values: tuple[str, ...]

    @property
    def differs(self) -> bool:
        """Whether the options differ in it."""
        return len(set(self.values)) > 1


def _gone(mine: Vehicle, theirs: Vehicle) -> list[str]:
    """Paths of things in my survey that theirs has no longer."""
    paths = []
    for name in LISTS:
        known = {item.id for item in getattr(theirs, name)}
        paths += [at(item) for item in getattr(mine, name) if item.id not in known]
    left = {b.id for b in theirs.supply.batteries}
    paths += [at(b) for b in mine.supply.batteries if b.id not in left]
    known = {c.id for c in theirs.channels}
    paths += [within(at(mine.radio, lambda it: it.channels), c) for c in mine.radio.channels if c.id not in known]
    return [p for p in paths if is_list(p.rpartition("/")[0])]


def with_survey(design: Design, source: Design) -> Design:
    """A design with the survey, the front page and the customer's use of the car from another option of the job.

    Parameters:
        design: the option that takes them over; its parts, links, strategy and policy stay.
        source: the option they come from.

    Returns:
        the new design; what hung on things the survey has no longer goes with them, and in a car that turned out to be
        of another kind parts go where such parts go.

    Raises:
        BadDocument: the survey does not go with what this option plans.
    """
    removed = [Edit(op="remove", path=path) for path in _gone(design.vehicle, source.vehicle)]
    bare = design
    for edit in removed:
        bare = apply_edits(bare, [edit]) if _still_there(bare, edit.path) else bare
    after = apply_edits(
        bare,
        [
            Edit(path="vehicle", value=source.vehicle.model_dump(mode="json")),
            Edit(path="intake", value=source.intake.model_dump(mode="json")),
            Edit(path="use", value=source.use.model_dump(mode="json")),
        ],
    )
    moved = tuple(parts_along(design, after))
    return apply_edits(after, follow(after, moved)) if moved else after


def _still_there(design: Design, path: str) -> bool:
    try:
        get(design, path)
    except UnknownName:
        return False
    return True


def _figure(*endings: str) -> Callable[[Evaluation], str]:
    def read(evaluation: Evaluation) -> str:
        found = [f for i, f in evaluation.figures.items() if i in endings or any(i.endswith(f"/{e}") for e in endings)]
        words = [shown(f) for f in found if f.value is not None]
        return ", ".join(words) if words else "–"

    return read


def chosen_way(design: Design) -> Candidate | None:
    """The chosen strategy as the advice judges it."""
    return next((c for c in advise(design).ranked if c.key is design.strategy), None)


def _time(evaluation: Evaluation) -> str:
    way = chosen_way(evaluation.design)
    return f"{hours(way.minutes[0])} to {hours(way.minutes[1])} h" if way else "–"


def _fate(*fates: Fate) -> Callable[[Evaluation], str]:
    def read(evaluation: Evaluation) -> str:
        ledger = evaluation.results.ledger
        names = [v.function.title for v in ledger if v.fate in fates]
        return (", ".join(names) if names else "none") if ledger else "–"

    return read


def _power(evaluation: Evaluation) -> str:
    """What each output gives, and what a powered subwoofer is rated at."""
    outputs = [shown(load.power) for load in evaluation.results.loads]
    outputs += [amount(p.power_rms_w, "w") for p in evaluation.design.parts_of(PoweredSubwoofer)]
    return ", ".join(outputs) or "–"


def _cuts(evaluation: Evaluation) -> str:
    joints = evaluation.results.joints.joints
    return str(sum(j.cuts for j in joints)) if joints else "–"


def _cost(evaluation: Evaluation) -> str:
    figure = evaluation.results.cost
    return shown(figure) if figure and evaluation.design.parts else "–"


def _said(evaluation: Evaluation, severity: Severity) -> str:
    found = [f.title for f in evaluation.findings if f.severity is severity and not f.caution]
    return f"{len(found)}: {'; '.join(found[:3])}{' …' if len(found) > 3 else ''}" if found else "none"


ROWS: tuple[tuple[str, Callable[[Evaluation], str]], ...] = (
    ("Way", lambda e: e.design.strategy.value if e.design.strategy else "none chosen"),
    ("Status", lambda e: e.verdict.headline if e.verdict else "–"),
    ("Parts and cable", _cost),
    ("Time in the bay", _time),
    ("Power at the driver", _power),
    ("Load", lambda e: ", ".join(shown(load.load) for load in e.results.loads) or "–"),
    ("Full-load current", _figure("current_a", "draws_a")),
    ("Power wire", _figure("wire", "own_wire")),
    ("Main fuse", _figure("fuse_a", "own_fuse_a")),
    ("Lost around the loop", _figure("drop_v")),
    ("Factory wires cut", _cuts),
    ("Functions lost", _fate(Fate.LOST)),
    ("Through an adapter", _fate(Fate.ADAPTED)),
    ("Stops", lambda e: _said(e, Severity.STOP)),
    ("Watches", lambda e: _said(e, Severity.WATCH)),
    ("Parts", lambda e: ", ".join(p.name for p in e.design.parts) or "none"),
    ("For later", lambda e: ", ".join(p.name for p in e.design.parts if p.phase.value == "later") or "nothing"),
)


def compare_options(evaluations: Sequence[Evaluation]) -> tuple[ComparedRow, ...]:
    """The options line by line, those in which they differ first.

    Parameters:
        evaluations: one an option.

    Returns:
        the rows; each with one value an option.
    """
    rows = [ComparedRow(name, tuple(read(e) for e in evaluations)) for name, read in ROWS]
    return tuple(sorted(rows, key=lambda row: not row.differs))


def plain_words(design: Design) -> str:
    """One line the customer understands."""
    if design.option_note:
        return design.option_note
    way = chosen_way(design)
    return way.plain if way else f"{count(len(design.parts), 'part')}, no way chosen yet."
