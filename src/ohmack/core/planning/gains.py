"""Gains moved on the ladder: a level drawn up or down becomes the knob it is set with."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.errors import UnknownName
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.physics.signal_chain import voltage_ratio_from_db
from ohmack.core.signal.knobs import on_the_knob
from ohmack.core.signal.levels import OutputSignal, SignalResult

STEP_DB = 0.5  # one press of an arrow key


def raised(evaluation: Evaluation, thing_id: str, rise_db: float) -> tuple[Edit, ...]:
    """The edits that raise what leaves a converter or an output.

    Parameters:
        evaluation: the design as it is.
        thing_id: id of a converter, or of a speaker link at an amplifier's output.
        rise_db: how far up, down below zero [db].

    Returns:
        edits that keep the knob there, as far as it can be turned; of an amplifier for every output on the same knob.

    Raises:
        UnknownName: nothing of that id has a gain that is known yet.
    """
    for signal in evaluation.results.signals:
        converter, gain, span = signal.converter, signal.figures.get("gain"), signal.gain_span_db
        if converter is not None and converter.id == thing_id and span and gain is not None and gain.value is not None:
            low_db, high_db = span
            value = round(min(max(gain.value + rise_db, low_db), high_db), 2)
            return (Edit(path=at(converter, lambda it: it.gain_kept_db), value=value),)
        for output in signal.outputs:
            if output.load.link.id == thing_id:
                return _turned(evaluation.results.signals, signal, output, rise_db)
    raise UnknownName("gain", thing_id)


def kept_at(evaluation: Evaluation, link_id: str, volts: object) -> tuple[Edit, ...]:
    """The edits that keep a gain knob where it is.

    Parameters:
        evaluation: the design as it is.
        link_id: id of a speaker link at one of the outputs the knob sets.
        volts: the sensitivity it is kept at [v]; None to let it be set.

    Returns:
        an edit a speaker link on that knob.

    Raises:
        UnknownName: nothing of that id has a gain.
    """
    signals = evaluation.results.signals
    outputs = (output for signal in signals for output in signal.outputs)
    own = next((one for one in outputs if link_id in {link.id for link in one.load.links}), None)
    if own is None:
        raise UnknownName("gain", link_id)
    links = (link for output in on_the_knob(signals, own) for link in output.load.links)
    return tuple(Edit(path=at(link, lambda it: it.sensitivity_kept_v), value=volts) for link in links)


def _turned(
    signals: Sequence[SignalResult], signal: SignalResult, output: OutputSignal, rise_db: float
) -> tuple[Edit, ...]:
    now = output.load.link.sensitivity_kept_v or output.figures["sensitivity"].value
    if now is None:
        raise UnknownName("gain", output.load.link.id)
    channel = output.load.link.channel
    most_v, least_v = signal.way.span_of(channel)
    value = float(f"{min(max(now / voltage_ratio_from_db(rise_db), most_v), least_v):.3g}")
    links = (link for same in on_the_knob(signals, output) for link in same.load.links)
    return tuple(Edit(path=at(link, lambda it: it.sensitivity_kept_v), value=value) for link in links)
