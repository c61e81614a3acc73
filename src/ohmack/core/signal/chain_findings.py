"""Rules about what stands between the source and the amplifier: transformers, pads, audio sensing, cables, hum."""

from __future__ import annotations

from collections.abc import Iterator
from math import isinf
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, TapLink
from ohmack.core.document.parts import Converter
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, stop, watch
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.line_loading import high_pass_loss_db
from ohmack.core.physics.signal_chain import dbv
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.levels import SignalResult
from ohmack.core.wording import amount, count, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

BASS_HZ = 30.0  # the lowest note a subwoofer is wanted for, where no subsonic filter says otherwise; common practice
LOST_DB = 1.0  # of bass: heard against the rest; common practice
TREBLE_HZ = 20_000.0
HUM_DB = 70.0  # signal over hum at the top volume: at a usual step 20 dB less are left; common practice
QUIET_DB = 30.0  # how far quiet passages are below the loudest, common practice


@rule("bass-lost-in-transformer", "signal", PHYSICS)
def bass_lost_in_transformer(results: Results) -> Iterator[Draft]:
    """A converter that works by transformers stands before a subwoofer."""
    seen: set[str] = set()
    for signal in results.signals:
        converter, bass = signal.converter, _bass(signal)
        if converter is None or not bass or converter.id in seen or converter.restores_bass:
            continue
        if converter.low_hz is None and converter.principle != "transformers":
            continue
        seen.add(converter.id)
        names = bass[0].driven_name
        if converter.low_hz is None:
            yield watch(
                at(converter, lambda it: it.low_hz),
                f"{converter.name} works by transformers: how low it plays is not on file",
                f"Small transformers lose bass and saturate there, before {names} of all things.",
                Remedy("Enter it", path=at(converter, lambda it: it.low_hz)),
            )
            continue
        crossover = results.crossover_of(bass[0].scope)
        subsonic = crossover.high_pass.value if crossover and crossover.high_pass else None
        wanted_hz = subsonic or BASS_HZ
        lost_db = high_pass_loss_db(wanted_hz, converter.low_hz)
        if lost_db > LOST_DB:
            yield watch(
                at(converter, lambda it: it.low_hz),
                f"{converter.name} takes {amount(lost_db, 'db')} off at {wanted_hz:.0f} Hz, before {names}",
                f"It is 3 dB down at {amount(converter.low_hz, 'hz')}. Take an electronic one, or one whose"
                " transformers go lower.",
                find_part("Choose another converter", "converter"),
            )


def _bass(signal: SignalResult) -> list[LoadResult]:
    return [o.load for o in signal.outputs if any(d.is_subwoofer for d in o.load.driven)]


@rule("pad-grounds-bridged", "plan", PHYSICS)
def pad_grounds_bridged(results: Results) -> Iterator[Draft]:
    """Resistors alone join the negative of a bridged output to the line's shield, and so to the body."""
    design = results.design
    for tap in design.links_of(TapLink):
        part = design.part(tap.to_id)
        if not isinstance(part, Converter) or part.principle != "resistors":
            continue
        bridged = design.vehicle.source_of(tap.from_ids[0]).bridged.value
        into_line = any(line.from_id == part.id for line in design.links_of(LineLink))
        if bridged is False or not into_line:
            continue
        known = "" if bridged else " Whether the outputs are bridged is not known; nearly all are."
        yield stop(
            part.id,
            f"{part.name} grounds a bridged output",
            "It is nothing but resistors: the negative comes through to the screen of the line and to the body, and"
            f" the radio's output stage dies. Take one with transformers or a differential input.{known}",
            find_part("Choose another converter", "converter"),
        )


@rule("audio-sensing", "signal", PRACTICE)
def audio_sensing(results: Results) -> Iterator[Draft]:
    """What switches on by audio sleeps at the volume it is listened at, or in quiet passages."""
    volume, design = results.volume, results.design
    for converter in design.parts_of(Converter):
        if not converter.senses_audio or converter.sense_v is None:
            continue
        signal = next((s for s in results.signals if s.converter is not None and s.converter.id == converter.id), None)
        source_v = signal.figures["source"].value if signal is not None else None
        if source_v is None:
            continue
        path, needs = at(converter, lambda it: it.sense_v), dbv(converter.sense_v)
        under = volume.under if volume is not None else None
        under_db = under.value if under is not None else None
        if volume is None or under_db is None:
            if dbv(source_v) - QUIET_DB < needs:
                yield watch(
                    path,
                    f"{converter.name} wakes from {amount(converter.sense_v, 'v')}: it sleeps in quiet passages",
                    f"Even at the top volume they come to {amount(dbv(source_v) - QUIET_DB, 'dbv')},"
                    f" {amount(needs, 'dbv')} are needed. Use its switch-on wire.",
                    Remedy("See the switch-on", sheet="plan"),
                )
            continue
        wakes = volume.found.step_at(volume.found.clean_dbv + needs - dbv(source_v))
        usual_dbv = dbv(source_v) - under_db
        if usual_dbv < needs:
            step = "never" if isinf(wakes) else f"from step {trimmed(round(wakes, 1))}"
            yield stop(
                path,
                f"{converter.name} stays asleep at the usual step",
                f"It wakes from {amount(converter.sense_v, 'v')}, {step}. Use its switch-on wire.",
                Remedy("See the switch-on", sheet="plan"),
            )
        elif usual_dbv - QUIET_DB < needs:
            yield watch(
                path,
                f"{converter.name} drops out in quiet passages at the usual step",
                f"They come to {amount(usual_dbv - QUIET_DB, 'dbv')}, {amount(needs, 'dbv')} are needed. Use its"
                " switch-on wire, or the longest hold it has.",
                Remedy("See the switch-on", sheet="plan"),
            )


@rule("cable-takes-treble", "signal", PHYSICS)
def cable_takes_treble(results: Results) -> Iterator[Draft]:
    """A line's cable is long for what drives it."""
    for line in results.lines:
        if line.cable is None or line.cable.value is None or line.cable.value >= 2 * TREBLE_HZ:
            continue
        draft = watch if line.cable.value < TREBLE_HZ else note
        yield draft(
            line.cable.id,
            f"{line.way.title}: its line cable takes 3 dB off from {line.cable.value / 1000:.1f} kHz",
            "A source of high impedance on a long cable loses treble. Put the converter nearer, or take one with a"
            " line driver.",
            Remedy("Look at the run", path=at(line.line)),
        )


@rule("hum-expected", "signal", PRACTICE)
def hum_expected(results: Results) -> Iterator[Draft]:
    """The grounds at both ends of a line are far apart, and nothing rejects what is between them."""
    told: dict[str, int] = {}
    for line in results.lines:
        told[line.way.amplifier.id] = told.get(line.way.amplifier.id, 0) + 1
    seen: set[str] = set()
    for line in results.lines:
        over = line.over_hum
        if over is None or over.value is None or over.value >= HUM_DB or line.way.amplifier.id in seen:
            continue
        seen.add(line.way.amplifier.id)
        apart_v = line.apart.value if line.apart is not None else 0.0
        pairs = told[line.way.amplifier.id]
        yield watch(
            over.id,
            f"{line.way.amplifier.name}: hum at most {amount(over.value, 'db')} below the music's top",
            f"Its ground stands {1000 * apart_v:.0f} mV from the source's at full level"
            + (f", {line.rejected_by} counted." if line.rejected_by else ", and nothing on file rejects that.")
            + " In order: a shorter, thicker ground and a bare point; the source grounded at the same point; a"
            f" differential input; last {count(pairs, 'isolator')}, one a pair, which costs bass.",
            Remedy("See the grounds", sheet="supply"),
        )
