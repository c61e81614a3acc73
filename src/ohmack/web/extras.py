"""What some sheets show besides the design: the catalogue, the policy's consequences, the history."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Fact
from ohmack.core.document.paths import get
from ohmack.core.document.policy import Policy
from ohmack.core.errors import UnknownName
from ohmack.core.reference import read_toml
from ohmack.store.designs import DesignRecord
from ohmack.web.fields import Field, model_fields
from ohmack.web.page import SUBSHEETS
from ohmack.web.workshop import Workshop


def policy_groups(policy: Policy) -> list[tuple[str, list[tuple[Field, dict[str, Any]]]]]:
    """The policy's fields by group, each with its consequence."""
    words = read_toml("schools")
    groups: dict[str, list[tuple[Field, dict[str, Any]]]] = {}
    for field in model_fields(Policy, policy):
        guide = words[field.path]
        groups.setdefault(guide["group"], []).append((field, guide))
    return list(groups.items())


def extras(shop: Workshop, record: DesignRecord, stage: str, show: str = "") -> dict[str, Any]:
    """The extra values of one sheet, by name."""
    if stage == "options":
        return {"options": shop.options(record.address)}
    if stage in ("survey", *SUBSHEETS):
        photos = shop.photos.list(record.job_number)
        return {"fact_history": _fact_history(shop, record, show) if show else [], "photos": photos}
    if stage == "plan":
        return {"catalogue": shop.shop.parts()}
    if stage == "policy":
        return {"groups": policy_groups(record.design.policy)}
    if stage == "history":
        return {"revisions": shop.designs.history(record.design_id)}
    return {}


def _fact_history(shop: Workshop, record: DesignRecord, show: str) -> list[Any]:
    try:
        is_fact = isinstance(get(record.design, show), Fact)
    except UnknownName:
        return []
    return shop.fact_history(record, show) if is_fact else []
