"""The wire hunt: what the readings say, and which test comes next."""

from __future__ import annotations

from collections.abc import Sequence

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
from ohmack.core.harness.hunt_targets import targets_of
from ohmack.core.harness.next_tests import NextTest, minutes_of
from ohmack.core.harness.wire_faults import Explanation, explanations, to_read_again
from ohmack.core.harness.wire_finder import CERTAIN, Found, Guess
from ohmack.core.planning.hunting import read_ohm, unknown_cavities
from ohmack.core.wording import digits, percent
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
            "A small source on low volume through those two only, everything else unplugged. Walk round the car and"
            " listen."
        ),
    ),
    TestKind.POP: (
        "Touch a 1.5 V cell on: plus to {0}, minus to {1}",
        (
            "A short touch. Never on a tweeter, never with an amplifier connected. Hear which one pops, and see which"
            " way its cone goes."
        ),
    ),
}

WORTH_SAYING = 0.005  # what rounds to no per cent is not worth a line
MOST_EXPLAINED = 8  # of a kind; further ones are too unlikely to be looked at first
FAULTS = {
    Fault.DEAD: "A speaker is dead, its coil or its wire open",
    Fault.SHORTED: "A speaker or its wires are shorted",
    Fault.TOUCHING: "Wires of two pairs touch each other",
    Fault.TO_BODY: "A speaker wire touches the body",
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
        if self.page.show.startswith("test:") and (wanted := self._test_of(self.page.show.removeprefix("test:"))):
            return wanted
        return found.next_tests[0] if found.next_tests else None

    def _test_of(self, words: str) -> NextTest | None:
        """The test an address names; None where the hunt has no such wires, or it is answered."""
        kind, *wires = words.split("|")
        known = {w.id for w in self.hunt.wires} if self.hunt is not None else set()
        readings = self.hunt.readings if self.hunt is not None else ()
        if any(self.again_address(r) == f"test:{words}" for r in readings if not r.withdrawn):
            return None
        if kind not in set(TestKind) or not known.issuperset(wires) or len(wires) < (1 if kind == TestKind.BODY else 2):
            return None
        once = tuple(dict.fromkeys(wires))
        return NextTest(TestKind(kind), once, 0.0, minutes_of(TestKind(kind), len(once)))

    @property
    def waiting(self) -> list[NextTest]:
        """Tests on other wires, to go on with on a phone that has lost its connection."""
        found, now = self.found, self.next_test
        if not isinstance(found, Found) or now is None:
            return []
        return [t for t in found.queue if t.wires[0] not in now.wires[:2] and now.wires[0] not in t.wires[:2]]

    def answerable(self, test: NextTest) -> list[tuple[str, str]]:
        """(id, name) of the speakers that may sound or move on some wires."""
        found, hunt = self.found, self.hunt
        if hunt is None or not isinstance(found, Found):
            return []
        elsewhere = {g.speaker_id for g in found.certain if test.wires[0] not in g.wires}
        silent = {name for name in hunt.speaker_ids if hunt.fault_of(name) is not None}
        fragile = {t.id for t in targets_of(self.vehicle, hunt) if t.fragile} if test.kind is TestKind.POP else set()
        return [(n, self.speaker_name(n)) for n in hunt.speaker_ids if n not in elsewhere | silent | fragile]

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
            if one.fault is None:
                words = readings.get(one.about_id, "")
            elif one.fault in (Fault.TOUCHING, Fault.TO_BODY):
                words = " and ".join(self.wire_name(w) for w in (one.about_id, one.other_id) if w)
            else:
                words = self.speaker_name(one.about_id)
            if one.odds >= WORTH_SAYING:
                groups.setdefault(one.fault, []).append((words, one))
        found = [
            (FAULTS[fault], sum(one.odds for _, one in rows), rows[:MOST_EXPLAINED]) for fault, rows in groups.items()
        ]
        return sorted(found, key=lambda group: -group[1])

    @property
    def faults(self) -> list[tuple[str, str]]:
        """(speaker or wire to say it of, what is taken for broken) of a hunt that goes on with a fault."""
        hunt = self.hunt
        if hunt is None:
            return []
        kinds = ((name, hunt.fault_of(name)) for name in hunt.speaker_ids)
        found = [(name, f"{self.speaker_name(name)} is taken for {fault.value}") for name, fault in kinds if fault]
        if hunt.dead_unknown or hunt.shorted_unknown:
            broken = ((hunt.dead_unknown, "dead"), (hunt.shorted_unknown, "shorted"))
            which = " and ".join(f"{many} {'is' if many == 1 else 'are'} {fault}" for many, fault in broken if many)
            found.append(("", f"Of the speakers {which}"))
        if hunt.touching_ids:
            names = " and ".join(self.wire_name(w) for w in hunt.touching_ids)
            found.append((hunt.touching_ids[0], f"{names} are taken to touch each other"))
        return found + [(w, f"{self.wire_name(w)} is taken to touch the body") for w in hunt.to_body_ids]

    @property
    def suspects(self) -> str:
        """Who may be the one that is dead or shorted, with the odds."""
        found = self.found if isinstance(self.found, Found) else None
        rows = [one for one in found.suspects if one.odds >= WORTH_SAYING] if found else []
        return ", ".join(f"{self.speaker_name(one.speaker_id)} {percent(one.odds)} %" for one in rows)

    def ohm_of(self, guess: Guess) -> str:
        """What was read across a pair."""
        ohm = read_ohm(self.hunt, guess) if self.hunt is not None else None
        return "–" if ohm is None else f"{digits(ohm)} Ω"

    def plus_of(self, guess: Guess) -> str:
        """Which wire is plus, or why nobody knows."""
        if guess.plus_odds > CERTAIN:
            return self.wire_name(guess.plus)
        fragile = self.hunt is not None and any(
            t.id == guess.speaker_id and t.fragile for t in targets_of(self.vehicle, self.hunt)
        )
        return "by its mark, no cell on a tweeter" if fragile else "not tried"

    def again_address(self, reading: HuntReading) -> str:
        """What the page shows after a reading is withdrawn, to take it again."""
        return "test:" + "|".join((reading.kind.value, reading.wire_a_id, *reading.clip))

    @property
    def read_again(self) -> HuntReading | None:
        """The reading to take again before anything is thought broken."""
        if self.hunt is None:
            return None
        wanted = to_read_again(self.hunt, explanations(self.vehicle, self.hunt))
        return next((r for r in self.hunt.readings if r.id == wanted), None)

    def test_address(self, test: NextTest) -> str:
        """The address that takes up another test."""
        return self.page.link_to(f"test:{test.kind.value}|{'|'.join(test.wires)}")

    def wire_name(self, wire_id: str | None) -> str:
        """A wire's name."""
        return next((w.name for w in self.hunt.wires if w.id == wire_id), str(wire_id)) if self.hunt else str(wire_id)

    def speaker_name(self, speaker_id: str | None) -> str:
        """A speaker's name."""
        return next((s.name for s in self.vehicle.speakers if s.id == speaker_id), str(speaker_id))

    def again_of(self, reading_id: str) -> str:
        """The same by the reading's id."""
        readings = self.hunt.readings if self.hunt is not None else ()
        return next((self.again_address(r) for r in readings if r.id == reading_id), "")

    def clip_words(self, wires: Sequence[str]) -> str:
        """What is on the other side: a wire, or several in one clip."""
        if len(wires) == 1:
            return self.wire_name(wires[0])
        return f"{len(wires)} others in one clip"

    def clip_how(self, test: NextTest) -> str:
        """Which wires go into the clip; nothing for one alone."""
        if len(test.wires) < 3 or self.hunt is None:
            return ""
        out = [w.name for w in self.hunt.wires if w.id not in test.wires]
        if not out:
            return "Twist or clip all the others together."
        if len(out) < len(test.wires) - 1:
            return f"Clip all the others together but {', '.join(out)}."
        return f"Clip together: {', '.join(self.wire_name(w) for w in test.wires[1:])}."

    def asks(self, test: NextTest) -> tuple[str, str]:
        """(what to do, how) of a test."""
        what, how = HOW[test.kind]
        clip = self.clip_words(test.wires[1:]) if len(test.wires) > 1 else ""
        return what.format(self.wire_name(test.wires[0]), clip), f"{self.clip_how(test)} {how}".strip()

    def said(self, reading: HuntReading) -> str:
        """A reading in words."""
        a, b = self.wire_name(reading.wire_a_id), self.clip_words(reading.clip) if reading.clip else ""
        who = self.speaker_name(reading.speaker_id) if reading.speaker_id else ""
        match reading.kind:
            case TestKind.RESISTANCE:
                ohm = "open" if reads_open(reading.value_ohm) else f"{digits(reading.value_ohm or 0.0)} Ω"
                return f"{a} to {b}: {ohm}"
            case TestKind.BODY:
                return f"{a} to body: {reading.heard.value if reading.heard else ''}"
            case TestKind.TRIAL:
                return f"{a} and {b}: {who or 'no speaker sounds'}"
        moved = reading.heard.value if reading.heard and reading.heard is not Heard.NOTHING else "nothing moves"
        return f"plus on {a}, minus on {b}: {f'{who}, ' if who else ''}{moved}"

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
