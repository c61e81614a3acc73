"""The application's evaluations, worked out once for each design in a run: many a test opens the same demo car."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from ohmack.core.document import Design
from ohmack.core.evaluation.answer import Evaluation
from ohmack.web import workshop

MOST = 300  # evaluations kept


@contextmanager
def judged_once() -> Iterator[None]:
    """Within, the workshop is given the evaluation it had before of an equal design: the core is pure, and what it
    works out anew and what it keeps is tested on the core itself.
    """
    judged = workshop.judged
    kept: OrderedDict[tuple[str, bool], Evaluation] = OrderedDict()

    def once(design: Design, sweep: bool = False, known: Evaluation | None = None) -> Evaluation:
        key = (design.model_dump_json(), sweep)
        if key not in kept:
            kept[key] = judged(design, sweep, known)
            while len(kept) > MOST:
                kept.popitem(last=False)
        return kept[key]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(workshop, "judged", once)
        yield
