"""What a finding is, and how a rule that makes findings is registered."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from enum import StrEnum
from operator import attrgetter
from typing import TYPE_CHECKING

from ohmack.core.document.edits import Edit
from ohmack.core.record import record
from ohmack.core.reference import Source

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

PROVE, HANDOVER = "prove", "handover"
OF_THE_CAR = (PROVE, HANDOVER)  # the stages whose findings are about the car and not about the plan
STAGES = ("survey", "plan", "loads", "signal", "supply", "build", *OF_THE_CAR)


class Severity(StrEnum):
    """How bad a finding is, worst first."""

    STOP = "stop"
    WATCH = "watch"
    NOTE = "note"

    @property
    def rank(self) -> int:
        """0 for the worst."""
        return _RANK[self]


_RANK = {severity: rank for rank, severity in enumerate(Severity)}


@record
class Remedy:
    """What mends a finding: a label and, where a machine can do it, the edits or a part to wire up; else the place
    to go.
    """

    label: str
    edits: tuple[Edit, ...] = ()
    path: str = ""  # of a fact or a thing to look at
    sheet: str = ""  # or a whole sheet
    query: str = ""  # what that sheet is asked for
    connect: str = ""  # the id of a part whose missing wires are laid (after the edits), or of a link laid another way
    own: bool = False  # and which takes the car's own speakers to its free channels

    @property
    def applies(self) -> bool:
        """Whether a press does it."""
        return bool(self.edits or self.connect)


@record
class Finding:
    """One judgement about one thing."""

    rule: str
    severity: Severity
    stage: str
    about: str
    title: str
    text: str
    source: Source
    remedy: Remedy | None = None
    caution: bool = False
    place: tuple[int, bool, int] = (0, False, 0)  # where it stands among others


_PLACE = attrgetter("place")


@record
class Rule:
    """One registered rule."""

    id: str
    stage: str
    source: Source
    caution: bool
    judge: Callable[[Results], Iterable[Draft]]
    title: str
    last: bool = False  # judged with the sweep, once
    varied: bool = True  # what it says may be another once an assumed fact is looked at


@record
class Draft:
    """A finding before the register adds the rule's id, stage and source."""

    severity: Severity
    about: str
    title: str
    text: str
    remedy: Remedy | None = None


RULES: dict[str, Rule] = {}
Judge = Callable[["Results"], Iterator[Draft]]


def rule(
    rule_id: str, stage: str, source: Source, caution: bool = False, last: bool = False, varied: bool = True
) -> Callable[[Judge], Judge]:
    """Register a rule; one that is judged last is asked once, with the sweep, and not for every fact that is varied,
    nor is one about what was done or agreed to, which no assumed fact makes undone.
    """

    def register(judge: Judge) -> Judge:
        if rule_id in RULES:
            raise ValueError(f"two rules are called {rule_id}")
        title = (judge.__doc__ or "").strip()
        RULES[rule_id] = Rule(
            rule_id, stage, source, caution, judge, title, last, varied and not last and stage not in OF_THE_CAR
        )
        return judge

    return register


def stop(about: str, title: str, text: str, remedy: Remedy | None = None) -> Draft:
    """A Stop: not to be built like this."""
    return Draft(Severity.STOP, about, title, text, remedy)


def watch(about: str, title: str, text: str, remedy: Remedy | None = None) -> Draft:
    """A Watch: works, but look at it."""
    return Draft(Severity.WATCH, about, title, text, remedy)


def note(about: str, title: str, text: str, remedy: Remedy | None = None) -> Draft:
    """A Note: good to know."""
    return Draft(Severity.NOTE, about, title, text, remedy)


BESIDE = "-"  # no part's id: what is found joins those of its kind


def find_part(label: str, kind: str, instead: str = "") -> Remedy:
    """The remedy that opens the search for a part of a kind: what of the catalogue goes with this car, in the place of
    a part where one is named, beside those there are with BESIDE.
    """
    place = f"&instead={instead}" if instead else ""
    return Remedy(label, sheet="find", query=f"kind={kind.replace(' ', '+')}{place}")


def set_to(path: str, value: object) -> Edit:
    """The edit that sets a value."""
    return Edit(op="set", path=path, value=value)


def adding(path: str, value: object) -> Edit:
    """The edit that adds a thing to a list."""
    return Edit(op="add", path=path, value=value)


def findings_of(r: Rule, results: Results) -> list[Finding]:
    """What one rule says, each finding once: two amplifiers may both ask for the same fact."""
    said: dict[tuple[str, str, str], Finding] = {}
    vehicle = results.design.vehicle
    for d in r.judge(results):
        place = (d.severity.rank, r.caution, STAGES.index(r.stage))
        title, text = vehicle.as_said(d.title), vehicle.as_said(d.text)
        found = Finding(r.id, d.severity, r.stage, d.about, title, text, r.source, d.remedy, r.caution, place)
        said.setdefault((d.about, title, text), found)
    return list(said.values())


def in_order(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings of several rules, worst first; within one severity in the order of the stages, cautions last."""
    return tuple(sorted(findings, key=_PLACE))
