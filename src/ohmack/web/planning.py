"""What the plan's own sheets show: the function ledger, and the strategies side by side."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf

from ohmack.core.document.functions import Act, Intervention, KeepAlive
from ohmack.core.document.handles import at
from ohmack.core.document.interventions import implied, interventions_of
from ohmack.core.document.paths import get
from ohmack.core.document.strategy import Weights
from ohmack.core.document.vehicle import KeyState
from ohmack.core.errors import UnknownName
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.factory.function_edits import before_unplugging, functions_for, must_still_work
from ohmack.core.factory.functions import Fate, Verdict, fitting_measures, hangs_on
from ohmack.core.factory.strategies import Advice, Candidate, advise
from ohmack.core.planning.options import ComparedRow, compare_options, plain_words
from ohmack.core.planning.strategy import ROLE_KINDS, PricedRole, filled, priced, total_price
from ohmack.core.reference import read_toml
from ohmack.core.signal.switch_on import SwitchSource, switch_sources
from ohmack.core.wording import count, trimmed
from ohmack.store.designs import DesignRecord
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


@dataclass(frozen=True)
class OptionView:
    """One option of the job."""

    letter: str
    address: str
    name: str
    words: str
    here: bool
    same_survey: bool


@dataclass(frozen=True)
class ModuleRow:
    """The radio or a module under the plan."""

    id: str
    name: str
    act: Intervention | None
    by: str  # the part that means it, where nobody said it
    hanging: tuple[str, ...]
    more: tuple[KeepAlive, ...]


class PlanView:
    """Views of the plan for templates."""

    acts = tuple(a.value for a in Act)
    fates = Fate
    sorts = SORTS
    criteria = tuple(SHORT.items())

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.design

    # -- functions ------------------------------------------------------------------------------------------------

    @property
    def ledger(self) -> list[Verdict]:
        """Lost functions first, then those through an adapter."""
        order = (Fate.LOST, Fate.UNCLEAR, Fate.ADAPTED, Fate.KEPT)
        return sorted(self.page.evaluation.results.ledger, key=lambda v: order.index(v.fate))

    def name_of(self, thing_id: str) -> str:
        """The name of a module, speaker or the radio."""
        return self.page.evaluation.results.ledger_names.get(thing_id, thing_id)

    def way(self, verdict: Verdict) -> str:
        """The way of a function in words."""
        return " → ".join(self.name_of(node) for node in verdict.way)

    @property
    def modules(self) -> list[ModuleRow]:
        """What happens to the radio and every module, what hangs on each, and what could keep it alive."""
        today = self.page.evaluation.results.design
        meant = {i.id: part for i, part in implied(today)}
        acts = {i.id: i for i in interventions_of(today)}
        rows = []
        for thing_id, functions in hangs_on(self.design).items():
            act = acts.get(thing_id)
            more = tuple(m for m in fitting_measures(self.design, act) if m not in act.keep_alive) if act else ()
            part = meant.get(thing_id)
            by = (part.name if part else "the wires of the plan") if thing_id in meant else ""
            rows.append(ModuleRow(thing_id, self.name_of(thing_id), act, by, tuple(f.title for f in functions), more))
        return rows

    def measure_words(self, measure: KeepAlive) -> str:
        """How a keep-alive measure is done, with its usual time."""
        row = read_toml("functions")["measures"][measure.value]
        return f"{row['words']} {row['minutes'][0]} to {row['minutes'][1]} min."

    @property
    def can_lay_functions(self) -> bool:
        """Whether the car's model lacks functions such a car has."""
        return bool(functions_for(self.design))

    @property
    def before(self) -> tuple[str, ...]:
        """What to note before anything is unplugged."""
        return before_unplugging(self.design)

    @property
    def must_work(self) -> tuple[tuple[str, str], ...]:
        """What has to work at the end, and how it is tried."""
        return must_still_work(self.design)

    # -- switch-on ------------------------------------------------------------------------------------------------

    @property
    def switch_sources(self) -> tuple[SwitchSource, ...]:
        """What could switch the amplifiers on, the preferred first."""
        return switch_sources(self.design)

    key_states = tuple(KeyState)

    def hold(self, source: SwitchSource) -> str:
        """How long a source holds after key off, in words."""
        if source.states is None and not source.sensing:
            return "?"
        if source.hold_s == inf:
            return "never off"
        return f"about {trimmed(source.hold_min)} min" if source.hold_s else "at once"

    # -- strategies -----------------------------------------------------------------------------------------------

    @property
    def advice(self) -> Advice:
        """All strategies, best first."""
        return advise(self.design)

    def priced(self, candidate: Candidate) -> tuple[tuple[PricedRole, ...], float | None]:
        """What a strategy costs with the parts of the plan and the shop's catalogue, row by row and in all."""
        rows = priced(self.design, candidate, self.page.extra.get("trees", ()))
        return rows, total_price(rows)

    @property
    def sort(self) -> str:
        """What the side-by-side table is sorted by."""
        wanted = self.page.show.removeprefix("sort:") if self.page.show.startswith("sort:") else "score"
        return wanted if wanted in SORTS else "score"

    def sorted(self, advice: Advice) -> list[Candidate]:
        """The possible strategies in the order asked for."""
        possible = [c for c in advice.ranked if c.possible]
        return possible if self.sort == "score" else sorted(possible, key=lambda c: -c.marks[self.sort])

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

    # -- options --------------------------------------------------------------------------------------------------

    @property
    def options(self) -> list[OptionView]:
        """Every option of the job."""
        pairs: list[tuple[DesignRecord, Evaluation]] = self.page.extra["options"]
        survey = self.design.vehicle
        return [
            OptionView(
                r.letter,
                f"/jobs/{r.address}",
                r.design.option_name,
                plain_words(r.design),
                r.address == self.page.record.address,
                r.design.vehicle == survey,
            )
            for r, _ in pairs
        ]

    @property
    def compared(self) -> tuple[ComparedRow, ...]:
        """The options line by line."""
        return compare_options([evaluation for _, evaluation in self.page.extra["options"]])
