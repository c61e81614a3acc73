"""Connector faces, pin maps, and what every pair reaches."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.document.handles import cavity_at
from ohmack.core.document.harness import (
    Cavity,
    CavityUse,
    Connector,
    reads_open,
)
from ohmack.core.harness.pin_map import basis_of, meter_contradicts, read_by_meter, use_words
from ohmack.core.harness.speaker_circuits import Circuit
from ohmack.core.harness.wire_colours import colour_words, mirror_pairs, same_colour
from ohmack.core.lazy import lazy
from ohmack.core.wording import trimmed
from ohmack.drawing.wires import swatch
from ohmack.formats.pin_grid import MOST_ROWS, typed_row
from ohmack.web.connector_shown import connector_shown, face_shown
from ohmack.web.page import Page


@dataclass(frozen=True)
class PinRow:
    """One cavity of the pin map as a table shows it."""

    cavity: Cavity
    path: str
    colour: str
    swatch: Markup
    words: str
    basis: str
    basis_word: str
    by_meter: str
    contradicts: bool
    body: str  # ohms to body as they are typed
    twin: str  # the cavity whose colours mirror or repeat it


def _typed_ohm(value_ohm: float | None) -> str:
    return "" if value_ohm is None else "open" if reads_open(value_ohm) else trimmed(value_ohm)


class HarnessView:
    """Connector faces and pin maps for their page."""

    uses = tuple(u.value for u in CavityUse)
    columns = (("use", "is"), ("colour", "colour"), ("area_mm2", "size"), ("goes to", "goes to"))

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.design
        self.vehicle = page.design.vehicle

    @lazy
    def connector(self) -> Connector | None:
        """The connector being looked at."""
        return connector_shown(self.page)

    @property
    def face(self) -> Markup:
        """The face of the connector."""
        return face_shown(self.page)

    @property
    def rows(self) -> list[PinRow]:
        """The pin map, in the order of the cavities."""
        connector = self.connector
        if connector is None:
            return []
        twins: dict[str, list[str]] = {}
        for a, b in mirror_pairs(connector.cavities):
            twins.setdefault(a.id, []).append(f"mirrors {connector.called(b)}")
            twins.setdefault(b.id, []).append(f"mirrors {connector.called(a)}")
        for group in same_colour(connector):
            for c in group:
                twins.setdefault(c.id, []).append(
                    "same colour as " + ", ".join(connector.called(o) for o in group if o is not c)
                )
        return [
            self._row(connector, c, "; ".join(twins.get(c.id, [])))
            for c in sorted(connector.cavities, key=lambda c: (c.number, c.id))
        ]

    def _row(self, connector: Connector, cavity: Cavity, twin: str) -> PinRow:
        basis, found = basis_of(cavity), read_by_meter(cavity)
        return PinRow(
            cavity,
            cavity_at(connector, cavity),
            colour_words(cavity.base, cavity.tracer),
            swatch(cavity.base, cavity.tracer),
            use_words(self.vehicle, cavity),
            basis.value if basis else "missing",
            basis.word if basis else "Not known",
            found.value if found else "",
            meter_contradicts(cavity) is not None,
            _typed_ohm(cavity.body_ohm),
            twin,
        )

    @lazy
    def grid(self) -> list[tuple[Cavity, dict[str, str]]]:
        """Every cavity as a person would type it; nothing where a file is quicker, or one cavity is looked at."""
        connector = self.connector
        if connector is None or len(connector.cavities) > MOST_ROWS or "/cavities/" in self.page.show:
            return []
        return [(c, typed_row(c, self.vehicle)) for c in sorted(connector.cavities, key=lambda c: (c.number, c.id))]

    @property
    def bare(self) -> bool:
        """Whether nothing is known of any cavity yet."""
        return self.connector is not None and all(c.taken_for is None for c in self.connector.cavities)

    @property
    def words(self) -> list[str]:
        """What a cavity may be, as it is typed."""
        pairs = [f"{channel.name} {sign}" for channel in self.vehicle.channels for sign in "+-"]
        return [*(use for use in self.uses if use != CavityUse.SPEAKER.value), *pairs]

    @property
    def circuits(self) -> tuple[Circuit, ...]:
        """What every pair reaches."""
        return self.page.evaluation.results.circuits
