"""The level ladder of one way: level, limit, room and noise of every stage, who clips first and at which step."""

from __future__ import annotations

from collections import Counter
from math import inf

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import Radio
from ohmack.core.document.handles import at
from ohmack.core.document.interventions import new_radio
from ohmack.core.document.parts import Accessory, PoweredSubwoofer
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.baseline import BASS_BELOW_HZ
from ohmack.core.physics.noise import noise_of_db
from ohmack.core.physics.signal_chain import db_from_voltage_ratio, dbv, rms_from
from ohmack.core.physics.speaker_loads import power_voltage_v
from ohmack.core.physics.volume_map import VolumeMap, volume_map
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.sensitivity_span import span_terms
from ohmack.core.signal.ways import Way, tapped_source

ROOM = Formula("Room", "db", "20 log₁₀(V_limit / V)", lambda v, limit: db_from_voltage_ratio(limit / v), PHYSICS)
ROOM_STATED = Formula(
    "Room", "db", "20 log₁₀(V_limit / V), the limit / √2 where stated as peak",
    lambda v, limit, stated: db_from_voltage_ratio(rms_from(limit, stated) / v), PHYSICS,
)  # fmt: skip
ROOM_OUT = Formula(
    "Room", "db", "20 log₁₀(V_limit / V) − past full power",
    lambda v, limit, past: db_from_voltage_ratio(limit / v) - past, PHYSICS,
)  # fmt: skip
ROOM_CONE = Formula(
    "Room", "db", "20 log₁₀(√(P × Z) / V)",
    lambda v, power, ohm: db_from_voltage_ratio(power_voltage_v(power, ohm) / v), PHYSICS,
)  # fmt: skip
CLEAN_TO = Reading(
    "Clean up to step", "", "the step at which the source has used the room up, by the volume readings",
    lambda both: both[0].step_at(both[0].clean_dbv + both[1]), PRACTICE,
)  # fmt: skip
NOISE = Formula(
    "Noise at the amplifier's input", "dbv", "10 log₁₀ Σ 10^(noise/10)", lambda *levels: noise_of_db(levels), PHYSICS
)
NOISE_BEFORE_PAD = Formula(
    "Noise at the speaker-level input", "dbv", "noise of the line stage + 20 log₁₀(V_speaker / V_line)",
    lambda noise, speaker_v, line_v: noise + db_from_voltage_ratio(speaker_v / line_v), PRACTICE,
)  # fmt: skip
SNR = Formula(
    "Signal over noise at the top volume", "db", "20 log₁₀ V_in − noise",
    lambda v, noise: dbv(v) - noise, PHYSICS,
)  # fmt: skip
SNR_USUAL = Formula(
    "Signal over noise at the usual step", "db",
    "at the top volume − how far below it is listened, the player's own level counted",
    lambda snr, *under: snr - sum(under), PHYSICS,
)  # fmt: skip
SLOPE = Reading(
    "A volume step is", "db", "median slope of all pairs of clean readings", lambda it: it.db_per_step, PRACTICE
)
SCATTER = Reading(
    "Readings scatter by", "db", "1.48 × median deviation from that slope", lambda it: it.scatter_db, PRACTICE
)
UNDER = Reading(
    "Usual step, under the top", "db", "level at the last clean step − level at the usual step, by the readings",
    lambda both: both[0].clean_dbv - both[0].level_dbv(both[1]), PRACTICE,
)  # fmt: skip


@record
class Stage:
    """One rung of the level ladder, all in dBV rms."""

    name: str
    thing_id: str
    level_dbv: float
    clip_dbv: float
    noise_dbv: float | None = None
    level: Figure | None = None  # in volts, with its working
    room: Figure | None = None  # of the source there is none: its limit is where the top volume is
    clean_to: Figure | None = None  # the volume step it stays clean to; None without a map

    @property
    def margin_db(self) -> float:
        """How far below its clipping the stage works at the top volume."""
        return self.clip_dbv - self.level_dbv


@record
class Volume:
    """The volume control of the source, as it was read."""

    found: VolumeMap
    slope: Figure
    scatter: Figure
    under: Figure | None  # how far below the top the usual step is; None while that is not known


@record
class Ladder:
    """A way's rungs, and what they come to."""

    stages: tuple[Stage, ...] = ()
    noise: Figure | None = None
    snr: Figure | None = None
    snr_usual: Figure | None = None

    @property
    def first_to_clip(self) -> Stage | None:
        """The stage behind the source with the least room; a driver heats and does not clip."""
        rungs = [stage for stage in self.stages if stage.room is not None and stage.name != "driver"]
        return min(rungs, key=lambda stage: stage.room.value if stage.room else inf, default=None)


def compute_volume(book: Book) -> Volume | None:
    """The map of the volume control; None where fewer than four readings of one tone above the bass are there,
    or a new radio takes the place of the one they were read at.
    """
    vehicle = book.design.vehicle
    if new_radio(book.design) is not None:
        return None  # what was read is the old one's
    tones = sorted({r.tone_hz for r in vehicle.volume_steps if r.tone_hz >= BASS_BELOW_HZ})
    for tone_hz in tones:
        read = [r for r in vehicle.volume_steps if r.tone_hz == tone_hz and r.voltage_v.value is not None]
        usual_level = Counter(r.source_level for r in read).most_common(1)[0][0] if read else ""
        rows = [r for r in read if r.source_level == usual_level]  # at another level of the player it is another map
        found = volume_map([(r.step, r.voltage_v.value) for r in rows if r.voltage_v.value is not None])
        if found is None:
            continue
        radio = vehicle.radio
        terms = [
            Term(f"step {r.step:g}", r.voltage_v.value, "v", r.voltage_v.basis, None, r.voltage_v.basis.word.lower(),
                 at(r, lambda it: it.voltage_v))
            for r in rows
        ]  # fmt: skip
        usual = radio.usual_step.value
        under = None
        if usual is not None:
            step = book.fact(radio, lambda it: it.usual_step, "usual step")
            under = book.reading("radio/usual_under_db", UNDER, (found, usual), step, *terms)
        return Volume(
            found,
            book.reading("radio/step_db", SLOPE, found, *terms),
            book.reading("radio/step_scatter_db", SCATTER, found, *terms),
            under,
        )
    return None


def ladder_of(
    book: Book, way: Way, figures: dict[str, Figure], load: LoadResult | None, volume: Volume | None
) -> Ladder:
    """The ladder of one way.

    Parameters:
        book: the book of the design.
        way: the way.
        figures: what is known of it: source and output, full and clip of its first output.
        load: its first output; None where nothing hangs on it.
        volume: the map of the volume control; None where it was not read.

    Returns:
        the rungs from the source to the cone with their room, noise and signal over noise; empty while a level is not
        known.

    Source: levels and noise powers add: textbook.
    """
    source, line, arrives = figures["source"], figures["output"], figures["arrives"]
    if source.value is None or line.value is None or arrives.value is None:
        return Ladder()
    scope = f"{load.scope if load else way.amplifier.id}{'' if way.line is None else f'/{way.line.id}'}"
    rungs = _Rungs(book, scope, volume)
    amplifier, converter = way.amplifier, way.converter
    first_id, first = _first(book, way)
    stages = [Stage(first, first_id, dbv(source.value), dbv(source.value), level=source)]
    if converter is not None:
        takes = book.part(converter, lambda it: it.input_limit_v, "input takes up to", "v")
        stated = fixed("stated as", converter.input_stated_as.value, path=at(converter, lambda it: it.input_stated_as))
        gives = book.part(converter, lambda it: it.output_limit_v, "clean output", "v")
        stages += [
            rungs.stage("converter input", converter.id, source, ROOM_STATED, (takes, stated)),
            rungs.stage("converter output", converter.id, line, ROOM, (gives,), converter.noise_dbv),
        ]
    most = _most(book, way, load)
    if isinstance(amplifier, PoweredSubwoofer):
        if most is None or not most.value:
            return Ladder()
        return Ladder((*stages, rungs.stage("subwoofer input", amplifier.id, arrives, ROOM, (most,))))
    noise, snr, usual = _noise(book, scope, way, arrives, volume)
    own_dbv = amplifier.noise_dbv if way.line is not None or noise is None else noise.value
    if most is not None:
        stages.append(rungs.stage("amplifier input", amplifier.id, arrives, ROOM, (most,), own_dbv))
    full, clip = figures.get("full"), figures.get("clip")
    if load and full and clip and full.value and clip.value:
        reached = figures.get("reached") or full
        past = book.policy(lambda it: it.overlap_db, "music past full power", "db")
        behind = None if noise is None or noise.value is None else noise.value + dbv(reached.value) - dbv(arrives.value)
        how, limit = (ROOM_OUT, (clip, past)) if reached is full else (ROOM, (clip,))
        stages.append(rungs.stage("amplifier output", amplifier.id, reached, how, limit, behind))
        if load.allowed_w is not None:
            stages.append(rungs.stage("driver", load.link.to_id, reached, ROOM_CONE, (load.allowed, load.load)))
    return Ladder(tuple(stages), noise, snr, usual)


def _first(book: Book, way: Way) -> tuple[str, str]:
    """(the thing a way begins at, what it is called on the ladder)."""
    radio = book.design.vehicle.radio
    if way.tap is None:
        of = "adapter" if isinstance(way.radio, Accessory) else "radio"
        return (way.radio.id if way.radio else radio.id), f"{of} line output"
    tapped = tapped_source(book.design, way.tap)
    return ("radio", "radio output") if isinstance(tapped, Radio) else (tapped.id, "factory amplifier output")


def _most(book: Book, way: Way, load: LoadResult | None) -> Term | None:
    """The least sensitive setting of the input a way goes into: beyond it the input clips."""
    part = way.amplifier
    if way.line is None:
        return book.part(part, lambda it: it.speaker_level_high_v, "speaker-level input takes up to", "v")
    return span_terms(book, part, load.link.channel if load else 1, "")[1]


def _noise(
    book: Book, scope: str, way: Way, line: Figure, volume: Volume | None
) -> tuple[Figure | None, Figure | None, Figure | None]:
    """(noise at the amplifier's input, signal over it at the top, at the usual step)."""
    part = way.amplifier
    if not isinstance(part, Amplifier):
        return None, None, None
    levels = [book.part(part, lambda it: it.noise_dbv, "input noise", "dbv")]
    if way.line is None:
        noise = book.figure(f"{scope}/noise_dbv", NOISE_BEFORE_PAD, *levels, *_pad(book, part))
        return _over_noise(book, scope, line, noise, volume)
    if way.converter is not None:
        levels.append(book.part(way.converter, lambda it: it.noise_dbv, "output noise", "dbv"))
    return _over_noise(book, scope, line, book.figure(f"{scope}/noise_dbv", NOISE, *levels), volume)


def _pad(book: Book, part: Amplifier) -> tuple[Term, Term]:
    """What speaker level is padded down by before the line stage: its most sensitive setting on either input, the least
    sensitive ones where the papers give that of the line input alone.
    """
    if part.speaker_level_low_v is None:
        return (
            book.part(part, lambda it: it.speaker_level_high_v, "speaker-level input takes up to", "v"),
            book.part(part, lambda it: it.sensitivity_high_v, "line input, least sensitive", "v"),
        )
    return (
        book.part(part, lambda it: it.speaker_level_low_v, "speaker-level input, most sensitive", "v"),
        book.part(part, lambda it: it.sensitivity_low_v, "line input, most sensitive", "v"),
    )


def _over_noise(
    book: Book, scope: str, line: Figure, noise: Figure, volume: Volume | None
) -> tuple[Figure, Figure, Figure | None]:
    """(noise, signal over it at the top, at the usual step)."""
    snr = book.figure(f"{scope}/snr_db", SNR, line, noise)
    under = volume.under if volume else None
    radio = book.design.vehicle.radio
    player: tuple[Term, ...] = ()
    if radio.player_under_db.value:
        player = (book.fact(radio, lambda it: it.player_under_db, "phone or player below its full", "db"),)
    return noise, snr, book.figure(f"{scope}/snr_usual_db", SNR_USUAL, snr, under, *player) if under else None


class _Rungs:
    """Makes the rungs of one way, each with its figures."""

    def __init__(self, book: Book, scope: str, volume: Volume | None) -> None:
        self._book, self._scope, self._volume = book, scope, volume

    def stage(
        self,
        name: str,
        thing_id: str,
        level: Figure,
        formula: Formula,
        limit: tuple[Term | Figure, ...],
        noise_dbv: float | None = None,
    ) -> Stage:
        """One rung: its room is the formula of level and limit."""
        own = f"{self._scope}/{name.replace(' ', '_')}"
        room = self._book.figure(f"{own}_room_db", formula, level, *limit, name=f"Room, {name}")
        level_dbv, room_db = dbv(level.value), room.value if room.value is not None else inf
        past_db = limit[-1].value if formula is ROOM_OUT else 0.0
        clean_to = None
        if self._volume is not None and room.value is not None and name != "driver":
            found = (self._volume.found, room_db)
            clean_to = self._book.reading(
                f"{own}_clean_to", CLEAN_TO, found, room, self._volume.slope, name=f"Clean up to step, {name}"
            )
        return Stage(name, thing_id, level_dbv, level_dbv + room_db + past_db, noise_dbv, level, room, clean_to)
