"""Rules on what the car's modules do: functions a plan would lose, and a module graph that cannot be right."""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.function_layout import KEPT, keep_alive
from ohmack.core.ledger import Fate, Verdict
from ohmack.core.module_graph import about, graph_troubles
from ohmack.core.reference import PRACTICE
from ohmack.core.rules.finding import Draft, Remedy, note, rule, stop, watch
from ohmack.core.sections.results import Results


def _remedy(results: Results, verdict: Verdict) -> Remedy:
    if not verdict.measures:
        return Remedy("See the ledger", path="stage:functions")
    thing_id, measure = verdict.measures[0]
    intervention = next(i for i in results.design.interventions if i.id == thing_id)
    name = results.ledger_names[thing_id]
    return Remedy(f"{name}: {measure.value}", (keep_alive(intervention, measure),))


@rule("function-lost", "plan", PRACTICE)
def function_lost(results: Results) -> Iterator[Draft]:
    """The plan would silence something the car does besides music."""
    wanted = set(results.design.intake.must_keep)
    for verdict in results.ledger:
        function = verdict.function
        path = f"vehicle/functions/{function.id}"
        title = f"{function.title[0].upper()}{function.title[1:]}"
        asked = KEPT.get(function.kind) in wanted
        if verdict.fate is Fate.LOST:
            vital = bool(about(function.kind)["vital"])
            draft = stop if asked or vital else watch
            end = (
                " The customer wants it kept."
                if asked
                else " The car may not start or warn without it."
                if vital
                else ""
            )
            yield draft(
                path,
                f"{title} would be lost",
                f"{verdict.why[0].upper()}{verdict.why[1:]}.{end}",
                _remedy(results, verdict),
            )
        elif verdict.fate is Fate.UNCLEAR and asked:
            yield watch(
                path, f"{title}: not traced yet", "The customer wants it kept, and nothing on file says what carries it. Add its modules and links, or correct where it is made and heard.",
                Remedy("Look at it", path=path),
            )  # fmt: skip
        elif verdict.fate is Fate.ADAPTED and "interface" in verdict.why:
            yield note(
                path, f"{title} rests on an interface", "Cheap digital interfaces fail now and then: choose one made for this car, and test it for days before the old unit is given back.",
            )  # fmt: skip


@rule("module-graph", "survey", PRACTICE)
def module_graph(results: Results) -> Iterator[Draft]:
    """The modules and links on file cannot work as they stand."""
    for about_id, title, text in graph_troubles(results.design):
        yield watch(about_id, title, text, Remedy("Look at the modules", path="stage:factory"))
