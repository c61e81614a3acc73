"""Rules on parts whose label and papers are silent."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.figures.finding import Draft, Remedy, rule, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count, lowered

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("papers-silent", "plan", PRACTICE)
def papers_silent(results: Results) -> Iterator[Draft]:
    """Values of a part are the usual ones, as nobody has read them yet."""
    for part in results.design.parts:
        if not part.taken_as_usual:
            continue
        fields = type(part).model_fields
        titles = [fields[name].title or name for name in fields if name in part.taken_as_usual]
        scope = (
            " Where it clips nobody knows: set its gain by a scope, not by a target voltage."
            if isinstance(part, Amplifier) and "ratings" in part.taken_as_usual
            else ""
        )
        yield watch(
            part.id,
            f"{part.name}: {count(len(titles), 'value')} nobody has read",
            f"Taken as usual: {lowered('; '.join(titles))}. What rests on that is a guess on the safe side. Read it off"
            f" the part or its papers and type it in, the same value too.{scope}",
            Remedy("Enter it", path=f"{at(part)}/{next(name for name in fields if name in part.taken_as_usual)}"),
        )
