"""What some sheets show besides the design: the catalogue, the policy's consequences, the history."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ohmack.core.document import Fact
from ohmack.core.document.parts import PART_TYPES, Part
from ohmack.core.document.paths import get
from ohmack.core.document.policy import Policy
from ohmack.core.errors import UnknownName
from ohmack.core.planning.parts_tried import Trial, try_part
from ohmack.core.reference import read_toml
from ohmack.store.designs import DesignRecord
from ohmack.web.fields import Field, model_fields
from ohmack.web.page import SUBSHEETS
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
    rows: tuple[tuple[Part, Trial], ...]


def _found(shop: Workshop, record: DesignRecord, kind: str, words: str) -> Found:
    kind = kind if kind in PART_TYPES else next(iter(PART_TYPES))
    base = shop.evaluation(record, sweep=False)
    parts = shop.shop.parts(shop.context, kind, words, MOST_TRIED)
    tried = [(p, try_part(record.design, base, p.model_dump(mode="json", exclude={"id", "position"}))) for p in parts]
    tried.sort(key=lambda row: (*row[1].rank, row[0].price is None, row[0].price or 0.0, row[0].name))
    return Found(kind, words, tuple(PART_TYPES), shop.shop.count_parts(shop.context, kind, words), tuple(tried))


def extras(
    shop: Workshop, record: DesignRecord, stage: str, show: str = "", kind: str = "", words: str = ""
) -> dict[str, Any]:
    """The extra values of one sheet, by name."""
    if stage == "find":
        return {"found": _found(shop, record, kind, words[:80])}
    if stage == "strategies":
        return {"trees": [p.model_dump(mode="json", exclude={"id", "position"}) for p in shop.shop.parts(shop.context)]}
    if stage == "options":
        return {"options": shop.options(record.address)}
    if stage in ("survey", *SUBSHEETS):
        photos = shop.photos.list(shop.context, record.job_number)
        return {"fact_history": _fact_history(shop, record, show) if show else [], "photos": photos}
    if stage == "plan":
        return {"catalogue": shop.shop.parts(shop.context)}
    if stage == "policy":
        return {"groups": policy_groups(record.design.policy)}
    if stage == "history":
        return {"revisions": shop.designs.history(shop.context, record.design_id)}
    return {}


def _fact_history(shop: Workshop, record: DesignRecord, show: str) -> list[Any]:
    try:
        is_fact = isinstance(get(record.design, show), Fact)
    except UnknownName:
        return []
    return shop.fact_history(record, show) if is_fact else []
