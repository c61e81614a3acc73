"""The readings for their page: groups of a kind, each beside its window."""

from __future__ import annotations

from ohmack.core.document.proof import ProofReading
from ohmack.core.prove.judged import Judged, read_words
from ohmack.core.prove.points import remote_of
from ohmack.core.prove.probes import Quantity
from ohmack.core.prove.read_in_search import read_in_search
from ohmack.web.page import Page
from ohmack.web.sheets.prove.view import ProveView

GROUPS = (
    ("Volts at battery and terminals", (Quantity.DC_V, Quantity.DROP_MV)),
    ("Levels at inputs and outputs", (Quantity.AC_V, Quantity.DISTORTION, Quantity.STEP)),
    ("Ohms of outputs, runs and grounds", (Quantity.OHM,)),
    ("Currents and heat", (Quantity.CURRENT, Quantity.ASLEEP_MA, Quantity.HEAT)),
    ("Looked at, listened to, tried", (Quantity.ANSWER,)),
)


class ReadingsView(ProveView):
    """Every reading that counts."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        looked_for = read_in_search(page.evaluation.results)
        self.read = [*(j for j in self.proof.checks if j.reading is not None), *looked_for]
        self._looked_for = {j.check.id for j in looked_for}

    @property
    def groups(self) -> list[tuple[str, list[Judged]]]:
        """(heading, readings) of every kind that has some."""
        found = [(words, [j for j in self.read if j.check.probe.quantity in kinds]) for words, kinds in GROUPS]
        return [(words, rows) for words, rows in found if rows]

    @property
    def ladder(self) -> list[Judged]:
        """The volts along the power runs: everything read or to be read in direct volts with its window."""
        volts = [j for j in self.proof.checks if j.check.probe.quantity is Quantity.DC_V and j.window is not None]
        return [j for j in volts if j.check.plus is not None and j.check.plus.point is not None
                and j.check.probe.plus != remote_of(j.check.about)]  # fmt: skip

    def in_search(self, judged: Judged) -> bool:
        """Whether it was read while a fault was looked for, and is no check of the plan."""
        return judged.check.id in self._looked_for

    @staticmethod
    def before(judged: Judged, reading: ProofReading) -> str:
        """An earlier reading in words."""
        return read_words(judged.check, reading, reading.value)
