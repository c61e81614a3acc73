"""Readings beside what was predicted, as the ladders and the coil picture show them."""

from __future__ import annotations

from math import log10
from typing import TYPE_CHECKING

from ohmack.core.prove.car import Setting
from ohmack.core.prove.judged import Judged, reads
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@record
class ReadVolts:
    """What was read at a consumer at full level: across its terminals, and from its minus to the battery's."""

    across_v: float | None
    rise_v: float | None  # at the planned current
    good: bool

    @property
    def words(self) -> str:
        """In words."""
        said = [f"{self.across_v:.2f} V" if self.across_v is not None else "",
                f"ground {1000 * self.rise_v:.0f} mV" if self.rise_v is not None else ""]  # fmt: skip
        return "read " + ", ".join(s for s in said if s)


def _read(results: Results, check_id: str) -> Judged | None:
    if not results.design.proof.readings:
        return None
    found = results.proof.named(check_id)
    return found if found is not None and found.value is not None else None


def volts_read(results: Results, part_id: str) -> ReadVolts | None:
    """What was read of a consumer at full level.

    Parameters:
        results: the evaluated plan.
        part_id: the consumer.

    Returns:
        its volts and its ground drop, the latter at the planned current; None where neither was read.

    Source: a drop goes with the current: Ohm's law.
    """
    across, drop = _read(results, f"level/volts/{part_id}"), _read(results, f"level/drop/{part_id}")
    if across is None and drop is None:
        return None
    rise_v = None
    if drop is not None and drop.value is not None and drop.reading is not None:
        live = results.car.live(Setting.LEVEL)
        planned_a = live.current_a.get(part_id, 0.0) if live is not None else 0.0
        times = planned_a / drop.reading.current_a if drop.reading.current_a else 1.0
        rise_v = drop.value / 1000 * times
    good = all(j is None or j.state.stands for j in (across, drop))
    return ReadVolts(across.value if across is not None else None, rise_v, good)


@record
class ReadLevel:
    """What was read at a stage, against what was predicted there [db]."""

    off_db: float
    good: bool
    words: str


STAGES = {"amplifier input": "level/in/{}", "amplifier output": "level/out/{}"}


def level_read(results: Results, scope: str, stage: str) -> ReadLevel | None:
    """What was read at a stage of the level ladder.

    Parameters:
        results: the evaluated plan.
        scope: the output its figures are filed under.
        stage: its name on the ladder.

    Returns:
        how far from the prediction [db]; None where nothing was read, or nothing above nothing.

    Source: 20 log₁₀ of a voltage ratio: textbook.
    """
    found = _read(results, STAGES[stage].format(scope)) if stage in STAGES else None
    if found is None or found.window is None or not found.value or found.window.value <= 0:
        return None
    off_db = 20 * log10(found.value / found.window.value)
    return ReadLevel(off_db, found.state.stands, f"read {found.read_words}")


def pair_read(results: Results, scope: str) -> tuple[str, bool] | None:
    """What an ohmmeter read at an output, in words, and whether it stands; None where nobody read it."""
    if not results.design.proof.readings:
        return None
    found = results.proof.named(f"dead/pair/{scope}")
    if found is None or found.reading is None:
        return None
    said = found.read_words if found.value is None else reads(found.check.probe.quantity, found.value)
    return f"read {said}", found.state.stands
