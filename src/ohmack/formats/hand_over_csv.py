"""The lists of a job pack as CSV: readings, wires, fuses, joints, settings, soak, what is left open."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ohmack.core.document.proof import ProofReading
from ohmack.core.evaluation.results import Results
from ohmack.core.handover.soak import said
from ohmack.core.prove.judged import Judged, read_words
from ohmack.core.prove.read_in_search import read_in_search
from ohmack.formats.csv_table import guarded_cell, write_table

READINGS = ("check", "gate", "what", "value", "unit", "low", "high", "stands", "current_a", "when", "who", "instrument",
            "range", "zero_ohm", "note", "corrected")  # fmt: skip


def _table(rows: Iterable[dict[str, str]], columns: Sequence[str]) -> bytes:
    return write_table(list(rows), columns, guarded_cell)


def readings_csv(results: Results) -> bytes:
    """Every reading ever taken, corrected ones and those of a search too, beside what was predicted; at the end those
    of checks the plan does not ask for any more.
    """
    checks = (*results.proof.checks, *read_in_search(results))
    taken = [(j, r) for j in checks for r in (*j.earlier, *((j.reading,) if j.reading is not None else ()))]
    known, named = [_reading(j, r) for j, r in taken], {r.id for _, r in taken}
    left = (r for r in results.design.proof.readings if r.id not in named)
    return _table([*known, *({**_taken(r), "stands": "no longer asked"} for r in left)], READINGS)


def _reading(judged: Judged, reading: ProofReading) -> dict[str, str]:
    check, window = judged.check, judged.shown
    shows = read_words(check, reading, reading.value) if reading.value is None else f"{reading.value:g}"
    return _taken(reading) | {
        "gate": str(check.gate), "what": check.title, "value": shows,
        "unit": check.probe.quantity.unit if reading.value is not None else "",
        "low": "" if window is None else f"{window.low:.6g}", "high": "" if window is None else f"{window.high:.6g}",
        "stands": judged.state.value if reading is judged.reading else "",
        "corrected": "" if reading is judged.reading else "yes",
    }  # fmt: skip


def _taken(reading: ProofReading) -> dict[str, str]:
    """A reading by itself."""
    answered = "no connection" if reading.over else {None: "", True: "good", False: "not good"}[reading.passed]
    return {
        "check": reading.check, "value": answered if reading.value is None else f"{reading.value:g}",
        "current_a": "" if reading.current_a is None else f"{reading.current_a:g}", "when": reading.when,
        "who": reading.who, "instrument": reading.instrument, "range": reading.range,
        "zero_ohm": f"{reading.zero_ohm:g}" if reading.zero_ohm else "", "note": reading.note,
    }  # fmt: skip


def wires_csv(results: Results) -> bytes:
    """Every wire with its two ends."""
    columns = ("purpose", "from", "to", "size", "length_m", "basis", "colour", "note")
    rows = (
        {"purpose": w.purpose, "from": w.start, "to": w.end, "size": w.size,
         "length_m": "" if w.length_m is None else f"{w.length_m:.2f}", "basis": w.length_basis, "colour": w.colour,
         "note": w.note} for w in results.wire_rows
    )  # fmt: skip
    return _table(rows, columns)


def fuses_csv(results: Results) -> bytes:
    """Every fuse by its number."""
    columns = ("number", "where", "kind", "rating_a", "stops")
    rows = (
        {"number": str(f.number), "where": f.where, "kind": f.kind,
         "rating_a": "" if f.rating_a is None else f"{f.rating_a:g}", "stops": f.stops} for f in results.fuse_map
    )  # fmt: skip
    return _table(rows, columns)


def joints_csv(results: Results) -> bytes:
    """Every joint with the factory loom."""
    columns = ("connector", "cavity", "lead", "to", "method", "sleeve_mm", "car_label", "lead_label")
    rows = (
        {"connector": j.connector.name, "cavity": j.connector.called(j.cavity), "lead": j.lead.words, "to": j.unit,
         "method": j.method.value, "sleeve_mm": "" if j.shrink_mm is None else f"{j.shrink_mm:g}",
         "car_label": j.car_label, "lead_label": j.lead_label} for j in results.joints.joints
    )  # fmt: skip
    return _table(rows, columns)


def settings_csv(results: Results) -> bytes:
    """Every setting as the car is left."""
    columns = ("group", "of", "what", "planned", "read", "when", "by", "stands")
    rows = (
        {"group": s.group, "of": s.of, "what": s.what, "planned": s.planned, "read": s.read, "when": s.when, "by": s.by,
         "stands": "" if s.stands is None else "yes" if s.stands else "no"} for s in results.settings
    )  # fmt: skip
    return _table(rows, columns)


def soak_csv(results: Results) -> bytes:
    """Every try of the soak."""
    columns = ("check", "what", "when", "shows", "expected", "who", "note")
    rows = (
        {"check": j.check.id, "what": j.check.title, "when": r.when, "shows": said(j.check, r),
         "expected": j.check.expects, "who": r.who, "note": r.note} for j in results.soak.checks for r in j.readings
    )  # fmt: skip
    return _table(rows, columns)


def left_open_csv(results: Results) -> bytes:
    """What is left open."""
    rows = ({"kind": p.kind.value, "what": p.what, "why": p.why, "whose": p.whose} for p in results.left_open)
    return _table(rows, ("kind", "what", "why", "whose"))
