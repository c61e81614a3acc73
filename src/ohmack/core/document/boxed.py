"""Which subwoofers sit in which box."""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.document.boxes import Box
from ohmack.core.document.design import Design
from ohmack.core.document.parts import Subwoofer


def boxed(design: Design) -> Iterator[tuple[Box, tuple[Subwoofer, ...]]]:
    """Every box with the subwoofers in it: one each in their order, all that are left over in the last one."""
    boxes = list(design.parts_of(Box))
    inside: list[list[Subwoofer]] = [[] for _ in boxes]
    for number, sub in enumerate(s for s in design.parts_of(Subwoofer) if not s.at_ids):
        if boxes:
            inside[min(number, len(boxes) - 1)].append(sub)
    return ((box, tuple(subs)) for box, subs in zip(boxes, inside, strict=True))
