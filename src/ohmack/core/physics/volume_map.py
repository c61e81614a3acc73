"""A volume control by readings: level over step, readings that do not fit, the last clean step, its slope."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from math import inf

import numpy as np

from ohmack.core.errors import OutOfRange
from ohmack.core.physics.baseline import clean_rows, last_clean_of
from ohmack.core.physics.signal_chain import dbv
from ohmack.core.record import record

NORMAL = 1.4826  # standard deviation over median absolute deviation, for normal scatter


@record
class VolumeMap:
    """Level over volume step, as it was read with a full-scale tone."""

    rows: tuple[tuple[float, float], ...]  # (step, level [dbv]), by step, without what does not fit
    outliers: tuple[float, ...]  # steps of readings that do not fit their neighbours
    db_per_step: float  # median of all pairs of clean readings
    scatter_db: float  # of clean readings round that slope
    clean_step: float

    @property
    def clean_dbv(self) -> float:
        """Level at the last clean step [dbv]."""
        return dict(self.rows)[self.clean_step]

    def level_dbv(self, step: float) -> float:
        """Level at a step, between readings straight.

        Parameters:
            step: volume step, inside what was read.

        Returns:
            level [dbv].

        Raises:
            OutOfRange: a step outside the readings.
        """
        steps = [row[0] for row in self.rows]
        if not steps[0] <= step <= steps[-1]:
            raise OutOfRange("step", step, "", f"{steps[0]:g} to {steps[-1]:g}, where it was read")
        return float(np.interp(step, steps, [row[1] for row in self.rows]))

    def step_at(self, level_dbv: float) -> float:
        """The step at which the source comes to a level.

        Parameters:
            level_dbv: level [dbv].

        Returns:
            the first step that has it; the lowest step read where all readings are louder, infinity where the source
            clips before it comes there.
        """
        clean = [row for row in self.rows if row[0] <= self.clean_step]
        if level_dbv <= clean[0][1]:
            return clean[0][0]
        for (step, level), (above, higher) in pairwise(clean):
            if level_dbv <= higher:
                return step + (above - step) * (level_dbv - level) / (higher - level)
        return inf


def volume_map(readings: Sequence[tuple[float, float]]) -> VolumeMap | None:
    """The map of a volume control.

    Parameters:
        readings: (step, volts rms) of one tone, shape (n, 2) [v].

    Returns:
        the map; None where fewer than four readings above zero volts fit, or a step was read twice.

    Formula: slope and scatter by Theil and Sen (median of the slopes of all pairs; scatter by the median absolute
    deviation), so that a few false readings move neither. Source: Sen, J. Am. Stat. Assoc. 63 (1968), from memory.
    """
    rows, outliers = clean_rows(readings)
    clean = last_clean_of(rows)
    if clean is None:
        return None
    levels = tuple((step, dbv(volts)) for step, volts in rows)
    below = np.array([row for row in levels if row[0] <= clean])
    if len(below) < 2:
        return None
    low, high = np.triu_indices(len(below), 1)
    slope = float(np.median((below[high, 1] - below[low, 1]) / (below[high, 0] - below[low, 0])))
    rest = below[:, 1] - slope * below[:, 0]
    scatter = NORMAL * float(np.median(np.abs(rest - np.median(rest))))
    return VolumeMap(levels, outliers, slope, scatter, clean)
