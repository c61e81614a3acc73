"""The only door: a design goes in, an evaluation comes out. Pure and deterministic."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import chain, islice
from typing import Any

from ohmack.core.box.arrivals import compute_arrivals
from ohmack.core.box.crossing import compute_meetings
from ohmack.core.box.judged import compute_boxes
from ohmack.core.build.cost import compute_cost
from ohmack.core.build.lists import fuse_list, wire_list
from ohmack.core.build.unlinked_wires import own_fuses, pack_fuses, unlinked_wires
from ohmack.core.document import Design
from ohmack.core.document.paths import replace as replace_value
from ohmack.core.document.phases import now_only
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.changes import what_moved
from ohmack.core.evaluation.register import last_rules, run_rules
from ohmack.core.evaluation.results import Results
from ohmack.core.evaluation.sensitivity import sweep
from ohmack.core.evaluation.tracing import LAZIES, Changed, Readers, TracedBook, TracedResults, Traces, watched
from ohmack.core.evaluation.verdict import judge
from ohmack.core.factory.advice import best_way
from ohmack.core.factory.earlier_work import compute_earlier_work
from ohmack.core.factory.outputs import compute_channel_loads
from ohmack.core.factory.over_frequency import compute_over_frequency
from ohmack.core.factory.pickup_places import compute_pickup
from ohmack.core.factory.series_capacitors import compute_line_capacitors
from ohmack.core.figures.figure import Book, Figure
from ohmack.core.figures.finding import RULES, Finding, findings_of, in_order
from ohmack.core.fit.clearances import compute_fit
from ohmack.core.fit.runs import lay_out
from ohmack.core.fit.zones import compute_bulkhead, compute_crossings
from ohmack.core.loads.beside import compute_beside
from ohmack.core.loads.pads import compute_crossed
from ohmack.core.loads.wirings import compute_amplifier_loads, compute_loads
from ohmack.core.signal.balance import compute_balance
from ohmack.core.signal.crossovers import compute_crossovers
from ohmack.core.signal.kept_amplifiers import compute_kept_amplifier
from ohmack.core.signal.ladder import compute_volume
from ohmack.core.signal.levels import compute_signals, compute_source_power, compute_sources
from ohmack.core.signal.lines import compute_lines
from ohmack.core.signal.remote_load import compute_switch_on
from ohmack.core.signal.responses import compute_responses
from ohmack.core.signal.speaker_level import compute_direct_inputs
from ohmack.core.supply.budget import compute_budget
from ohmack.core.supply.charging import compute_charging
from ohmack.core.supply.consumers import compute_power
from ohmack.core.supply.draws import compute_wanted
from ohmack.core.supply.drop_test import compute_drop_tests
from ohmack.core.supply.energy import compute_energy
from ohmack.core.supply.feed_taps import lost_before
from ohmack.core.supply.own_runs import compute_self_fed
from ohmack.core.supply.pack_feed import compute_pack_feeds
from ohmack.core.supply.parked import compute_parked
from ohmack.core.supply.protection_study import compute_protection
from ohmack.core.supply.radio_feeds import compute_radio_feeds, taps_of
from ohmack.core.supply.small_circuits import compute_cables, compute_feeds
from ohmack.core.supply.stiffening import compute_stiffening
from ohmack.core.survey.readings import compute_baseline

# Every section with what it needs, in the order in which their figures are filed.
SECTIONS: dict[str, Callable[[Results], Any]] = {
    "runs": lambda r: lay_out(r.book),
    "loads": lambda r: compute_loads(r.book),
    "beside": lambda r: compute_beside(r.book, r.loads),
    "amplifier_loads": lambda r: compute_amplifier_loads(r.book, r.loads),
    "crossed": lambda r: compute_crossed(r.book),
    "wanted": lambda r: compute_wanted(r.book, r.runs, r.amplifier_loads),
    "power": lambda r: compute_power(r.book, r.wanted),
    "charging": lambda r: compute_charging(r.book, r.runs),
    "budget": lambda r: compute_budget(r.book, r.supplies, r.charging),
    "energy": lambda r: compute_energy(r.book, r.supplies),
    "parked": lambda r: compute_parked(r.book, r.supplies),
    "protection": lambda r: compute_protection(r.book, r.supplies, r.charging),
    "drop_tests": lambda r: compute_drop_tests(r.book, r.supplies),
    "stiffening": lambda r: compute_stiffening(r.book, r.runs, r.supplies),
    "sources": lambda r: compute_sources(r.book),
    "source_power": lambda r: compute_source_power(r.book, r.sources),
    "volume": lambda r: compute_volume(r.book),
    "signals": lambda r: compute_signals(r.book, r.sources, r.amplifier_loads, r.supplies, r.volume),
    "lines": lambda r: compute_lines(r.book, r.runs, r.signals, r.supplies),
    "responses": lambda r: compute_responses(r.book),
    "kept_amplifier": lambda r: compute_kept_amplifier(r.book),
    "crossovers": lambda r: compute_crossovers(r.book, r.loads),
    "boxes": lambda r: compute_boxes(r.book, r.loads, r.crossovers),
    "arrivals": lambda r: compute_arrivals(r.book, r.loads),
    "meetings": lambda r: compute_meetings(r.book, r.loads, r.crossovers, r.boxes),
    "balance": lambda r: compute_balance(r.book, r.loads, r.signals),
    "direct_inputs": lambda r: compute_direct_inputs(r.book, r.sources),
    "switch_ons": lambda r: compute_switch_on(r.book),
    "self_fed": lambda r: compute_self_fed(r.book, r.amplifier_loads),
    "radio_feeds": lambda r: compute_radio_feeds(r.book, r.self_fed),
    "feeds": lambda r: compute_feeds(r.book, r.runs, lost_before(taps_of(r.self_fed, r.radio_feeds))),
    "cables": lambda r: compute_cables(r.book, r.runs, r.loads),
    "pack_feeds": lambda r: compute_pack_feeds(r.book),
    "cost": lambda r: compute_cost(
        r.book, r.runs, r.supplies, r.cables, r.charging, r.stiffening, r.feeds, r.pack_feeds
    ),
    "wire_rows": lambda r: [
        *wire_list(r.book, r.runs, r.supplies, r.cables, r.charging, r.stiffening, r.feeds),
        *unlinked_wires(r.book, r.pack_feeds),
    ],
    "fuse_rows": lambda r: [
        *fuse_list(r.book.design, r.supplies, r.feeds, r.charging),
        *pack_fuses(r.pack_feeds),
        *own_fuses(r.book.design),
    ],
    "pickup": lambda r: compute_pickup(r.book),
    "channel_loads": lambda r: compute_channel_loads(r.book),
    "over_frequency": lambda r: compute_over_frequency(r.book, r.loads, r.channel_loads),
    "line_capacitors": lambda r: compute_line_capacitors(r.book, r.channel_loads),
    "fits": lambda r: compute_fit(r.book),
    "crossings": lambda r: compute_crossings(r.book, r.runs),
    "bulkhead": lambda r: compute_bulkhead(r.book, r.runs),
    "earlier_work": lambda r: compute_earlier_work(r.book),
    "baseline": lambda r: compute_baseline(r.book),
}


def _compute(design: Design) -> Results:
    """All sections of one design, in order."""
    results = Results(Book(design), _compute)
    for name, make in SECTIONS.items():
        results.filed[name] = _filing(results, name, make)
    return results


def _filing(results: Results, name: str, make: Callable[[Results], Any]) -> dict[str, Figure]:
    """Work a section out into its results, and say which figures it filed."""
    figures = results.book.figures
    before = len(figures)
    setattr(results, name, make(results))
    return dict(islice(figures.items(), before, None))


def _once(design: Design) -> Evaluation:
    """One evaluation without a sweep: what is fitted now is computed and judged, what comes later only compared with
    it.
    """
    today = now_only(design)
    results = _compute(design if today is None else today)
    if today is not None:
        results.later = _compute(design)
    return _judged(design, results, run_rules(results))


def _judged(design: Design, results: Results, findings: tuple[Finding, ...]) -> Evaluation:
    later_ids: frozenset[str] = frozenset()
    if results.later is not None:
        kept = {thing.id for thing in (*results.design.parts, *results.design.links)}
        later_ids = frozenset(thing.id for thing in (*design.parts, *design.links) if thing.id not in kept)
    return Evaluation(design, results.book.figures, findings, results, later_ids=later_ids)


# What was read, tried and done in the car is judged once, and not again for every fact that is varied.
RULE_FRAMES = tuple((name, rule, f"rule {name}") for name, rule in RULES.items() if rule.varied)


class Retracing:
    """A traced evaluation of a design: after one changed fact only what looked at it, or at what became of it, is
    worked out anew.

    Two evaluations stand behind it: one of a design that notes who reads what, which gives the frames, and the one of
    the design itself, which gives what is kept and what the new is compared with.
    """

    def __init__(self, design: Design, base: Evaluation | None = None) -> None:
        """Trace a design; its evaluation is worked out where it is not there yet."""
        self._design = design
        self._traces = Traces()
        traced = watched(design)
        today = now_only(traced)
        noted = TracedResults(TracedBook(traced if today is None else today, self._traces), self._traces)
        for name, make in SECTIONS.items():
            noted.put(name, partial(make, noted))
        if today is not None:
            noted.put("later", lambda: _compute(traced))
        self.best_way = self._traces.frame("best way", partial(best_way, traced))
        for _, rule, frame in RULE_FRAMES:
            self._traces.frame(frame, partial(findings_of, rule, noted))
        self._readers = Readers(self._traces.frames.values())
        self._made = [name for name in self._traces.frames if name in SECTIONS or name in LAZIES or name == "later"]
        base = base or _once(design)
        self._kept = base.results
        self._findings: dict[str, list[Finding]] = {name: [] for name in RULES}
        for found in base.findings:
            self._findings[found.rule].append(found)

    @property
    def steers(self) -> frozenset[str]:
        """The paths of every fact the recommended strategy hangs on."""
        return frozenset(self._traces.frames["best way"].facts)

    @property
    def read(self) -> frozenset[str]:
        """The paths of every fact the evaluation looked at."""
        return self._traces.read

    def after(self, path: str, value: Any) -> Evaluation:
        """The evaluation with one fact's value changed; the same as a whole one."""
        design = replace_value(self._design, f"{path}/value", value)
        today = now_only(design)
        results = Results(Book(design if today is None else today))
        changed = Changed(path, self._readers)
        for name in self._made:
            if name in SECTIONS:
                self._follow(name, results, changed)
            elif name in changed.anew:
                changed.note_frame(name)  # whether it is another is seen when somebody asks for it
                if name == "later":
                    results.later = _compute(design)
            elif name in self._kept.__dict__:
                results.__dict__[name] = self._kept.__dict__[name]
        said = (
            findings_of(rule, results) if frame in changed.anew else self._findings[name]
            for name, rule, frame in RULE_FRAMES
        )
        return _judged(design, results, in_order(chain.from_iterable(said)))

    def _follow(self, name: str, results: Results, changed: Changed) -> None:
        """One section after the change: worked out anew where something it looked at has changed, else kept."""
        if name in changed.anew:
            changed.note_figures(self._kept.filed[name], _filing(results, name, SECTIONS[name]))
            if changed.note(name, getattr(self._kept, name), getattr(results, name)):
                return
        else:
            results.book.figures.update(self._kept.filed[name])
        setattr(results, name, getattr(self._kept, name))


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
        moved = what_moved(_once(before).figures, evaluation.results, design.policy.length_unit)
        evaluation = replace(evaluation, moved=moved)
    return swept(evaluation) if sweep_facts else replace(evaluation, verdict=judge(evaluation))


def swept(evaluation: Evaluation) -> Evaluation:
    """An evaluation with every assumed fact varied over its range, and with what would flip.

    Parameters:
        evaluation: one of a whole design, its facts not varied yet.

    Returns:
        the same, its verdict counting open facts too.
    """
    design = evaluation.design
    counted = replace(
        evaluation,
        measure_first=sweep(design, evaluation, Retracing(design, evaluation)),
        findings=in_order((*evaluation.findings, *last_rules(evaluation.results))),
    )
    return replace(counted, verdict=judge(counted))
