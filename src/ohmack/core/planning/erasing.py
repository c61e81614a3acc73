"""A plan without the person it was made for: the job stays, the name goes."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import Any

from ohmack.core.document import Design
from ohmack.core.planning.notes import notes

GONE = "(erased)"
LEAST_LETTERS = 3  # of one word of a name that is looked for by itself
LEAST_DIGITS = 5  # of a phone
WRITTEN = {"title", "option_name", "call", "come_back"}  # written by hand too, though no notes


class Eraser:
    """Takes names and a phone out of what was written, however they stand there."""

    def __init__(self, names: Iterable[str], phone: str) -> None:
        """Every whole name and each longer word of one; the digits of the phone with anything short between them."""
        found: list[str] = []
        for name in dict.fromkeys(n.strip() for n in names if n.strip() and n != GONE):
            found += [rf"\b{re.escape(name)}\b"]
            found += [rf"\b{re.escape(w)}\b" for w in name.split() if len(w) >= LEAST_LETTERS]
        digits = re.sub(r"\D", "", phone)
        if len(digits) >= LEAST_DIGITS:
            found.append(r"\D{0,3}".join(digits))
        self._pattern = re.compile("|".join(found), re.IGNORECASE) if found else None

    def line(self, text: str) -> str:
        """A line of text without them."""
        return self._pattern.sub(GONE, text) if self._pattern is not None else text

    def _tree(self, value: Any, is_written: Callable[[str, str], bool], key: str = "") -> Any:
        if isinstance(value, dict):
            return {k: self._tree(v, is_written, k) for k, v in value.items()}
        if isinstance(value, list):
            return [self._tree(v, is_written, key) for v in value]
        return self.line(value) if isinstance(value, str) and is_written(value, key) else value

    def notes(self, tree: Any) -> Any:
        """Part of a design as JSON, as a car that was kept is, with its notes cleared."""
        return self._tree(tree, lambda _, key: key == "note")

    def design(self, design: Design) -> dict[str, Any]:
        """A design as JSON, its notes and titles cleared, its signatures without name and hand."""
        written = set(notes(design))
        tree: dict[str, Any] = self._tree(
            design.model_dump(mode="json"), lambda text, key: text in written or key in WRITTEN
        )
        for signature in tree["handover"]["signatures"]:
            signature |= {"by": GONE, "drawn": []}
        if tree["work"]["accepted"] is not None:
            tree["work"]["accepted"]["by"] = GONE
        return tree


def signers(design: Design) -> set[str]:
    """Who signed for the car or said yes to the quote."""
    accepted = design.work.accepted
    return {s.by for s in design.handover.signatures} | ({accepted.by} if accepted is not None else set())
