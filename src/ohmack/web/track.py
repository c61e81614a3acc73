"""The track: the eight stages of a job with their counts, and which of them is done."""

from __future__ import annotations

from dataclasses import dataclass

from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.stages import idle_stages, is_done
from ohmack.core.figures.finding import Severity
from ohmack.web.sheet import stages


@dataclass(frozen=True)
class TrackItem:
    """One stage on the track."""

    key: str
    title: str
    built: bool
    here: bool
    wanted: bool  # whether the job has anything for this stage
    stops: int
    watches: int
    questions: int
    filled: bool


def track_of(evaluation: Evaluation, here: str) -> list[TrackItem]:
    """The stages in the order of work; `here` is the one whose sheet is open."""
    idle = idle_stages(evaluation.results)
    return [
        TrackItem(
            stage.key,
            stage.title,
            stage.built,
            stage.key == here,
            stage.built and stage.key not in idle,
            evaluation.count(Severity.STOP, stage.key),
            evaluation.count(Severity.WATCH, stage.key),
            len(evaluation.measure_first or ()) if stage.key == "survey" else 0,
            stage.built and is_done(evaluation, stage.key),
        )
        for stage in stages()
    ]
