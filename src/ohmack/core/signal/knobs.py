"""Outputs whose gain one knob sets, as the papers of their amplifier say."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby

from ohmack.core.physics.signal_chain import dbv
from ohmack.core.signal.levels import OutputSignal, SignalResult

ALIKE_DB = 0.5  # what a knob is set to by a meter; common practice
Knob = tuple[str, tuple[int, ...]]  # the amplifier's id, and the channels


def knob_of(output: OutputSignal) -> Knob:
    """The knob of an output."""
    return output.load.amplifier.id, output.load.amplifier.knob_of(output.load.link.channel)


def sensitivity_v(output: OutputSignal) -> float | None:
    """What an output's knob is set to [v]: as it is kept, else as it should be, or as near as it can be turned; None
    where that is not known.
    """
    return output.load.link.sensitivity_kept_v or wanted_v(output)


def wanted_v(output: OutputSignal) -> float | None:
    """What an output's knob should be set to [v], or as near as it can be turned; None where that is not known."""
    most_v, least_v = output.span_v
    should: float | None = output.figures["sensitivity"].value
    return None if should is None else min(max(should, most_v), max(least_v, most_v))


def less_gain_db(output: OutputSignal, other: OutputSignal) -> float:
    """How far apart two outputs want their knob [db]; 0 where one of them is not known."""
    own, across = sensitivity_v(output), sensitivity_v(other)
    return abs(dbv(own) - dbv(across)) if own and across else 0.0


def least_gain_first(outputs: Sequence[OutputSignal]) -> list[OutputSignal]:
    """Outputs in their order, those of one knob together, the one first that wants the least gain: it sets the knob."""
    place = {knob: n for n, knob in enumerate(dict.fromkeys(map(knob_of, outputs)))}
    return sorted(outputs, key=lambda one: (place[knob_of(one)], -(sensitivity_v(one) or 0.0)))


def on_the_knob(signals: Sequence[SignalResult], output: OutputSignal) -> list[OutputSignal]:
    """All outputs one knob sets, this one among them; the one that wants the least gain first."""
    knob = knob_of(output)
    return least_gain_first([one for signal in signals for one in signal.outputs if knob_of(one) == knob])


def played_down(signals: Sequence[SignalResult], output: OutputSignal) -> float:
    """How many times its own level an output plays, its knob set for another that wants less gain; 1 where it is set
    for this one, or where that is not known.
    """
    least = on_the_knob(signals, output)[0]
    own, its = sensitivity_v(output), sensitivity_v(least)
    return own / its if own and its and less_gain_db(output, least) > ALIKE_DB else 1.0


def shared_knobs(signals: Sequence[SignalResult]) -> Iterator[tuple[OutputSignal, OutputSignal]]:
    """Of every knob that sets several outputs, the one that wants the least gain and the one that wants the most."""
    outputs = [output for signal in signals for output in signal.outputs]
    for _, same in groupby(sorted(outputs, key=knob_of), knob_of):
        ranked = least_gain_first(list(same))
        if len(ranked) > 1:
            yield ranked[0], ranked[-1]
