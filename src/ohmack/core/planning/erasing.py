"""A plan without the person it was made for: the job stays, the name goes."""

from __future__ import annotations

import re
from typing import Any

from ohmack.core.document import Design
from ohmack.core.planning.notes import notes

GONE = "(erased)"
LEAST_LETTERS = 3  # of one word of a name that is looked for by itself
WRITTEN = {"title", "option_name", "call", "come_back"}  # written by hand too, though no notes


def _pattern(name: str, phone: str) -> re.Pattern[str] | None:
    """The whole name, each longer word of it, and the phone however its digits stand apart."""
    words = [w for w in re.split(r"\s+", name.strip()) if len(w) >= LEAST_LETTERS]
    found = [rf"\b{re.escape(w)}\b" for w in ([name.strip()] if name.strip() else []) + words]
    digits = re.sub(r"\D", "", phone)
    if len(digits) >= 5:
        found.append(r"\D{0,3}".join(digits))
    return re.compile("|".join(found), re.IGNORECASE) if found else None


def notes_without(tree: Any, name: str, phone: str) -> Any:
    """Part of a design as JSON, its notes without a customer's name and phone: of a car that was kept as a template.

    Parameters:
        tree: as it was saved; what stands under `note` is one.
        name: of the customer.
        phone: of the customer, perhaps empty.
    """
    pattern = _pattern(name, phone)

    def cleared(value: Any, key: str) -> Any:
        if isinstance(value, dict):
            return {k: cleared(v, k) for k, v in value.items()}
        if isinstance(value, list):
            return [cleared(v, key) for v in value]
        return pattern.sub(GONE, value) if pattern and isinstance(value, str) and key == "note" else value

    return cleared(tree, "")


def without_person(design: Design, name: str, phone: str) -> dict[str, Any]:
    """A design as JSON, its notes without a customer's name and phone, its signatures without name and hand.

    Parameters:
        design: as it was saved.
        name: of the customer.
        phone: of the customer, perhaps empty.
    """
    pattern, written = _pattern(name, phone), set(notes(design))

    def cleared(value: Any, key: str) -> Any:
        if isinstance(value, dict):
            return {k: cleared(v, k) for k, v in value.items()}
        if isinstance(value, list):
            return [cleared(v, key) for v in value]
        if isinstance(value, str) and pattern is not None and (value in written or key in WRITTEN):
            return pattern.sub(GONE, value)
        return value

    tree: dict[str, Any] = cleared(design.model_dump(mode="json"), "")
    for signature in tree["handover"]["signatures"]:
        signature |= {"by": GONE, "drawn": []}
    if tree["work"]["accepted"] is not None:
        tree["work"]["accepted"]["by"] = GONE
    return tree
