"""The only door: a design goes in, an evaluation comes out. Pure and deterministic."""

from __future__ import annotations

from dataclasses import replace

from ohmack.core.changes import compare
from ohmack.core.document import Design
from ohmack.core.evaluation import Evaluation
from ohmack.core.phases import now_only
from ohmack.core.rules import run_rules
from ohmack.core.sections.baseline import compute_baseline
from ohmack.core.sections.direct_input import compute_direct_inputs
from ohmack.core.sections.factory import compute_channel_loads, compute_earlier_work, compute_pickup
from ohmack.core.sections.figures import Book
from ohmack.core.sections.fit import compute_fit
from ohmack.core.sections.hazards import compute_bulkhead, compute_crossings
from ohmack.core.sections.loads import compute_amplifier_loads, compute_loads
from ohmack.core.sections.paper import compute_cost, fuse_list, wire_list
from ohmack.core.sections.power import compute_supplies
from ohmack.core.sections.results import Results
from ohmack.core.sections.runs import lay_out
from ohmack.core.sections.self_fed import compute_self_fed
from ohmack.core.sections.signal import compute_signals, compute_source_power, compute_sources
from ohmack.core.sections.small_wiring import compute_feeds, compute_speaker_cable, compute_switch_on
from ohmack.core.sensitivity import sweep
from ohmack.core.verdict import judge


def _compute(design: Design) -> Results:
    """All sections of one design, in order."""
    results = Results(Book(design))
    book = results.book
    results.runs = lay_out(book)
    results.loads = compute_loads(book)
    results.amplifier_loads = compute_amplifier_loads(book, results.loads)
    results.supplies, results.power = compute_supplies(book, results.runs, results.amplifier_loads)
    results.sources = compute_sources(book)
    compute_source_power(book, results.sources)
    results.signals = compute_signals(book, results.sources, results.amplifier_loads, results.supplies)
    results.direct_inputs = compute_direct_inputs(book, results.sources)
    results.switch_ons = compute_switch_on(book)
    results.feeds = compute_feeds(book)
    results.cables = [
        compute_speaker_cable(book, results.runs[link.id], load, link)
        for load in results.loads
        for link in load.links
        if not link.factory_wire
    ]
    results.cost = compute_cost(book, results.runs, results.supplies, results.cables)
    results.wire_rows = wire_list(book, results.runs, results.supplies, results.cables)
    results.fuse_rows = fuse_list(results.supplies, results.feeds)
    results.pickup = compute_pickup(book)
    results.channel_loads = compute_channel_loads(book)
    results.self_fed = compute_self_fed(book, results.amplifier_loads)
    results.fits = compute_fit(book)
    results.crossings = compute_crossings(book, results.runs)
    results.bulkhead = compute_bulkhead(book, results.runs)
    results.earlier_work = compute_earlier_work(book)
    results.baseline = compute_baseline(book)
    return results


def _once(design: Design) -> Evaluation:
    """One evaluation without a sweep: what is fitted now is computed and judged, what comes later only compared with it."""
    today = now_only(design)
    results = _compute(design if today is None else today)
    later_ids: frozenset[str] = frozenset()
    if today is not None:
        results.later = _compute(design)
        kept = {thing.id for thing in (*today.parts, *today.links)}
        later_ids = frozenset(thing.id for thing in (*design.parts, *design.links) if thing.id not in kept)
    return Evaluation(design, results.book.figures, run_rules(results), results, later_ids=later_ids)


def evaluate(design: Design, *, sweep_facts: bool = False, before: Design | None = None) -> Evaluation:
    """Figures, findings and verdict of a design.

    Parameters:
        design: the design.
        sweep_facts: also vary every assumed fact over its range and list what would flip.
        before: an earlier revision; the evaluation then says which key figures moved.

    Returns:
        the evaluation; its verdict counts open facts only after a sweep.
    """
    evaluation = _once(design)
    if before is not None:
        evaluation = replace(evaluation, moved=compare(_once(before).figures, evaluation.figures))
    if sweep_facts:
        evaluation = replace(evaluation, measure_first=sweep(design, evaluation, _once))
    return replace(evaluation, verdict=judge(evaluation))
