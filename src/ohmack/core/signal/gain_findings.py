"""Rules about gains: knobs kept where they are, and the volume control they are set against."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.factory import Radio, StatedAs
from ohmack.core.document.facts import Basis, Verified
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.physics.signal_chain import dbv, voltage_ratio_from_db
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.knobs import ALIKE_DB, on_the_knob, wanted_v
from ohmack.core.signal.ladder import Volume
from ohmack.core.signal.levels import OutputSignal
from ohmack.core.wording import amount, listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

GIVEN_AWAY_DB = 3.0  # of signal over noise, or of level: worth a word; common practice
TOO_FAR_DB, A_LITTLE_DB = 3.0, 0.5  # past what the shop allows
AGREE_DB = 1.5  # between a level on file and the readings of the volume control
WORKING_SNR_DB = 60.0  # at the usual step hiss is heard below it in a parked car, common practice


@rule("gain-kept", "signal", PRACTICE)
def gain_kept(results: Results) -> Iterator[Draft]:
    """A converter's gain is kept where it cannot be, where it clips, or where signal is given away."""
    seen: set[str] = set()
    for signal in results.signals:
        converter = signal.converter
        if converter is None or converter.gain_kept_db is None or converter.id in seen:
            continue
        seen.add(converter.id)
        path = at(converter, lambda it: it.gain_kept_db)
        let_go = Remedy("Let Ohmack choose it", (set_to(path, None),))
        low_db, high_db = signal.gain_span_db or (converter.gain_kept_db, converter.gain_kept_db)
        kept = amount(converter.gain_kept_db, "db")
        if not low_db - 0.05 <= converter.gain_kept_db <= high_db + 0.05:
            yield stop(
                path,
                f"{converter.name} cannot be kept at {kept}",
                f"Its gain goes from {amount(low_db, 'db')} to {amount(high_db, 'db')}.",
                let_go,
            )
            continue
        output_v, best = signal.figures["output"].value, next(iter(signal.settings), None)
        if output_v is None or best is None:
            continue
        if output_v > converter.output_limit_v * 1.0005:
            yield stop(
                path,
                f"{converter.name} clips at the gain it is kept at, {kept}",
                f"{amount(output_v, 'v')} against {amount(converter.output_limit_v, 'v')} clean.",
                let_go,
            )
        elif best.fits and dbv(best.output_v) - dbv(output_v) > GIVEN_AWAY_DB:
            given = dbv(best.output_v) - dbv(output_v)
            yield note(
                path,
                f"{converter.name} is kept {amount(given, 'db')} below what it could give",
                f"So much more noise stands against the music. {amount(best.gain_db, 'db')} would be clean too.",
                let_go,
            )


@rule("sensitivity-kept", "signal", PRACTICE)
def sensitivity_kept(results: Results) -> Iterator[Draft]:
    """An amplifier's knob is kept where music clips, where the driver gets too much, or far below full power."""
    overlap_db = results.design.policy.overlap_db
    for signal in results.signals:
        for output in signal.outputs:
            past = output.figures.get("past")
            kept_v = output.load.link.sensitivity_kept_v
            if past is None or past.value is None or kept_v is None:
                continue
            path = at(output.load.link, lambda it: it.sensitivity_kept_v)
            links = (link for one in on_the_knob(results.signals, output) for link in one.load.links)
            free = tuple(set_to(at(link, lambda it: it.sensitivity_kept_v), None) for link in links)
            let_go = Remedy("Let Ohmack set it", free)
            name, over_db = output.load.channel_name, past.value - overlap_db
            should = output.figures["sensitivity"].value
            better = f" {amount(should, 'v')} would be right." if should is not None else ""
            if over_db > A_LITTLE_DB:
                draft = stop if over_db > TOO_FAR_DB else watch
                allowed = f", {amount(overlap_db, 'db')} are allowed" if overlap_db else ""
                yield draft(
                    path,
                    f"{name}, kept at {amount(kept_v, 'v')}: {amount(past.value, 'db')} past full power",
                    f"At the top volume it clips or the driver gets more than it takes{allowed}.{better}",
                    let_go,
                )
            elif over_db < -GIVEN_AWAY_DB and (least := _set_for_another(results, output)) is not None:
                yield note(
                    path,
                    f"{name}, its knob set for {least.load.channel_name}: {amount(-past.value, 'db')} below full power",
                    f"One knob sets both, and {least.load.driven_name} takes no more. A channel of another knob would"
                    " give it what it could.",
                    Remedy("Look at its channel", path=at(output.load.link, lambda it: it.channel)),
                )
            elif over_db < -GIVEN_AWAY_DB:
                yield note(
                    path,
                    f"{name}, kept at {amount(kept_v, 'v')}: {amount(-past.value, 'db')} below full power",
                    f"It never gives what it could.{better}",
                    let_go,
                )


def _set_for_another(results: Results, output: OutputSignal) -> OutputSignal | None:
    """The output on the same knob that wants no more gain than it is kept at; None where none is."""
    kept_v, others = output.load.link.sensitivity_kept_v, on_the_knob(results.signals, output)
    for other in others:
        should = wanted_v(other)
        same = other.load.link.sensitivity_kept_v == kept_v
        if other is not output and same and should and kept_v and kept_v <= should * voltage_ratio_from_db(ALIKE_DB):
            return other
    return None


@rule("volume-contradiction", "signal", PRACTICE)
def volume_contradiction(results: Results) -> Iterator[Draft]:
    """The level on file is not the one the volume readings come to at the last clean step; or a reading does not
    fit.
    """
    volume = results.volume
    if volume is None:
        return
    radio = results.design.vehicle.radio
    source = results.sources.get(radio.id)
    steps = at_the(Vehicle, lambda it: it.volume_steps)
    if volume.found.outliers:
        which = listed([trimmed(step) for step in volume.found.outliers])
        yield note(
            steps,
            f"The reading at step {which} does not fit the others",
            "It was left out: read it again, the meter may have been in another range.",
            Remedy("See the readings", sheet="baseline"),
        )
    if source is None or source.value is None:
        return
    apart = volume.found.clean_dbv - dbv(source.value)
    if abs(apart) > AGREE_DB and radio.source_voltage_v.basis is not Basis.ASSUMED:
        yield watch(
            at_the(Radio, lambda it: it.source_voltage_v),
            f"{amount(source.value, 'v')} on file, the volume readings come to {amount(abs(apart), 'db')}"
            f" {'more' if apart > 0 else 'less'}",
            f"At step {trimmed(volume.found.clean_step)}, the last clean one. One of the two is another tone, another"
            " place or another player's level; every gain rests on it.",
            _take(volume),
        )
    elif radio.source_voltage_v.basis is Basis.ASSUMED and any(s.way.tap for s in results.signals):
        yield watch(
            at_the(Radio, lambda it: it.source_voltage_v),
            f"The source was read step by step; {amount(source.value, 'v')} is still assumed",
            f"Clean up to step {trimmed(volume.found.clean_step)}, {amount(_clean_v(volume), 'v')} there. Every gain"
            " rests on it.",
            _take(volume),
        )


def _clean_v(volume: Volume) -> float:
    return voltage_ratio_from_db(volume.found.clean_dbv)


def _take(volume: Volume) -> Remedy:
    """The remedy that takes level and step of the readings over into the survey."""
    measured = {"basis": Basis.MEASURED.value, "how": Verified.METER.value}
    level = {"value": round(_clean_v(volume), 2), **measured}
    return Remedy(
        f"Take {amount(_clean_v(volume), 'v')} at step {trimmed(volume.found.clean_step)}",
        (
            set_to(at_the(Radio, lambda it: it.source_voltage_v), level),
            set_to(at_the(Radio, lambda it: it.source_stated_as), StatedAs.RMS.value),
            set_to(at_the(Radio, lambda it: it.clip_step), {"value": trimmed(volume.found.clean_step), **measured}),
        ),
    )


@rule("player-levels", "signal", PRACTICE)
def player_levels(results: Results) -> Iterator[Draft]:
    """Volume readings of one tone were taken with the phone or player at different levels."""
    tones: dict[float, list[str]] = {}
    for reading in results.design.vehicle.volume_steps:
        if reading.voltage_v.value is not None and reading.source_level:
            tones.setdefault(reading.tone_hz, []).append(reading.source_level)
    for tone_hz, levels in tones.items():
        different = list(dict.fromkeys(levels))
        if len(different) > 1:
            yield watch(
                at_the(Vehicle, lambda it: it.volume_steps),
                f"Read with the player at {listed(different)}: {amount(tone_hz, 'hz')} cannot be compared",
                "A phone has a volume of its own in front of the radio's. Only the most frequent was used: set it to"
                " full, or to a mark, and read the rest again.",
                Remedy("See the readings", sheet="baseline"),
            )


@rule("player-turned-down", "signal", PRACTICE)
def player_turned_down(results: Results) -> Iterator[Draft]:
    """Gains are set with a phone that is not at its full: turned up, it overdrives everything behind it."""
    radio = results.design.vehicle.radio
    under_db = radio.player_under_db.value
    if not under_db or not results.signals:
        return
    past = results.design.policy.overlap_db
    path = at_the(Radio, lambda it: it.player_under_db)
    yield watch(
        path,
        f"The phone plays {amount(under_db, 'db')} under its full",
        f"Gains set so are {amount(under_db, 'db')} past full power the day it is turned up"
        + (f", on top of the {amount(past, 'db')} allowed" if past else "")
        + ", and till then so much more noise stands against the music. Set it to full and leave it there; the radio's"
        " knob is for the volume.",
        Remedy("It is at full now", (set_to(path, {"value": 0.0, "basis": Basis.MEASURED.value}),)),
    )


@rule("usual-step-distorts", "signal", PRACTICE)
def usual_step_distorts(results: Results) -> Iterator[Draft]:
    """It is listened at a step at which the source no longer follows."""
    volume, radio = results.volume, results.design.vehicle.radio
    usual = radio.usual_step.value
    if volume is None or usual is None or usual <= volume.found.clean_step:
        return
    yield watch(
        at_the(Radio, lambda it: it.usual_step),
        f"It is listened at step {trimmed(usual)}; the source is clean up to {trimmed(volume.found.clean_step)}",
        "Louder there is distortion alone. More gain behind it gives the same level at a clean step: set it at the last"
        " clean step, and tell the customer where that is.",
        Remedy("See the readings", sheet="baseline"),
    )


@rule("hiss", "signal", PRACTICE)
def hiss(results: Results) -> Iterator[Draft]:
    """At the volume it is listened at, noise is near the music."""
    for signal in results.signals:
        usual = signal.ladder.snr_usual
        if usual is None or usual.value is None or usual.value >= WORKING_SNR_DB:
            continue
        yield watch(
            usual.id,
            f"{signal.way.title}: {amount(usual.value, 'db')} of signal over noise at the usual step",
            "Hiss is heard in a parked car. More level before the long line and less gain behind it, or quieter parts.",
            Remedy("See the ladder", sheet="signal"),
        )
