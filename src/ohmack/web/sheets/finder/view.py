"""The wire hunt: what the readings say, and which test comes next."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.harness import (
    Cavity,
    Connector,
    Fault,
    Heard,
    Hunt,
    HuntReading,
    TestKind,
    reads_open,
)
from ohmack.core.harness.wire_faults import Explanation, explanations
from ohmack.core.harness.wire_finder import CERTAIN, Found, Guess, NextTest
from ohmack.core.planning.harness import unknown_cavities
from ohmack.core.wording import digits
from ohmack.drawing.hunt import PHONE, draw_hunt
from ohmack.drawing.wires import swatch
from ohmack.web.car_picture import two_widths
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

WORTH_SAYING = 0.005  # what rounds to no per cent is not worth a line
MOST_EXPLAINED = 8  # of a kind; further ones are too unlikely to be looked at first
FAULTS = {
    Fault.DEAD: "A speaker is dead, its coil or its wire open",
    Fault.SHORTED: "A speaker or its wires are shorted",
    None: "One reading is wrong",
}


class FinderView:
    """The wire hunt for its page."""

    heard = Heard
    kinds = TestKind

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.design
        self.vehicle = page.design.vehicle

    def swatch_of(self, thing: Cavity) -> Markup:
        """A wire as it looks."""
        return swatch(thing.base, thing.tracer)

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

    @property
    def explained(self) -> list[tuple[str, float, list[tuple[str, Explanation]]]]:
        """(what kind of fault, its odds, who or which reading it may be) of what alone would make the readings fit,
        the likeliest first.
        """
        if self.hunt is None:
            return []
        readings = {r.id: self.said(r) for r in self.hunt.readings}
        groups: dict[Fault | None, list[tuple[str, Explanation]]] = {}
        for one in explanations(self.vehicle, self.hunt):
            words = readings.get(one.about_id, "") if one.fault is None else self.speaker_name(one.about_id)
            if one.odds >= WORTH_SAYING:
                groups.setdefault(one.fault, []).append((words, one))
        found = [
            (FAULTS[fault], sum(one.odds for _, one in rows), rows[:MOST_EXPLAINED]) for fault, rows in groups.items()
        ]
        return sorted(found, key=lambda group: -group[1])

    @property
    def faults(self) -> list[tuple[str, str, str]]:
        """(id, name, what is wrong) of the speakers taken for dead or shorted."""
        ids = self.hunt.speaker_ids if self.hunt is not None else ()
        kinds = ((name, self.hunt.fault_of(name)) for name in ids) if self.hunt is not None else ()
        return [(name, self.speaker_name(name), fault.value) for name, fault in kinds if fault is not None]

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
        wires = test.wires if test else ()
        return two_widths(
            draw_hunt(self.vehicle, self.hunt, found, wires), draw_hunt(self.vehicle, self.hunt, found, wires, PHONE)
        )

    @property
    def hunted_cavities(self) -> list[tuple[Connector, tuple[Cavity, ...]]]:
        """Connectors with the cavities a hunt could be about."""
        return [(c, unknown_cavities(c)) for c in self.vehicle.connectors]
