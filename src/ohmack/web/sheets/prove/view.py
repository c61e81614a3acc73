"""The proof for its page: the check that is made now, those that follow, the gates."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.proof import ProofReading
from ohmack.core.planning.proving import TAKEN_OVER, fact_of
from ohmack.core.prove.checks import Check
from ohmack.core.prove.judged import Gate, Judged, ProofState, State
from ohmack.core.prove.probes import Quantity
from ohmack.core.wording import SHOWN, time_span, trimmed
from ohmack.drawing.window_bar import draw_window
from ohmack.web.instrument_kinds import kind_for
from ohmack.web.page import Page

AHEAD = 12  # so many checks come with the page, to go on without a connection
SIGNS = {State.PASSED: "✓", State.ACCEPTED: "✓", State.OFF: "!", State.AGAIN: "↻", State.UNJUDGED: "?", State.OPEN: ""}
WORDS = {State.PASSED: "✓", State.ACCEPTED: "✓ accepted", State.OFF: "! not as predicted", State.AGAIN: "↻ make again",
         State.UNJUDGED: "? not judged", State.OPEN: ""}  # fmt: skip


class ProveView:
    """What is checked now, and how everything stands."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.proof: ProofState = page.evaluation.results.proof

    @property
    def now(self) -> Judged | None:
        """The check that is shown: the one asked for, what was just read and is off, else the next."""
        problem = self.page.problem
        asked = self.page.show.removeprefix("check:") if self.page.show.startswith("check:") else ""
        if problem is not None:
            asked = problem.typed.get("check", [asked])[0]
        return self.proof.named(asked) or self.just_off or self.proof.next_one

    @property
    def just_read(self) -> Judged | None:
        """What was read last, as it was judged."""
        return self.proof.named(self.last.check) if self.last is not None else None

    @property
    def just_off(self) -> Judged | None:
        """The same, where it is not as predicted or nobody can say: it is looked at before anything else is read."""
        last = self.just_read
        return last if last is not None and last.state in (State.OFF, State.UNJUDGED) else None

    @property
    def go_on(self) -> Judged | None:
        """What follows while what was read last is not as predicted."""
        after = self.proof.next_one
        return after if after is not None and after is not self.now else None

    @property
    def chosen(self) -> bool:
        """Whether a check was asked for."""
        return self.page.show.startswith("check:")

    @property
    def waiting(self) -> list[Judged]:
        """The checks that follow, to go on with while there is no connection."""
        here = self.now
        rest = [j for g in self.proof.gates if not g.waits for j in g.left if j is not here]
        return rest[:AHEAD]

    def gate_of(self, judged: Judged) -> Gate:
        """The gate a check belongs to."""
        return next(g for g in self.proof.gates if g.number == judged.check.gate)

    @property
    def place(self) -> str:
        """Which check of how many, in words."""
        here = self.now
        if here is None:
            return ""
        gate = self.gate_of(here)
        return f"{gate.checks.index(here) + 1} of {len(gate.checks)}, {gate.title.lower()}"

    @property
    def strip(self) -> list[tuple[str, str, str]]:
        """(style, title, address) of every check of the gate that is worked on."""
        here = self.now
        gate = self.gate_of(here) if here is not None else (self.proof.gates[-1] if self.proof.gates else None)
        if gate is None:
            return []
        return [
            (f"s-{j.state.name.lower()}{' now' if j is here else ''}", f"{j.check.title}: {j.state.value}",
             self.address(j.check)) for j in gate.checks
        ]  # fmt: skip

    def address(self, check: Check) -> str:
        """Where a check is made."""
        return self.page.link_to(f"check:{check.id}")

    @staticmethod
    def unit(check: Check) -> str:
        """The unit it is read in, as shown."""
        return SHOWN.get(check.probe.quantity.unit, "")

    @staticmethod
    def may_be_open(check: Check) -> bool:
        """Whether a meter may show no connection."""
        return check.probe.quantity is Quantity.OHM

    @property
    def last(self) -> ProofReading | None:
        """The reading before this one, whose meter and name are kept."""
        taken = self.page.design.proof.readings
        return taken[-1] if taken else None

    def zero(self, check: Check) -> str:
        """What the leads read when they were last held together, for an ohmmeter."""
        if check.probe.quantity is not Quantity.OHM:
            return ""
        known = [r.zero_ohm for r in self.page.design.proof.readings if r.zero_ohm]
        return f"{known[-1]:g}" if known else ""

    @staticmethod
    def window(judged: Judged) -> Markup:
        """The window as a bar."""
        return draw_window(judged)

    @staticmethod
    def words(judged: Judged) -> str:
        """How it stands, in a word."""
        return WORDS[judged.state]

    @staticmethod
    def sign(judged: Judged) -> str:
        """How it stands, as a sign."""
        return SIGNS[judged.state]

    @staticmethod
    def orphan(reading: ProofReading) -> str:
        """A reading nothing asks for any more, in words: without its check its unit is not known."""
        if reading.over:
            return "no connection"
        if reading.value is None:
            return "good" if reading.passed else "not good"
        return trimmed(reading.value)

    def minutes(self, gate: Gate) -> str:
        """How long what is left of a gate takes."""
        left = sum(j.check.minutes for j in gate.left)
        return time_span(left, 1.5 * left)

    @property
    def at_bench(self) -> bool:
        """Whether the bench stands in for the car."""
        return self.page.design.proof.practice is not None

    @staticmethod
    def by_instrument(check: Check) -> bool:
        """Whether an instrument reads it: a volume step stands on the radio."""
        return check.is_read and check.probe.quantity is not Quantity.STEP

    @staticmethod
    def instrument_for(check: Check) -> str:
        """Which instrument reads a check."""
        return kind_for(check.probe.quantity).value

    def fact_words(self, judged: Judged) -> str:
        """The fact a reading may be planned with, in words; empty where there is none."""
        if judged.value is None or judged.check.probe.quantity not in TAKEN_OVER:
            return ""
        found = fact_of(self.page.evaluation.results, judged)
        return found.words if found is not None else ""
