"""How far each stage of a job is: whether it has anything to do there, and whether all of it was judged."""

from __future__ import annotations

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.parts import Converter
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.results import Results
from ohmack.core.figures.figure import Figure
from ohmack.core.figures.finding import HANDOVER, PROVE, Severity
from ohmack.core.figures.gaps import lacking

# The sections whose figures are read at a stage; the other stages hold none, or ask themselves for what they lack.
READ_AT = {
    "loads": (
        "loads", "beside", "amplifier_loads", "crossed", "boxes", "channel_loads", "over_frequency", "line_capacitors",
    ),
    "signal": (
        "sources", "source_power", "volume", "signals", "lines", "responses", "kept_amplifier", "crossovers",
        "arrivals", "meetings", "balance", "direct_inputs", "switch_ons",
    ),
    "supply": (
        "wanted", "power", "charging", "budget", "energy", "parked", "protection", "drop_tests", "stiffening",
        "self_fed", "radio_feeds", "feeds", "cables", "pack_feeds",
    ),
}  # fmt: skip


def idle_stages(results: Results) -> frozenset[str]:
    """Stages a job has nothing for: without an amplifier there is nothing to feed, without a converter no ladder."""
    design = results.design  # what is fitted now
    if not design.changes_something or any(design.parts_of(Amplifier)):
        return frozenset()
    idle = set[str]()
    if not results.self_fed and not results.supplies and not results.charging:
        idle.add("supply")
    if not any(design.parts_of(Converter)) and not results.signals and not results.direct_inputs:
        idle.add("signal")
    if not results.channel_loads:
        idle.add("loads")
    return frozenset(idle)


def without_value(evaluation: Evaluation, stage: str) -> list[Figure]:
    """The figures read at a stage that have no value yet and that a plan cannot be ordered without."""
    filed = evaluation.results.filed
    return lacking(figure for section in READ_AT.get(stage, ()) for figure in filed.get(section, {}).values())


def passed_by(evaluation: Evaluation, stage: str) -> list[Amplifier]:
    """The amplifiers nothing was worked out of at a stage; none of those that sit on the factory plugs."""
    results = evaluation.results
    seen = {
        "loads": {load.amplifier.id for load in results.loads},
        "signal": {s.amplifier.id for s in results.signals} | {d.part.id for d in results.direct_inputs},
        "supply": {s.part.id for s in results.supplies} | {f.part.id for f in results.self_fed},
    }
    judged = seen.get(stage)
    if judged is None:
        return []
    return [a for a in results.design.parts_of(Amplifier) if not a.plugs_in and a.id not in judged]


def is_done(evaluation: Evaluation, stage: str) -> bool:
    """Whether a stage is done: something is planned and the stage has a part in it, nothing stops it, nothing is left
    to ask, and all that is read there was judged; what is proved or handed over counts once it was read in the car.

    Parameters:
        evaluation: swept, as far as open questions count.
        stage: one of `figures.finding.STAGES`.
    """
    results, design = evaluation.results, evaluation.design
    if not design.changes_something or stage in idle_stages(results) or evaluation.count(Severity.STOP, stage):
        return False
    match stage:
        case "survey":
            return evaluation.measure_first == ()  # swept, and nothing found
        case "build":  # its sheet holds the whole plan
            return evaluation.verdict.state == "ready"
        case _ if stage == PROVE:  # nothing is proved before it was read
            return bool(design.proof.readings) and results.proof.done
        case _ if stage == HANDOVER:  # nor handed over before it was soaked
            return bool(design.handover.soak) and results.hand_over.may_go
    if stage == "supply" and results.budget is not None and results.budget.unjudged is not None:
        return False
    return not without_value(evaluation, stage) and not passed_by(evaluation, stage)
