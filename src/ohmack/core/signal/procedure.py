"""How gains are set, step by step, by the shop's school: tone, knob, terminal, what must show, then the check."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from math import log10

from ohmack.core.document import Design
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.document.policy import GainSchool, Policy
from ohmack.core.figures.figure import Figure
from ohmack.core.record import record
from ohmack.core.signal.balance import Balanced, balance_words, kept_words
from ohmack.core.signal.crossovers import Crossover, filters_by_device, flat_first
from ohmack.core.signal.knobs import ALIKE_DB, Knob, knob_of, less_gain_db, on_the_knob
from ohmack.core.signal.levels import OutputSignal, SignalResult
from ohmack.core.signal.tones import tone_named
from ohmack.core.signal.ways import step_of, volume_of
from ohmack.core.wording import listed

WITHIN = 0.03  # of what a meter must show, a quarter of a decibel: common practice for a true-rms meter at these tones
BACK_OFF = "an eighth of a turn"  # after the first flattening; common practice
BY_EAR = "70 to 75 %"  # of the volume scale; common practice


@record
class GainStep:
    """One step: what is done, with which tone, what must show there, and how near."""

    words: str
    about: str  # the thing it is done at
    tone: str = ""  # name of the tone's file
    shows: Figure | None = None
    low_v: float | None = None
    high_v: float | None = None
    check: bool = False


@record
class SchoolLevel:
    """Where a school ends for one output: volts there, and against the shop's own [db]."""

    school: GainSchool
    volts: float
    against_db: float


def procedure(
    design: Design,
    signals: Sequence[SignalResult],
    crossovers: Sequence[Crossover],
    balance: Sequence[Balanced] = (),
) -> tuple[GainStep, ...]:
    """The steps that set every gain of a design.

    Parameters:
        design: the design; its policy names the school, the tone and how far music may push.
        signals: its signal ways with their figures.
        crossovers: the filters, which are set first.
        balance: the bands of every corner, which are made even last.

    Returns:
        steps in the order they are done; none without a signal way.

    Source: the order, and what each school does, are common practice.
    """
    return tuple(_steps(design, signals, crossovers, balance)) if signals else ()


def _steps(
    design: Design, signals: Sequence[SignalResult], crossovers: Sequence[Crossover], balance: Sequence[Balanced]
) -> Iterator[GainStep]:
    radio, policy = design.vehicle.radio, design.policy
    knobs = [part.name for part in {s.amplifier.id: s.amplifier for s in signals}.values()]
    yield GainStep(
        f"Gain of {listed(knobs)} all the way down, a bass knob at its maximum: it may only take away. Radio flat,"
        " fader and balance in the middle, loudness and boosts off.",
        radio.id,
    )
    for device_id, device, said in filters_by_device(crossovers):
        yield GainStep(f"Filters in {device}: {said}.", device_id)
    if policy.gain_school is GainSchool.EAR:
        yield GainStep(f"Volume to {BY_EAR} of its scale, music you know.", radio.id)
    else:
        source = volume_of(design, signals[0].way) if signals else radio
        step = step_of(source)
        yield GainStep(
            f"Volume to the last clean step, {step}; leave it there until the end."
            if step
            else "Find the last clean step: full-scale tone, scope or distortion detector at the output, up until it"
            " flattens, one step back. Write it into the survey.",
            source.id,
            "" if step else tone_named(1000.0, 0.0),
        )
    done: set[str] = set()
    for signal, output, first in _by_knob(signals):
        if signal.converter is not None and signal.converter.id not in done:
            done.add(signal.converter.id)
            yield from _converter(policy.gain_school, signal, policy, crossovers)
        if output is not None and first is not None:
            if output is first:
                yield from _output(policy.gain_school, output, policy, crossovers)
            else:
                yield _on_the_same_knob(output, first, policy, crossovers)
            yield from _filters_back(output, policy, crossovers)
        if isinstance(signal.amplifier, PoweredSubwoofer):
            yield _powered(signal, signal.amplifier, policy.tone_hz, policy.tone_dbfs)
    outputs = [output.load for signal in signals for output in signal.outputs]
    if kept := kept_words(outputs):
        yield GainStep(f"Turn down where the bands are split, as kept: {'; '.join(kept)}.", outputs[0].amplifier.id)
    if down := balance_words(balance):
        yield GainStep(
            "To make the bands even, turn down where they are split, in the processor or the amplifier:"
            f" {'; '.join(down)}. The gains stay; pink noise and an analyser at the head say the rest.",
            balance[0].load.amplifier.id,
        )
    yield GainStep(
        "Volume down, speakers back on, music: up to the last clean step nothing may crackle. Mark the knobs and write"
        " the readings down.",
        radio.id,
        check=True,
    )


def _by_knob(
    signals: Sequence[SignalResult],
) -> Iterator[tuple[SignalResult, OutputSignal | None, OutputSignal | None]]:
    """Every way with an output it feeds and the one that sets its knob, those of one knob together whatever feeds them;
    a way that feeds no channel by itself.
    """
    ways = {output.load.scope: signal for signal in signals for output in signal.outputs}
    turned: set[Knob] = set()
    for signal in signals:
        if not signal.outputs:
            yield signal, None, None
        for output in signal.outputs:
            if (knob := knob_of(output)) in turned:
                continue
            turned.add(knob)
            first, *others = on_the_knob(signals, output)
            for same in (first, *others):
                yield ways[same.load.scope], same, first


def _window(figure: Figure | None) -> tuple[float | None, float | None]:
    if figure is None or figure.value is None:
        return None, None
    return figure.value * (1 - WITHIN), figure.value * (1 + WITHIN)


def _converter(
    school: GainSchool, signal: SignalResult, policy: Policy, crossovers: Sequence[Crossover]
) -> Iterator[GainStep]:
    converter = signal.converter
    if converter is None:
        return
    hz = signal.outputs[0].tone_hz(policy.tone_hz) if signal.outputs else policy.tone_hz
    tone = tone_named(hz, policy.tone_dbfs)
    flat = flat_first(crossovers, signal.outputs[0].load.scope, hz, own=False) if signal.outputs else ""
    shows = signal.outputs[0].figures.get("tone_in") if signal.outputs else None
    if school is GainSchool.LIGHT:
        yield GainStep(f"{converter.name}: up until its clip light just comes on, and back until it stays out.",
                       converter.id, tone)  # fmt: skip
    elif school is not GainSchool.EAR:
        low, high = _window(shows)
        yield GainStep(
            " ".join([*([flat] if flat else []), f"{converter.name}: up until its line output reads"]),
            converter.id, tone, shows, low, high,
        )  # fmt: skip


def _output(
    school: GainSchool, output: OutputSignal, policy: Policy, crossovers: Sequence[Crossover]
) -> Iterator[GainStep]:
    load, tone_dbfs = output.load, policy.tone_dbfs
    name, hz = load.channel_name, output.tone_hz(policy.tone_hz)
    flat = flat_first(crossovers, load.scope, hz)
    off = " ".join([f"Speaker off {name}, meter on its terminals.", *([flat] if flat else [])])
    target = output.figures.get("target")
    if school is GainSchool.METER:
        low, high = _window(target)
        yield GainStep(f"{off} Gain up until it reads", load.amplifier.id, tone_named(hz, tone_dbfs), target, low, high)
        yield GainStep(
            f"{name}: a scope shows a round wave there; if it is flat, turn back until it is round.",
            load.amplifier.id, tone_named(hz, tone_dbfs), check=True,
        )  # fmt: skip
    elif school is GainSchool.SCOPE:
        clip = output.figures.get("clip")
        yield GainStep(
            f"Speaker off {name}, scope or distortion detector on its terminals. {f'{flat} ' if flat else ''}Gain up"
            f" until the wave just flattens, then back {BACK_OFF}. It flattens near",
            load.amplifier.id, tone_named(hz, 0.0), clip,
        )  # fmt: skip
        if target is not None:
            yield GainStep(f"{name}: a meter must not show more than", load.amplifier.id, tone_named(hz, 0.0), target,
                           check=True)  # fmt: skip
    elif school is GainSchool.LIGHT:
        yield GainStep(
            f"{name}: {f'{flat} ' if flat else ''}Gain up until its clip light, or the converter's, flickers on the"
            f" loudest passage, then back {BACK_OFF}.",
            load.amplifier.id,
            tone_named(hz, tone_dbfs),
        )
        yield GainStep(f"{name}: a meter must not show more than", load.amplifier.id, "", target, check=True)
    else:
        yield GainStep(
            f"{name}: gain up with music until it is even with the rest and still clean, then back {BACK_OFF}.",
            load.amplifier.id,
        )
        yield GainStep(
            f"{name}: {f'{flat} ' if flat else ''}With the tone a meter must not show more than", load.amplifier.id,
            tone_named(hz, tone_dbfs), target, check=True,
        )  # fmt: skip


def _filters_back(output: OutputSignal, policy: Policy, crossovers: Sequence[Crossover]) -> Iterator[GainStep]:
    """What was flat for a reading is filtered again."""
    load, hz = output.load, output.tone_hz(policy.tone_hz)
    if flat_first(crossovers, load.scope, hz):
        yield GainStep(
            f"{load.channel_name}: filters back on before its speaker is. The tone falls as far as they were to take"
            " it.",
            load.amplifier.id, tone_named(hz, policy.tone_dbfs), check=True,
        )  # fmt: skip


def _on_the_same_knob(
    output: OutputSignal, first: OutputSignal, policy: Policy, crossovers: Sequence[Crossover]
) -> GainStep:
    """A further output of a knob that is set already: what it shows there, and what it must not."""
    load, hz = output.load, output.tone_hz(policy.tone_hz)
    tone, flat = tone_named(hz, policy.tone_dbfs), flat_first(crossovers, output.load.scope, hz)
    head = " ".join(
        [
            f"{load.channel_name} has the same knob: leave it. Speaker off, meter on its terminals.",
            *([flat] if flat else []),
        ]
    )
    target, alike = output.figures.get("target"), less_gain_db(output, first) <= ALIKE_DB
    if policy.gain_school is GainSchool.METER and alike:
        low, high = _window(target)
        return GainStep(f"{head} It reads", load.amplifier.id, tone, target, low, high, check=True)
    return GainStep(f"{head} It must not show more than", load.amplifier.id, tone, target, check=True)


def _powered(signal: SignalResult, part: PoweredSubwoofer, tone_hz: float, tone_dbfs: float) -> GainStep:
    shows = signal.figures.get("sensitivity")
    return GainStep(
        f"{part.name}: its sensitivity, where it is marked in volts; else from lowest up until the bass is even with"
        " the doors, and stop where it turns hard. Marked",
        part.id, tone_named(tone_hz, tone_dbfs), shows,
    )  # fmt: skip


def school_levels(output: OutputSignal, school: GainSchool) -> tuple[SchoolLevel, ...]:
    """Where the schools end on one output.

    Parameters:
        output: the output with its figures.
        school: the shop's own, against which the others are given.

    Returns:
        the meter's target and the amplifier's limit, which is where scope and clip light end, in volts with a
        full-scale tone; none where they are not known. By ear there is no figure.

    Source: 20 log₁₀ of voltage ratios: textbook.
    """
    full, clip = output.figures.get("full"), output.figures.get("clip")
    if full is None or clip is None or full.value is None or clip.value is None:
        return ()
    ends = {
        GainSchool.METER: float(full.value),
        GainSchool.SCOPE: float(clip.value),
        GainSchool.LIGHT: float(clip.value),
    }
    own = ends.get(school, ends[GainSchool.METER])
    return tuple(SchoolLevel(one, volts, 20 * log10(volts / own)) for one, volts in ends.items())
