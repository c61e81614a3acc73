"""Demo jobs being proved: some to the end, one with a bad ground found half way, one that waits for the first gate."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.proof import Fault, FaultKind, Symptom
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.core.planning.proving import DEVIATIONS, READINGS, SYMPTOMS
from ohmack.core.prove.checks import Check
from ohmack.core.prove.judged import State
from ohmack.core.prove.probes import Quantity
from ohmack.instruments.true_car import LEADS_OHM, Meter, true_car

WHEN, BENCH, FRONT = "2026-11-26", "Wen", "Odile"
PROVED = {"The wasp in the old radio": 5, "Bass from the rear leads": 7, "Thirty years, one new radio": 3}  # seeds
GATE_ONE, HALF_WAY = "Bass behind the seat, out in winter", "Two amplifiers, and lamps that dim"
WORDS = {
    State.UNJUDGED: "The plan does not say; it is what a healthy car shows.",
    State.OFF: "Read twice. The post was a little off that day; nothing else is.",
}  # fmt: skip


def proofs(design: Design, title: str) -> tuple[tuple[str, tuple[Edit, ...]], ...]:
    """The rounds in which a demo job is proved, as far as it is.

    Parameters:
        design: the job as it stands in the bay.
        title: which job.

    Returns:
        (reason, edits) a round; none for a job nobody reads yet.
    """
    if title == GATE_ONE:
        results = evaluate(design).results
        first = [j.check for j in results.proof.gates[0].checks][:3]
        return (("first readings", _read(results, Meter(results.car, 1), first, 0)),)
    if title == HALF_WAY:
        return tuple(_half_way(design))
    if title in PROVED:
        return tuple(_to_the_end(design, PROVED[title]))
    return ()


def _read(results: Results, meter: Meter, checks: Iterable[Check], begun: int) -> tuple[Edit, ...]:
    """Readings of some checks, minute after minute."""
    edits = []
    for n, check in enumerate(checks, begun):
        taken = meter.at(check)
        at = f"{WHEN}T{9 + (n * 2) // 60:02d}:{(n * 2) % 60:02d}"
        tree: dict[str, object] = {"id": f"read-{n + 1}", "check": check.id, "when": at, "who": BENCH}
        if not check.is_read:
            tree["passed"] = bool(taken.passed)
        else:
            tree |= {"value": taken.value, "over": taken.over, "instrument": "Hobmeter 4"}
        if check.probe.quantity is Quantity.OHM:
            tree |= {"zero_ohm": LEADS_OHM, "range": "200 Ω"}
            if isinstance(tree.get("value"), float):
                tree["value"] = round(float(str(tree["value"])) + LEADS_OHM, 2)
        if check.probe.quantity is Quantity.DROP_MV and results.car.live(check.setting) is not None:
            live = meter.car.live(check.setting)
            tree["current_a"] = round(live.current_a.get(check.probe.subject, 0.0), 1) if live is not None else None
        edits.append(Edit(op="add", path=READINGS, value=tree))
    return tuple(edits)


def _accepted(design: Design) -> tuple[Edit, ...]:
    """What is off, or judged by nobody, in somebody's name."""
    found = [j for j in evaluate(design).results.proof.checks if j.state in WORDS and j.reading is not None]
    return tuple(
        Edit(op="add", path=DEVIATIONS, value={
            "id": f"dev-{n + 1}", "check": j.check.id, "reading": j.reading.id if j.reading else "", "by": FRONT,
            "reason": WORDS[j.state], "when": WHEN,
        }) for n, j in enumerate(found)
    )  # fmt: skip


def _to_the_end(design: Design, seed: int) -> Iterable[tuple[str, tuple[Edit, ...]]]:
    results = evaluate(design).results
    meter = Meter(true_car(design, seed), seed)
    edits = _read(results, meter, (j.check for j in results.proof.checks), 0)
    yield "proved", edits
    if accepted := _accepted(apply_edits(design, edits)):
        yield "accepted as it is", accepted


def _half_way(design: Design) -> Iterable[tuple[str, tuple[Edit, ...]]]:
    """The first two gates are through; at full level one ground is not what it should be."""
    results = evaluate(design).results
    network = results.car.network
    assert network is not None
    ring = next(b.id for b in network.branches if b.id.startswith("ground-amp") and b.id.endswith("/end"))
    bad = Fault(id="hidden", kind=FaultKind.BAD_GROUND, at=ring, by=0.015)
    meter = Meter(true_car(design, 11, (bad,)), 11)
    through = [j.check for g in results.proof.gates[:2] for j in g.checks if j.check.id != "live/whine"]
    edits = _read(results, meter, through, 0)
    yield "the first two gates", edits
    design = apply_edits(design, edits)
    if accepted := _accepted(design):
        yield "accepted as it is", accepted
        design = apply_edits(design, accepted)
    whine = results.proof.named("live/whine")
    drop = next(j for j in results.proof.checks if j.check.id == "level/drop/amp")
    assert whine is not None
    yield "what is not as predicted", _read(results, meter, (whine.check, drop.check), len(through))
    yield "what is heard", (Edit(path=SYMPTOMS, value=[Symptom.WHINE.value]),)
