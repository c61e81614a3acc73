"""The frame every job page shares: plate, track, sheet, docket, working. Everything a template shows is made here."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any
from urllib.parse import quote

from pydantic import BaseModel

from ohmack.core.build.lists import WireRow
from ohmack.core.build.rests_on import rests_on
from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.edits import is_list
from ohmack.core.document.links import TapLink
from ohmack.core.document.parts import Accessory, Converter, DistributionBlock, HeadUnit
from ohmack.core.document.paths import called_now, get
from ohmack.core.document.registry import scan, walk
from ohmack.core.errors import UnknownName
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.changes import shown
from ohmack.core.evaluation.sensitivity import said
from ohmack.core.evaluation.stages import idle_stages
from ohmack.core.figures.figure import Figure, Term
from ohmack.core.figures.finding import Finding
from ohmack.core.lazy import lazy
from ohmack.core.planning.new_places import places_to_make
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.wire_choice import WireCandidate
from ohmack.core.units import unit_of
from ohmack.core.wording import SHOWN, amount, count, trimmed
from ohmack.store.design_rows import DesignRecord
from ohmack.web.choices import Choice, Options, choices_of, options_in
from ohmack.web.fields import FactView, Field, editor_of, fact_view, field_of
from ohmack.web.front_page import FRONT_PAGE
from ohmack.web.output_pairs import OutputPair, output_pairs
from ohmack.web.places import PlaceFacts, places_of
from ohmack.web.sheet import sheets
from ohmack.web.track import TrackItem, track_of


@dataclass(frozen=True)
class Problem:
    """Something typed that was not taken: where, why, and what was typed."""

    path: str
    message: str
    typed: dict[str, list[str]] = field(default_factory=dict)


@dataclass
class Page:
    """What the frame shows."""

    record: DesignRecord
    evaluation: Evaluation
    stage: str
    show: str = ""
    problem: Problem | None = None
    conflict: dict[str, Any] | None = None
    message: str = ""
    moved: tuple[Any, ...] = ()
    added: bool = False  # what is selected was added by this very edit
    extra: dict[str, Any] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.show = called_now(self.design, self.show)  # a bookmark may use the names of before

    @property
    def design(self) -> Design:
        """The design on the page."""
        return self.evaluation.design

    @property
    def address(self) -> str:
        """The job's own address."""
        return f"/jobs/{self.record.address}"

    def link_to(self, show: str) -> str:
        """The address that selects a thing or a figure on this stage."""
        return f"{self._selecting}{quote(show, safe='/:')}"

    @lazy
    def _selecting(self) -> str:
        here = sheets().get(self.stage)
        stage = self.stage if here is not None and here.built else "plan"
        return f"{self.address}/{stage}?show="

    def refused(self, path: str, **own: str) -> Problem | None:
        """What was not taken of a form: by its name and, where several have it, by the values only this one sends."""
        problem = self.problem
        if problem is None or problem.path != path:
            return None
        return problem if all(problem.typed.get(name) == [value] for name, value in own.items()) else None

    def typed(self, path: str, name: str, usual: str = "", **own: str) -> str:
        """What was typed into a field of a form that was refused, else the usual."""
        problem = self.refused(path, **own)
        return usual if problem is None else problem.typed.get(name, [usual])[0]

    @property
    def track(self) -> list[TrackItem]:
        """The eight stages with their counts."""
        return track_of(self.evaluation, self.home_stage)

    @property
    def home_stage(self) -> str:
        """The stage on the track a sheet belongs to."""
        here = sheets().get(self.stage)
        return (here.home or here.key) if here is not None else self.stage

    @property
    def idle_stages(self) -> frozenset[str]:
        """Stages this job has nothing for."""
        return idle_stages(self.evaluation.results)

    @property
    def findings(self) -> list[Finding]:
        """The docket: this stage's findings first within a severity; cautions of Build stand on the sheet."""
        here = [f for f in self.evaluation.findings if not f.caution or self.home_stage == f.stage != "build"]
        return sorted(here, key=lambda f: (f.severity.rank, f.caution, f.stage != self.home_stage))

    @property
    def checked(self) -> bool:
        """Whether the sweep has been done."""
        return self.evaluation.measure_first is not None

    @property
    def editor(self) -> tuple[str, list[Field], list[FactView]] | None:
        """The entry of the selected thing."""
        path = self.editor_path
        if not path or path.startswith("figure:"):
            return None
        try:
            title, fields, facts = editor_of(self.design, path)
        except UnknownName:
            return None
        row = next((r for r in self.evaluation.results.wire_rows if path == f"links/{r.link_id}"), None)
        if row is not None:
            title = f"{row.purpose}: {row.start} to {row.end}"
        return title, [self._hinted(f, row) for f in fields], facts

    def _hinted(self, field: Field, row: WireRow | None) -> Field:
        """An empty choice shows what Ohmack took."""
        if field.shown or row is None:
            return field
        if field.path.endswith("wire/size") and row.size and not row.in_car:
            return replace(field, hint=f"{row.size} (chosen)")
        if field.path.endswith("fuse/rating_a"):
            for supply in self.evaluation.results.supplies:
                if supply.link.id == row.link_id and supply.figures["fuse"].value:
                    return replace(field, hint=f"{supply.figures['fuse'].value:g} (chosen)")
        return field

    @property
    def editor_path(self) -> str:
        """The path of the selected thing; of a plain field, or of a piece of a part or a link, the one that has it."""
        path = self.show
        try:
            held = get(self.design, path) if "/" in path else None
        except UnknownName:
            return path
        if "/" not in path or isinstance(held, Fact):
            return path
        if path.startswith(("parts/", "links/")):
            return "/".join(path.split("/")[:2])
        return path if isinstance(held, BaseModel) else path.rpartition("/")[0]

    @property
    def asked_id(self) -> str:
        """The entry that was asked for by its path, by its id on the page; empty where the whole thing was."""
        fields = self.editor[1] if self.editor is not None else []
        return next((f"e-{field.id}" for field in fields if field.path == self.show), "")

    @property
    def output_pairs(self) -> tuple[OutputPair, ...]:
        """The output pairs of the selected radio or amplifier."""
        return output_pairs(self.design, self.editor_path)

    @property
    def places_to_make(self) -> tuple[str, ...]:
        """What new places the selected speaker could get."""
        head, _, name = self.editor_path.rpartition("/")
        return places_to_make(self.design, name) if head == "parts" else ()

    @property
    def removable(self) -> bool:
        """Whether the selected thing may be taken out."""
        head = self.editor_path.rpartition("/")[0]
        return is_list(head)

    @property
    def may_come_out(self) -> bool:
        """Whether the selected thing is a part or a cable that is in the car."""
        head, _, name = self.editor_path.rpartition("/")
        pool = {"parts": self.design.parts, "links": self.design.links}.get(head, ())
        return any(thing.id == name and thing.in_car for thing in pool)

    @property
    def working(self) -> Figure | None:
        """The figure whose working is shown: the selected one, else the stage's main one."""
        if self.show.startswith("figure:"):
            return self.evaluation.figure(self.show.removeprefix("figure:"))
        here = sheets().get(self.stage)
        key = here.main_figure if here is not None else ""
        return next((f for i, f in self.evaluation.figures.items() if key and i.split("/")[-1] == key), None)

    def said_term(self, term: Term) -> str:
        """An input of a working in words."""
        value = term.value
        if value is None:
            return "not known"
        if isinstance(value, bool):
            return "yes" if value else "no"
        if isinstance(value, (int, float)):
            if term.unit in SHOWN or term.unit == "percent":
                return amount(float(value), term.unit, self.design.policy.length_unit)
            number = f"{value:.0f}" if term.unit == self.design.policy.currency else trimmed(float(round(value, 3)))
            return f"{number} {term.unit}".strip()
        if isinstance(value, tuple):
            return count(len(value), "entry", "entries") if value else "none"
        return str(value)

    def said_figure(self, figure: Figure | None) -> str:
        """A figure's value in words."""
        return shown(figure, self.design.policy.length_unit)

    def figure(self, figure_id: str) -> Figure | None:
        """A figure by id, for templates."""
        return self.evaluation.figure(figure_id)

    # -- sheets ---------------------------------------------------------------------------------------------------

    @lazy
    def places(self) -> list[PlaceFacts]:
        """Facts gathered by place, numbered as on the drawing."""
        return places_of(self.design)

    def photos_at(self, path: str) -> list[Any]:
        """The photos of a thing and of its facts."""
        return [p for p in self.extra.get("photos", []) if p.path == path or p.path.startswith(f"{path}/")]

    @property
    def variant_options(self) -> list[tuple[str, str]]:
        """The kinds this car was sold in."""
        return [(v.id, v.name) for v in self.design.vehicle.variants]

    @property
    def choices(self) -> list[Choice]:
        """The references of the selected thing."""
        return choices_of(self.design, self.editor_path)

    @property
    def assumed(self) -> list[FactView]:
        """What is still assumed of the facts this plan rests on."""
        wanted = rests_on(self.evaluation.results)
        facts = [f for place in self.places for f in place.facts if f.known and f.basis.value == "assumed"]
        return [f for f in facts if f.path in wanted]

    @property
    def intake_fields(self) -> dict[str, Field]:
        """The front page's fields by name."""
        return {path.split("/")[-1]: field_of(self.design, path) for path in FRONT_PAGE}

    def field(self, path: str) -> Field:
        """One entry field."""
        return field_of(self.design, path)

    def fact(self, path: str) -> FactView:
        """One fact with its entry."""
        return fact_view(self.design, path)

    def stated_as(self, path: str) -> str:
        """How an output's volts are stated, once somebody said so; empty while they are only assumed."""
        fact, owner = get(self.design, path), get(self.design, path.rpartition("/")[0])
        return "" if fact.basis is Basis.ASSUMED else str(owner.source_stated_as.value)

    def fused_block(self, part_id: str) -> bool:
        """Whether a part is a distribution block with a fuse on every way."""
        part = self.design.part(part_id)
        return isinstance(part, DistributionBlock) and part.fused

    def options(self, name: str, but: str = "") -> list[tuple[str, str]]:
        """(id, name) of what a link may be tied to, one thing left out."""
        return [(key, title) for key, title in self._pools[name] if key != but]

    @lazy
    def _pools(self) -> dict[str, Options]:
        """By what a form calls them, the things a link may be tied to."""
        feeds = [(f.id, f.name) for f in self.design.vehicle.feeds]
        outputs = [(c.id, f"{c.name}, remote output") for c in self.design.parts_of(Converter) if c.remote_out_limit_a]
        boxes = [a for a in self.design.parts_of(Accessory) if a.remote_out_limit_a]
        outputs += [(box.id, f"{box.name}, switched output") for box in boxes]
        leads = [(r.id, f"{r.name}, remote lead") for r in self.design.parts_of(HeadUnit) if r.remote_out_limit_a]
        groups = {"channels": "channel", "grounds": "ground point", "ground": "ground", "power": "power source"}
        pools = options_in(self.design, groups.values())
        return {
            "feeds": feeds,
            "switch_on": feeds + outputs + leads,
            **{name: pools[group] for name, group in groups.items()},
        }

    def neighbours(self, supply: SupplyResult) -> list[WireCandidate]:
        """The chosen and the best wire size with a neighbour on each side."""
        marked = [i for i, c in enumerate(supply.candidates) if c.chosen or c.best]
        near = {i + step for i in marked for step in (-1, 0, 1)}
        return [c for i, c in enumerate(supply.candidates) if i in near]

    def finding_link(self, finding: Finding) -> str:
        """Where a finding's remedy or subject is looked at."""
        remedy = finding.remedy
        if remedy and remedy.sheet:
            return f"{self.address}/{remedy.sheet}{f'?{remedy.query}' if remedy.query else ''}"
        path = remedy.path if remedy and remedy.path else finding.about
        if path.startswith("intake"):
            return self.address
        path = path.split("|")[0]
        if path.startswith("vehicle/connectors/"):
            return f"{self.address}/harness?show={path}"
        if finding.rule == "fit" and not path.startswith("vehicle/"):
            return f"{self.address}/fit"
        there = sheets().get(finding.stage)
        stage = finding.stage if there is not None and there.built else self.stage
        if stage == "survey" and path.startswith(("links/", "parts/")):
            stage = "plan"  # where wires and parts have handles
        if path.startswith(("vehicle/", "links/")) and path.split("/")[-1] in ("impedance_ohm", "tape_length_m"):
            stage = "survey" if path.startswith("vehicle/") else stage
        resolved = self.path_of(path)
        return f"{self.address}/{stage}?show={resolved}" if resolved else f"{self.address}/{stage}"

    def path_of(self, name: str) -> str:
        """A path for a path or a bare id; empty where it leads nowhere."""
        if name in self._paths:
            return self._paths[name]
        try:
            get(self.design, name)
        except UnknownName:
            return ""
        return name

    @lazy
    def _paths(self) -> dict[str, str]:
        return paths_of(self.design)

    def part_name(self, part_id: str) -> str:
        """A part's name by its id."""
        part = self.design.part(part_id)
        return part.name if part else part_id

    def tap_channels(self, tap: TapLink) -> list[str]:
        """The names of the channels a tap takes."""
        names = {c.id: c.name for c in self.design.vehicle.channels}
        return [names[c] for c in tap.from_ids]

    def said_fact(self, path: str, fact: Fact[Any]) -> str:
        """A fact's value in words, in the unit of its path."""
        return self.said(fact.value, unit_of(path.rsplit("/", 1)[-1]))

    def said(self, value: Any, unit: str) -> str:
        """A value in words, lengths in the shop's preference."""
        return said(value, unit, self.design.policy.length_unit)


def paths_of(design: Design) -> dict[str, str]:
    """The path of everything with an id of its own, by that id."""
    return {
        item.id: "/".join((*found.path, item.id))
        for collection in scan(Design).collections
        if collection.many.shared
        for found in walk(design, collection.steps)
        for item in found.holder
    }
