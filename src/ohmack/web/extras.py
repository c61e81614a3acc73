"""What some sheets show besides the design: the catalogue, the policy's consequences, the history."""

from __future__ import annotations

from dataclasses import dataclass, replace
from json import dumps
from typing import Any

from ohmack.core.document import Fact
from ohmack.core.document.parts import PART_TYPES, Part
from ohmack.core.document.paths import get
from ohmack.core.document.policy import Policy
from ohmack.core.errors import UnknownName
from ohmack.core.factory.strategies import Candidate
from ohmack.core.figures.finding import BESIDE
from ohmack.core.planning.less_loss import less_loss
from ohmack.core.planning.parts_tried import BEFORE_AMPLIFIERS, Trial, try_part, way_for
from ohmack.core.reference import read_toml
from ohmack.store.design_rows import DesignRecord
from ohmack.web.fields import Field, model_fields
from ohmack.web.sheet import Asked, sheets
from ohmack.web.workshop import Workshop

MOST_TRIED = 40


def policy_groups(policy: Policy) -> list[tuple[str, list[tuple[Field, dict[str, Any]]]]]:
    """The policy's fields by group, each with its consequence."""
    words = read_toml("schools")
    groups: dict[str, list[tuple[Field, dict[str, Any]]]] = {}
    for field in model_fields(Policy, policy):
        guide = words[field.path]
        groups.setdefault(guide["group"], []).append((field, guide))
    return list(groups.items())


@dataclass(frozen=True)
class Found:
    """Catalogue parts tried on a design, the best first."""

    kind: str
    words: str
    kinds: tuple[str, ...]
    total: int
    instead: str  # the id of the part they were tried in the place of
    rows: tuple[tuple[Part, Trial], ...]
    way: Candidate | None  # what they were tried in, where something had to be added

    @property
    def beside(self) -> bool:
        """Whether some were tried together with what their way needs besides."""
        return any(trial.beside for _, trial in self.rows)

    @property
    def other_kind(self) -> str:
        """The kind that does the same in the place of a part that is named, where nothing of this kind goes there."""
        goes = any(trial.fits and not trial.same for _, trial in self.rows)
        if goes or not self.instead or self.instead == BESIDE or self.kind not in BEFORE_AMPLIFIERS:
            return ""
        return next(iter(BEFORE_AMPLIFIERS - {self.kind}))


def found(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    """The catalogue tried on the plan."""
    kind = asked.kind if asked.kind in PART_TYPES else next(iter(PART_TYPES))
    words, instead = asked.words[:80], asked.instead[:60]
    base = shop.evaluation(record, sweep=False)
    parts = shop.shop.parts(shop.context, kind, words, MOST_TRIED)
    way, whole = way_for(record.design, kind), trees_of(shop)

    def tried() -> list[tuple[Part, Trial]]:  # only the first is drawn, and keeps what it was drawn from
        rows = [(p, try_part(record.design, base, _tree(p), way, whole, instead)) for p in parts]
        rows.sort(key=lambda row: (*row[1].rank, row[0].price is None, row[0].price or 0.0, row[0].name))
        return [(p, trial if not n else replace(trial, after=None)) for n, (p, trial) in enumerate(rows)]

    shelf = dumps([_tree(p) for p in parts]), dumps(whole)  # a changed catalogue is tried anew
    rows = shop.remembered(record, ("tried", kind, words, instead, shelf), tried)
    total = shop.shop.count_parts(shop.context, kind, words)
    return {"found": Found(kind, words, tuple(PART_TYPES), total, instead, tuple(rows), way)}


def _tree(part: Part) -> dict[str, Any]:
    """A catalogue part as a part still to be placed."""
    return part.model_dump(mode="json", exclude={"id", "position"})


def trees_of(shop: Workshop) -> list[dict[str, Any]]:
    """The catalogue's parts as parts still to be placed."""
    return [_tree(p) for p in shop.shop.parts(shop.context)]


def trees(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    """The catalogue's parts, for what a strategy would take."""
    return {"trees": trees_of(shop)}


def cures(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    """What was tried to bring a loss down."""
    whole = trees_of(shop)
    base = shop.evaluation(record, sweep=False)
    return {"loss": shop.remembered(record, ("loss", dumps(whole)), lambda: less_loss(base, whole))}


def options_of_the_job(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    """The job's options side by side."""
    return {"options": shop.options(record.address)}


def photos_and_history(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    """The job's photos, and what became of the fact that is shown."""
    photos = shop.photos.list(shop.context, record.job_number)
    return {"fact_history": _fact_history(shop, record, asked.show) if asked.show else [], "photos": photos}


def catalogue(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    """The catalogue to pick from."""
    return {"catalogue": shop.shop.parts(shop.context)}


def extras(shop: Workshop, record: DesignRecord, key: str, asked: Asked) -> dict[str, Any]:
    """The extra values of one page, by name."""
    sheet = sheets().get(key)
    if sheet is not None:
        return sheet.extra(shop, record, asked) if sheet.extra else {}
    if key == "policy":
        return {"groups": policy_groups(record.design.policy)}
    if key == "history":
        return {"revisions": shop.designs.history(shop.context, record.design_id)}
    return {}


def _fact_history(shop: Workshop, record: DesignRecord, show: str) -> list[Any]:
    try:
        is_fact = isinstance(get(record.design, show), Fact)
    except UnknownName:
        return []
    return shop.fact_history(record, show) if is_fact else []
