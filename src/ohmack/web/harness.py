"""What the harness sheets show: connector faces and pin maps, the joint table, the wire hunt."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.document.handles import cavity_at
from ohmack.core.document.harness import (
    Cavity,
    CavityUse,
    Connector,
    Heard,
    Hunt,
    HuntReading,
    JointMethod,
    TestKind,
    reads_open,
)
from ohmack.core.harness.joints import JointTable
from ohmack.core.harness.pin_map import basis_of, meter_contradicts, read_by_meter, use_words
from ohmack.core.harness.speaker_circuits import Circuit
from ohmack.core.harness.wire_colours import colour_words, mirror_pairs, same_colour
from ohmack.core.harness.wire_finder import CERTAIN, Found, Guess, NextTest
from ohmack.core.lazy import lazy
from ohmack.core.planning.harness import unknown_cavities
from ohmack.core.wording import digits, trimmed
from ohmack.drawing.connector_face import draw_face
from ohmack.drawing.hunt import draw_hunt
from ohmack.drawing.wires import swatch
from ohmack.web.page import Page

HOW = {
    TestKind.RESISTANCE: (
        "Read ohms between {0} and {1}",
        (
            "Everything unplugged at the radio and the amplifier, leads zeroed. One to sixteen ohms is a pair; open is"
            " none."
        ),
    ),
    TestKind.BODY: (
        "Is there continuity from {0} to bare body metal?",
        "Key off, ohmmeter to a scraped bolt. Under two ohms is ground.",
    ),
    TestKind.TRIAL: (
        "Play on {0} and {1} alone: which speaker sounds?",
        (
            "A small source on low volume through those two wires only, everything else unplugged. Walk round the car"
            " and listen."
        ),
    ),
    TestKind.POP: (
        "Touch a 1.5 V cell on: plus to {0}, minus to {1}",
        "A short touch. Never on a tweeter, never with an amplifier connected. Watch which way the cone goes.",
    ),
}


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
    """Views of the harness for templates."""

    uses = tuple(u.value for u in CavityUse)
    methods = tuple(m.value for m in JointMethod)
    heard = Heard
    kinds = TestKind

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.design
        self.vehicle = page.design.vehicle

    # -- connectors -----------------------------------------------------------------------------------------------

    @lazy
    def connector(self) -> Connector | None:
        """The connector being looked at: the selected one, else the first."""
        steps = self.page.show.split("/")
        wanted = steps[2] if self.page.show.startswith("vehicle/connectors/") and len(steps) > 2 else ""
        connectors = self.vehicle.connectors
        return next((c for c in connectors if c.id == wanted), connectors[0] if connectors else None)

    @property
    def face(self) -> Markup:
        """The face of the connector."""
        return (
            draw_face(self.vehicle, self.connector, self.page.show, self.page.link_to) if self.connector else Markup("")
        )

    @property
    def rows(self) -> list[PinRow]:
        """The pin map, in the order of the cavities."""
        connector = self.connector
        if connector is None:
            return []
        twins: dict[str, list[str]] = {}
        for a, b in mirror_pairs(connector.cavities):
            twins.setdefault(a.id, []).append(f"mirrors {b.number}")
            twins.setdefault(b.id, []).append(f"mirrors {a.number}")
        for group in same_colour(connector):
            for c in group:
                twins.setdefault(c.id, []).append(
                    "same colour as " + ", ".join(str(o.number) for o in group if o is not c)
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

    @property
    def circuits(self) -> tuple[Circuit, ...]:
        """What every pair reaches."""
        return self.page.evaluation.results.circuits

    @property
    def joints(self) -> JointTable:
        """The joint table of the plan."""
        return self.page.evaluation.results.joints

    def swatch_of(self, thing: Cavity) -> Markup:
        """A wire as it looks."""
        return swatch(thing.base, thing.tracer)

    # -- hunt -----------------------------------------------------------------------------------------------------

    @property
    def hunt(self) -> Hunt | None:
        """The hunt, where one has been begun."""
        return self.vehicle.hunt

    @property
    def found(self) -> Found | str | None:
        """What the readings say; a sentence where the wires do not come out even."""
        return self.page.evaluation.results.hunt

    @property
    def next_test(self) -> NextTest | None:
        """The test to do now: the one chosen, else the one that decides most a minute."""
        found = self.found
        if not isinstance(found, Found):
            return None
        wanted = self.page.show.removeprefix("test:") if self.page.show.startswith("test:") else ""
        for test in found.next_tests:
            if wanted == f"{test.kind.value}|{'|'.join(test.wires)}":
                return test
        return found.next_tests[0] if found.next_tests else None

    def test_address(self, test: NextTest) -> str:
        """The address that takes up another test."""
        return self.page.link_to(f"test:{test.kind.value}|{'|'.join(test.wires)}")

    def wire_name(self, wire_id: str | None) -> str:
        """A wire's name."""
        return next((w.name for w in self.hunt.wires if w.id == wire_id), str(wire_id)) if self.hunt else str(wire_id)

    def speaker_name(self, speaker_id: str | None) -> str:
        """A speaker's name."""
        return next((s.name for s in self.vehicle.speakers if s.id == speaker_id), str(speaker_id))

    def asks(self, test: NextTest) -> tuple[str, str]:
        """(what to do, how) of a test."""
        what, how = HOW[test.kind]
        return what.format(*(self.wire_name(w) for w in test.wires)), how

    def said(self, reading: HuntReading) -> str:
        """A reading in words."""
        a, b = self.wire_name(reading.wire_a_id), self.wire_name(reading.wire_b_id)
        match reading.kind:
            case TestKind.RESISTANCE:
                return (
                    f"{a} to {b}:"
                    f" {'open' if reads_open(reading.value_ohm) else digits(reading.value_ohm or 0.0) + ' Ω'}"
                )
            case TestKind.BODY:
                return f"{a} to body: {reading.heard.value if reading.heard else ''}"
            case TestKind.TRIAL:
                return (
                    f"{a} and {b}:"
                    f" {self.speaker_name(reading.speaker_id) if reading.speaker_id else 'no speaker sounds'}"
                )
        return (
            f"plus on {a}, minus on {b}:"
            f" {reading.heard.value if reading.heard and reading.heard is not Heard.NOTHING else 'nothing moves'}"
        )

    def sure_plus(self, guess: Guess) -> bool:
        """Whether a pop test has shown the plus."""
        return guess.plus_odds > CERTAIN

    @property
    def picture(self) -> Markup:
        """Wires and speakers."""
        found, test = self.found, self.next_test
        if self.hunt is None or not isinstance(found, Found):
            return Markup("")
        return draw_hunt(self.vehicle, self.hunt, found, test.wires if test else ())

    @property
    def hunted_cavities(self) -> list[tuple[Connector, tuple[Cavity, ...]]]:
        """Connectors with the cavities a hunt could be about."""
        return [(c, unknown_cavities(c)) for c in self.vehicle.connectors]
