"""The settings as the car is left: volume, gains, filters, polarity; what is planned, what was read, when."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.links import Band
from ohmack.core.document.proof import ProofReading
from ohmack.core.prove.judged import Judged
from ohmack.core.record import record
from ohmack.core.signal.ways import step_of, volume_of
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@record
class Setting:
    """One setting: of what, what is set, as planned and as read; `stands` is None where nobody looked."""

    group: str
    of: str
    what: str
    planned: str
    read: str = ""
    when: str = ""
    by: str = ""
    stands: bool | None = None


@record
class Ceiling:
    """The last clean step of one source: as read, else as the survey says; `read` where it was tried in this proof."""

    source_id: str
    source: str
    step: float | None  # None where nobody knows it
    of: float | None  # the last step of its scale
    words: str
    read: bool
    when: str = ""


@record
class Played:
    """What one output plays: from where to where, and how it is set, in words."""

    name: str
    from_hz: float
    to_hz: float
    words: str


LOWEST_HZ, HIGHEST_HZ = 20.0, 20_000.0  # what is heard


def played(results: Results) -> tuple[Played, ...]:
    """What every output plays, for the picture of the settings.

    Parameters:
        results: the evaluated plan.

    Returns:
        the outputs with their filters, the source's among them, and the volts that were read.
    """
    read = {j.check.id: j for j in results.proof.checks}
    found = []
    for entry in results.crossovers:
        low = [f.value for f in (entry.high_pass,) if f is not None and f.value is not None]
        high = [f.value for f in (entry.low_pass,) if f is not None and f.value is not None]
        low += [hz for is_high, hz, _, _ in entry.in_source if is_high]
        high += [hz for is_high, hz, _, _ in entry.in_source if not is_high]
        judged = read.get(f"level/out/{entry.scope}")
        volts = f"gain set to {judged.read_words} on the tone" if judged is not None and judged.reading else ""
        words = ", ".join(w for w in (entry.words, volts) if w)
        found.append(Played(entry.name, max(low, default=LOWEST_HZ), min(high, default=HIGHEST_HZ), words))
    return tuple(found)


def ceilings(results: Results) -> tuple[Ceiling, ...]:
    """How far every source is clean.

    Parameters:
        results: the evaluated plan.

    Returns:
        one entry a source; a reading of the proof goes before what the survey says.
    """
    found: dict[str, Ceiling] = {}
    for signal in results.signals:
        source = volume_of(results.design, signal.way)
        if source.id in found:
            continue
        said = step_of(source)
        step, of = _of_scale(said)
        judged = results.proof.named(f"level/clip/{source.id}")
        tried = judged.reading if judged is not None and judged.state.stands else None
        if tried is not None and tried.value is not None:
            scale = f" of {of:g}" if of is not None else ""
            found[source.id] = Ceiling(source.id, source.name, tried.value, of, f"step {tried.value:g}{scale}", True,
                                       tried.when[:10])  # fmt: skip
        else:
            found[source.id] = Ceiling(source.id, source.name, step, of, f"step {said}" if said else "", False)
    return tuple(found.values())


def _of_scale(words: str) -> tuple[float | None, float | None]:
    """(step, last step) of “27 of 40”; of “70 %” of a hundred."""
    text = words.replace("%", " of 100").split(" of ")
    step, last = _number(text[0]), _number(text[1]) if len(text) > 1 else None
    return step, last


def _number(words: str) -> float | None:
    try:
        return float(words.strip())
    except ValueError:
        return None


def settings_record(results: Results) -> tuple[Setting, ...]:
    """Everything that is set, as the car is left.

    Parameters:
        results: the evaluated plan.

    Returns:
        the settings, in the order they are found again: source, gains, filters, what is turned round.
    """
    return (*_volumes(results), *_gains(results), *_filters(results), *_bands(results))


def _volumes(results: Results) -> Iterator[Setting]:
    for ceiling in ceilings(results):
        judged = results.proof.named(f"level/clip/{ceiling.source_id}")
        planned = judged.expects if judged is not None else ""
        yield _row("Volume", ceiling.source, "last clean step", planned or "not known", judged)


def _row(group: str, of: str, what: str, planned: str, judged: Judged | None) -> Setting:
    reading: ProofReading | None = judged.reading if judged is not None else None
    if judged is None or reading is None:
        stands = True if judged is not None and judged.state.stands else None
        return Setting(group, of, what, planned, stands=stands)
    return Setting(group, of, what, planned, judged.read_words, reading.when[:10], reading.who, judged.state.stands)


def _gains(results: Results) -> Iterator[Setting]:
    done: set[str] = set()
    for signal in results.signals:
        converter = signal.converter
        if converter is not None and converter.id not in done:
            done.add(converter.id)
            gain = results.book.figures.get(f"{converter.id}/gain_db")
            into = [results.proof.named(f"level/in/{o.load.scope}") for o in signal.outputs]
            judged = next((j for j in into if j is not None), None)
            words = amount(gain.value, "db") if gain is not None and gain.value is not None else "not known"
            yield _row("Gain", converter.name, f"gain {words}, read at its output", _expects(judged, words), judged)
        for output in signal.outputs:
            judged = results.proof.named(f"level/out/{output.load.scope}")
            sensitivity = output.figures.get("sensitivity")
            marked = f", marked {amount(sensitivity.value, 'v')}" if sensitivity and sensitivity.value else ""
            target = output.figures.get("target")
            planned = amount(target.value, "v") if target is not None and target.value is not None else "not known"
            yield _row("Gain", output.load.channel_name,
                       f"volts on the tone{marked}", _expects(judged, planned), judged)  # fmt: skip


def _expects(judged: Judged | None, planned: str) -> str:
    return judged.expects if judged is not None and judged.expects else planned


def _filters(results: Results) -> Iterator[Setting]:
    for entry in results.crossovers:
        words = entry.all_words
        if words:
            judged = results.proof.named(f"level/filter/{entry.scope}")
            of = entry.name if entry.name == entry.part.name else f"{entry.part.name}, {entry.name}"
            yield _row("Filters", of, "corners", words, judged)


def _bands(results: Results) -> Iterator[Setting]:
    for entry in results.crossovers:
        link = entry.link
        if link is None:
            continue
        for band in link.bands:
            yield Setting("Bands", f"{entry.part.name}, {entry.name}", "equaliser", band_words(band))
        if link.turned_down_db:
            by = amount(link.turned_down_db, "db")
            yield Setting("Levels", f"{entry.part.name}, {entry.name}", "turned down by", by)
        if link.delay_ms:
            yield Setting("Delays", f"{entry.part.name}, {entry.name}", "delay", f"{link.delay_ms:g} ms")


def band_words(band: Band) -> str:
    """One band of an equaliser in words."""
    return f"{band.kind} {amount(band.centre_hz, 'hz')}, {amount(band.gain_db, 'db')}, Q {band.q:g}"
