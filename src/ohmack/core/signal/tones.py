"""The tones a job is set and proved with: what each is for, its level, and its samples."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ohmack.core.document import Design
from ohmack.core.physics import tones as made
from ohmack.core.record import record
from ohmack.core.signal.levels import MIDDLE_TONE_HZ, SignalResult
from ohmack.core.wording import amount, listed, trimmed

SECONDS = 20.0
NOISE_DBFS, SWEEP_DBFS, PIP_DBFS, PULSE_DBFS = -20.0, -20.0, -20.0, -10.0


@record
class Tone:
    """One file: its name, what it is, what it is for, and what it is made of."""

    name: str
    words: str
    use: str
    kind: str  # sine, noise, sweep, channels, pulses
    level_dbfs: float
    hz: float = 0.0


def samples_of(tone: Tone) -> tuple[made.Floats, ...]:
    """The samples of a tone, one row a channel.

    Parameters:
        tone: one of a job's.

    Returns:
        samples between −1 and 1 at the rate of the tones.

    Source: see `physics.tones`.
    """
    match tone.kind:
        case "sine":
            return (made.sine(tone.hz, tone.level_dbfs, SECONDS),)
        case "noise":
            return (made.pink_noise(tone.level_dbfs, SECONDS),)
        case "sweep":
            return (made.sweep(20.0, 20_000.0, tone.level_dbfs, SECONDS),)
        case "channels":
            return made.channel_names(tone.level_dbfs)
        case _:
            return (made.polarity_pulses(tone.level_dbfs, SECONDS),)


def tones_of(design: Design, signals: Sequence[SignalResult]) -> tuple[Tone, ...]:
    """The tones of a job.

    Parameters:
        design: the design; its policy names tone and level.
        signals: its signal ways, whose outputs are set with them.

    Returns:
        the tones the gains are set with, those that find where the source clips; noise, sweep, channels, polarity.

    Source: which tone for what: common practice.
    """
    return tuple(_tones(design, signals))


def _tones(design: Design, signals: Sequence[SignalResult]) -> Iterator[Tone]:
    policy = design.policy
    by_hz: dict[float, list[str]] = {}
    for signal in signals:
        for output in signal.outputs:
            by_hz.setdefault(output.tone_hz(policy.tone_hz), []).append(output.load.channel_name)
        if not signal.outputs:
            by_hz.setdefault(policy.tone_hz, []).append(signal.amplifier.name)
    for hz, names in by_hz.items():
        yield _sine(hz, policy.tone_dbfs, f"Set the gain of {listed(list(dict.fromkeys(names)))} with it.")
    for hz in dict.fromkeys((policy.tone_hz, MIDDLE_TONE_HZ)):
        if policy.tone_dbfs != 0.0 or hz not in by_hz:
            yield _sine(hz, 0.0, "Find the step at which the radio clips: nothing recorded is louder.")
    noise, sweep = (f"at {amount(level, 'dbfs')}" for level in (NOISE_DBFS, SWEEP_DBFS))
    yield Tone("pink-noise", f"Pink noise {noise}", "Balance speakers by ear or by a meter.", "noise", NOISE_DBFS)
    yield Tone("sweep", f"Sweep, 20 Hz to 20 kHz {sweep}", "Hear rattles, holes and peaks.", "sweep", SWEEP_DBFS)
    yield Tone("channels", "Left once, right twice", "Left is left, all the way through.", "channels", PIP_DBFS)
    pushes = "A woofer moves out at every pulse, or its polarity is reversed. Never on a tweeter."
    yield Tone("polarity", "Pulses that only push", pushes, "pulses", PULSE_DBFS)


def tone_named(hz: float, level_dbfs: float) -> str:
    """The name of a sine's file."""
    return f"{trimmed(hz)}-hz{f'-{abs(level_dbfs):g}-under' if level_dbfs else '-full'}".replace(".", "-")


def _sine(hz: float, level_dbfs: float, use: str) -> Tone:
    name = tone_named(hz, level_dbfs)
    words = f"{amount(hz, 'hz')} at {amount(level_dbfs, 'dbfs')}"
    return Tone(name, words, use, "sine", level_dbfs, hz)
