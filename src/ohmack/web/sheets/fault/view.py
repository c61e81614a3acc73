"""The search for its page: symptoms, suspects, the check to make next."""

from __future__ import annotations

from ohmack.core.document.proof import Fault, ProofReading, Symptom
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.prove.checks import Check
from ohmack.core.prove.explained import explained
from ohmack.core.prove.judged import Judged, judge, read_words
from ohmack.core.prove.search import Proposal, Search, Suspect
from ohmack.core.wording import digits, listed, percent
from ohmack.web.page import Page
from ohmack.web.sheets.prove.view import ProveView

SHOWN = 7  # suspects
UNWIRED = ("link-missing", "signal-missing")  # the rules that say what is wired to nothing
UNREAD = ("fact-missing", "coils-unread")  # the rules that say what nobody has read


class FaultView(ProveView):
    """What is wrong, as far as it is known."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.search: Search = page.evaluation.results.search

    @property
    def nothing_on_file(self) -> bool:
        """Whether the plan has nothing that could be at fault: nobody said what is in the car."""
        return not any(cause.faults for cause in self.page.evaluation.results.finder.causes)

    @property
    def symptoms(self) -> list[tuple[str, str]]:
        """(symptom, yes or no or nothing said) of each."""
        proof = self.page.design.proof
        return [(s.value, "yes" if s in proof.symptoms else "no" if s in proof.not_symptoms else "") for s in Symptom]

    @property
    def said_symptoms(self) -> str:
        """Those that are there, in words."""
        as_said = self.page.design.vehicle.as_said
        return listed([as_said(s.value) for s in self.page.design.proof.symptoms])

    @property
    def by_itself(self) -> list[tuple[Finding, str]]:
        """What brings a symptom about as the car stands on file, each with the symptoms it brings."""
        brought: dict[tuple[str, str], tuple[Finding, list[str]]] = {}
        for it in explained(self.page.design.proof.symptoms, self.page.evaluation.findings):
            key = (it.finding.rule, it.finding.about)
            brought.setdefault(key, (it.finding, []))[1].append(self.page.design.vehicle.as_said(it.symptom.value))
        return [(finding, listed(symptoms)) for finding, symptoms in brought.values()]

    @property
    def unexplained(self) -> str:
        """What was said and no fault of what is on file brings about, in words."""
        as_said = self.page.design.vehicle.as_said
        return listed([f"“{as_said(symptom.value)}”" for symptom in self.search.unexplained])

    @property
    def kept_out(self) -> list[Finding]:
        """What keeps something in the car out of the search: a wire that is not on file, or what its volts and currents
        rest on.
        """
        car = self.page.evaluation.results.searched_in.car
        solved = all(car.solves(fed.id) for fed in car.fed)
        return self._stops(*UNWIRED) if solved else self._stops(*UNWIRED, *UNREAD)

    @property
    def taken_as_usual(self) -> list[Finding]:
        """What nobody read of cables that lie there, and the search takes as it usually is."""
        results, out = self.page.evaluation.results, self.kept_out
        if results.searched_in is results:
            return []
        there = {link.id for link in results.design.links if link.in_car}
        return [f for f in self._stops(*UNREAD) if f not in out and there & set(f.about.split("/"))]

    def _stops(self, *rules: str) -> list[Finding]:
        return [f for f in self.page.evaluation.findings if f.severity is Severity.STOP and f.rule in rules]

    @property
    def proposal(self) -> Proposal | None:
        """The check that is shown: the one asked for, else the one that tells most a minute."""
        problem = self.page.problem
        asked = self.page.show.removeprefix("check:") if self.page.show.startswith("check:") else ""
        if problem is not None:
            asked = problem.typed.get("check", [asked])[0]
        rows = self.search.proposals
        return next((p for p in rows if p.check.id == asked), None) or next(iter(rows), None)

    @property
    def now(self) -> Judged | None:
        """The same as a check to be read."""
        proposal = self.proposal
        if proposal is None or self.search.found is not None:
            return None
        results = self.page.evaluation.results.searched_in
        return judge(results, proposal.check, results.windows, [], 0)

    @property
    def again(self) -> Judged | None:
        """The reading what was found hangs on, to be taken again before anything is mended."""
        results = self.page.evaluation.results.searched_in
        check = next(iter(self.search.hangs_on), None)
        return judge(results, check, results.windows, [], 0) if check is not None else None

    @property
    def others(self) -> list[Proposal]:
        """Checks that tell something too."""
        here = self.proposal
        return [p for p in self.search.proposals if p is not here]

    @property
    def suspects(self) -> list[Suspect]:
        """The likeliest causes."""
        return [s for s in self.search.suspects[:SHOWN] if s.odds >= 0.005]

    @staticmethod
    def odds(share: float) -> str:
        """Odds in words."""
        return f"{percent(share)} %" if share >= 0.01 else "under 1 %"

    @staticmethod
    def bits(proposal: Proposal) -> str:
        """What a check is expected to tell."""
        return digits(proposal.gain_bits, 2)

    @staticmethod
    def said(check: Check, reading: ProofReading) -> str:
        """A reading in words."""
        return read_words(check, reading, reading.value)

    def where(self, fault: Fault) -> str:
        """Where a known fault is, in words."""
        rows = self.page.evaluation.results.finder.causes
        same = (c.faults[0].where for c in rows if c.faults and (c.faults[0].fault.kind, c.faults[0].fault.at)
                == (fault.kind, fault.at))  # fmt: skip
        return next(same, fault.at)

    @property
    def left_in(self) -> bool:
        """Whether what was found stands in the plan already."""
        found = self.search.found
        known = {(f.kind, f.at, f.other) for f in self.page.design.proof.faults}
        return found is not None and set(found.key) <= known
