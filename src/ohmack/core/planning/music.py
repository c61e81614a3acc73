"""Music read in: how loud it is becomes part of how the car is used."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at_the
from ohmack.core.document.use import MUSIC_STEP_S, Music, Use
from ohmack.core.errors import OutOfRange
from ohmack.core.physics.envelope import Floats, envelopes

LEAST_S, MOST_S = 2.0, 60.0


def take_music(name: str, samples: Floats, rate_hz: float) -> Sequence[Edit]:
    """The edits that keep how loud a piece of music is.

    Parameters:
        name: what it is called.
        samples: shape (n,) or (n, channels), full scale 1.
        rate_hz: samples a second [hz].

    Returns:
        one edit; of more than a minute the first minute is kept.

    Raises:
        OutOfRange: shorter than two seconds.
    """
    seconds = len(samples) / rate_hz
    if seconds < LEAST_S:
        raise OutOfRange("length of the music", seconds, "s", f"at least {LEAST_S:g} s")
    whole, bass = envelopes(samples[: round(MOST_S * rate_hz)], rate_hz, MUSIC_STEP_S)
    loud = [tuple(min(2000, round(1000 * float(v))) for v in values) for values in (whole, bass)]
    music = Music(name=name or "Music", whole=loud[0][:1200], bass=loud[1][:1200])
    return (Edit(path=at_the(Use, lambda it: it.music), value=music.model_dump(mode="json")),)


def average_percent(design: Design) -> float | None:
    """The average power of the music over full power, as the gains push it; None where none is read in."""
    music = design.use.music
    if music is None:
        return None
    gain = 10 ** (design.policy.overlap_db / 10)
    return 100 * sum(min(1.0, v / 1000 * gain) for v in music.whole) / len(music.whole)
