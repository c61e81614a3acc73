"""The strategies side by side."""

from __future__ import annotations

from ohmack.core.document.handles import at
from ohmack.core.document.paths import get
from ohmack.core.document.strategy import Weights
from ohmack.core.errors import UnknownName
from ohmack.core.factory.advice import Advice, advise
from ohmack.core.factory.function_edits import functions_for, promised_unjudged
from ohmack.core.factory.functions import Fate
from ohmack.core.factory.roles import ROLE_KINDS, filled
from ohmack.core.factory.strategies import Candidate
from ohmack.core.planning.strategy import PricedRole, priced, total_price
from ohmack.core.wording import count, listed
from ohmack.web.page import Page
from ohmack.web.titles import title_of

SHORT = {
    "sound": "Wishes",
    "functions": "Functions",
    "reversible": "Way back",
    "cost": "Cost",
    "time": "Time",
    "robust": "Robust",
}

SORTS = {"score": "best for this customer", **{n: f.title or n for n, f in Weights.model_fields.items()}}


class StrategiesView:
    """The strategies for their page."""

    fates = Fate
    sorts = SORTS
    criteria = tuple(SHORT.items())

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.design

    @property
    def advice(self) -> Advice:
        """All strategies, best first."""
        return advise(self.design)

    def priced(self, candidate: Candidate) -> tuple[tuple[PricedRole, ...], float | None]:
        """What a strategy costs with the parts of the plan and the shop's catalogue, row by row and in all."""
        rows = priced(self.design, candidate, self.page.extra.get("trees", ()))
        return rows, total_price(rows)

    @property
    def can_lay_functions(self) -> bool:
        """Whether the car's model lacks functions such a car has."""
        return bool(functions_for(self.design))

    @property
    def sort(self) -> str:
        """What the side-by-side table is sorted by."""
        wanted = self.page.show.removeprefix("sort:") if self.page.show.startswith("sort:") else "score"
        return wanted if wanted in SORTS else "score"

    def sorted(self, advice: Advice) -> list[Candidate]:
        """The possible strategies in the order asked for."""
        possible = [c for c in advice.ranked if c.possible]
        return possible if self.sort == "score" else sorted(possible, key=lambda c: -c.marks.get(self.sort, -1.0))

    def order_words(self, advice: Advice) -> str:
        """How the ways are put in order, in words."""
        first = ["what fits the budget"] if advice.weights.cost > 0 else []
        first += ["what meets most wishes"] if advice.weights.sound > 0 else []
        return f"First comes {', then '.join([*first, 'the higher mark'])}."

    @property
    def unjudged(self) -> str:
        """What nobody can say yet of what the ways do to the car's functions, in words; empty where all is judged."""
        promised = promised_unjudged(self.design)
        if promised:
            return f"What each way does to {listed([keep.value for keep in promised])}: nothing of it is on file."
        if any("functions" not in c.marks for c in self.advice.ranked if c.possible):
            return "What each way does to the car's functions: none is on file, or not enough is known of them."
        return ""

    def weights(self, advice: Advice) -> list[tuple[str, str, int]]:
        """(name, words, value) of every weight."""
        return [(n, f.title or n, round(getattr(advice.weights, n))) for n, f in Weights.model_fields.items()]

    def verify(self, candidate: Candidate) -> list[tuple[str, str]]:
        """(path, label) of facts to check first."""
        found = []
        for path in candidate.verify[:8]:
            try:
                owner = get(self.design, path.rsplit("/", 1)[0])
            except UnknownName:
                continue
            name = getattr(owner, "name", "")
            found.append((path, f"{title_of(self.design, path)}{f', {name}' if name else ''}"))
        return found

    def missing(self, candidate: Candidate) -> list[str]:
        """Roles of a strategy no part fills yet."""
        return [r for r in candidate.needs if r in ROLE_KINDS and not filled(self.design, r)]

    @property
    def not_needed(self) -> list[tuple[str, str]]:
        """(path, name) of parts the chosen strategy has no use for."""
        chosen = next((c for c in self.advice.ranked if c.key is self.design.strategy and c.possible), None)
        if chosen is None:
            return []
        kinds = {ROLE_KINDS[r] for r in chosen.needs if r in ROLE_KINDS}
        return [
            (at(p), p.name)
            for p in self.design.parts
            if (p.kind, getattr(p, "category", "")) not in kinds
            and (p.kind, "") not in kinds
            and getattr(p, "category", "")
            not in ("interface", "bracket", "display", "capacitor", "consumables", "adapter")
        ]

    def fates_of(self, candidate: Candidate) -> str:
        """What a strategy does to the functions, on one line."""
        parts = []
        for fate, words in ((Fate.LOST, "lost"), (Fate.ADAPTED, "through an adapter")):
            if names := candidate.fate(fate):
                parts.append(f"{', '.join(names)} {words}")
        kept = len(candidate.fate(Fate.KEPT))
        parts.append(f"{count(kept, 'function')} as before" if kept else "")
        return "; ".join(p for p in parts if p) or "no functions on file yet"
