"""What the function ledger's page shows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from ohmack.core.document.functions import Act, Intervention, KeepAlive
from ohmack.core.document.interventions import implied, interventions_of
from ohmack.core.factory.function_edits import before_unplugging, functions_for, must_still_work
from ohmack.core.factory.functions import Fate, Verdict, fitting_measures, hangs_on
from ohmack.core.factory.music import MusicVerdict, judge_music
from ohmack.core.reference import read_toml
from ohmack.web.page import Page


@dataclass(frozen=True)
class ModuleRow:
    """The radio or a module under the plan."""

    id: str
    name: str
    act: Intervention | None
    by: str  # the part that means it, where nobody said it
    hanging: tuple[str, ...]
    more: tuple[KeepAlive, ...]


class FunctionsView:
    """The function ledger for its page."""

    acts = tuple(a.value for a in Act)
    fates = Fate
    states: ClassVar = {"lost": "over", "kept with an adapter": "tight", "kept": "good", "not traced": "unknown"}

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.design

    @property
    def ledger(self) -> list[Verdict]:
        """Lost functions first, then those through an adapter."""
        order = (Fate.LOST, Fate.UNCLEAR, Fate.ADAPTED, Fate.KEPT)
        return sorted(self.page.evaluation.results.ledger, key=lambda v: order.index(v.fate))

    @property
    def music(self) -> tuple[MusicVerdict, ...]:
        """Whether music still reaches the factory amplifiers that stay."""
        return self.page.evaluation.results.music

    def name_of(self, thing_id: str) -> str:
        """The name of a module, speaker or the radio."""
        return self.page.evaluation.results.ledger_names.get(thing_id, thing_id)

    def way(self, verdict: Verdict | MusicVerdict) -> str:
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
            silent = judge_music(self.design, (Intervention(id=thing_id),))
            music = tuple(f"music from {v.amplifier.name}" for v in silent if v.fate is Fate.LOST)
            hanging = (*music, *(f.title for f in functions))
            rows.append(ModuleRow(thing_id, self.name_of(thing_id), act, by, hanging, more))
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
