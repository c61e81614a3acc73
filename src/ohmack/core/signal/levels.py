"""Signal: levels from the radio to the cone, gains, sensitivity setting and target voltage."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document.factory import Module, Radio
from ohmack.core.document.handles import at
from ohmack.core.document.links import TapLink
from ohmack.core.document.parts import Accessory, Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.figures.figure import Book, Figure, Formula, Term, fixed, reference
from ohmack.core.loads.wirings import AmplifierLoad, LoadResult
from ohmack.core.physics.gain_settings import GainSetting
from ohmack.core.physics.signal_chain import (
    db_from_voltage_ratio,
    rms_from,
    target_voltage_v,
    voltage_ratio_from_db,
)
from ohmack.core.physics.speaker_loads import RATED_INTO_OHM, power_voltage_v
from ohmack.core.physics.supply import output_power_at_w
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.signal.converter_gain import Behind, Fed, through_converter
from ohmack.core.signal.ladder import Ladder, Stage, Volume, ladder_of
from ohmack.core.signal.loading import arriving, loading_of
from ohmack.core.signal.ways import Played, Way, begins_at, played_anew, signal_ways, tapped_source
from ohmack.core.supply.results import SupplyResult

NEW_SOURCE = Formula("Radio output at its rating", "v", "√(P × Z)", power_voltage_v, PHYSICS)
SOURCE = Formula("Limit", "v", "as read; peak / √2 where stated as peak", rms_from, PHYSICS)
SOURCE_POWER = Formula("That is, into", "w", "V² / Z", lambda v, z: v * v / z, PHYSICS)
LINE_READ = Formula("Radio line output at the top volume", "v", "as read at the last clean step", lambda v: v)
ARRIVES = Formula(
    "Input sensitivity to set",
    "v",
    "V_in × 10^(−past full power/20)",
    lambda v, o: v * voltage_ratio_from_db(-o),
    PRACTICE,
)
LINE_OUT = Formula("Radio line output at the top volume", "v", "as its maker states", lambda v: v)
FULL_TARGET = Formula(
    "Output for the power that is used",
    "v",
    "√(min(P_amplifier, P_driver) × Z)",
    lambda p, d, z: power_voltage_v(min(p, d), z),
    PHYSICS,
)
CLIP = Formula("Amplifier output limit", "v", "√(P × Z)", power_voltage_v, PHYSICS)
OUTPUT_2 = Formula(
    "Output at the voltage it has",
    "w",
    "rated power × (V/14.4)²",
    lambda p, v: output_power_at_w(p, False, v),
    PRACTICE,
)
TARGET = Formula(
    "A meter at the output must show",
    "v",
    "√(P × Z) × 10^((tone + past full power)/20), at most √(P × Z)",
    target_voltage_v,
    PRACTICE,
)
SENSITIVITY = Formula(
    "Input sensitivity to set",
    "v",
    "V_in × 10^(−past full power/20) × V_limit / V_used",
    lambda v, o, c, f: v * voltage_ratio_from_db(-o) * c / f,
    PRACTICE,
)
REACHED = Formula(
    "Output at the top volume, were there no limit", "v", "V_in × V_limit / sensitivity kept",
    lambda v, clip, kept: v * clip / kept, PHYSICS,
)  # fmt: skip
PAST = Formula(
    "Past full power, as it is kept", "db", "20 log₁₀(V / V_used)", lambda v, full: db_from_voltage_ratio(v / full),
    PHYSICS,
)  # fmt: skip
KEPT_TARGET = Formula(
    "A meter at the output must show", "v", "V × 10^(tone/20) as the knob is kept, at most its limit",
    lambda v, clip, tone: min(v * voltage_ratio_from_db(tone), clip), PRACTICE,
)  # fmt: skip
TONE_IN = Formula(
    "Amplifier input during the tone", "v", "V_in × 10^(tone/20)", lambda v, t: v * voltage_ratio_from_db(t), PHYSICS
)
GAIN = Formula(
    "Amplifier gain needed",
    "db",
    "20 log₁₀(V_out / V_in) for the tone",
    lambda out, v: db_from_voltage_ratio(out / v),
    PHYSICS,
)


MIDDLE_TONE_HZ = 1000.0  # for everything but subwoofers, common practice


@record
class OutputSignal:
    """One output of the amplifier: what a meter must show there, and where its sensitivity is set."""

    load: LoadResult
    figures: dict[str, Figure]
    span_v: tuple[float, float]  # (most, least) sensitive setting of its knob

    def tone_hz(self, bass_hz: float) -> float:
        """The tone it is set with: the shop's for a subwoofer, about 1 kHz for the rest (common practice)."""
        return bass_hz if any(d.is_subwoofer for d in self.load.driven) else MIDDLE_TONE_HZ


@record
class SignalResult:
    """One signal way into an amplifier or a powered subwoofer, with every output in use that plays it."""

    way: Way
    decides: str  # what decides the converter's gain; empty without one
    ladder: Ladder
    outputs: tuple[OutputSignal, ...]
    figures: dict[str, Figure]  # source, gain, output; and those of the first output
    gain_span_db: tuple[float, float] | None = None  # the converter's lowest and highest
    settings: tuple[GainSetting, ...] = ()  # of the converter's gain, the best first
    loading: Figure | None = None  # what the input takes off; None where an impedance is not on file

    @property
    def amplifier(self) -> Played:
        """The amplifier, or the powered subwoofer."""
        return self.way.amplifier

    @property
    def stages(self) -> tuple[Stage, ...]:
        """The rungs of its ladder; empty while a level is not known."""
        return self.ladder.stages

    @property
    def channel(self) -> int:
        """The first channel that plays it."""
        return self.outputs[0].load.link.channel if self.outputs else 1

    @property
    def span(self) -> tuple[float, float]:
        """(most, least) sensitive setting of its first output [v]."""
        return self.way.span_of(self.channel)

    @property
    def converter(self) -> Converter | None:
        """The converter, where there is one."""
        return self.way.converter

    @property
    def scope(self) -> str:
        """What the figures of the first output are filed under."""
        return self.outputs[0].load.scope if self.outputs else self.amplifier.id


def compute_source(book: Book, output: Radio | Module) -> Figure:
    """The rms output of the radio or the factory amplifier a signal is taken from, at the last clean step."""
    radio = output is book.design.vehicle.radio
    if (unit := played_anew(book.design, output)) is not None:
        rated = book.part(unit, lambda it: it.power_w, "RMS power a channel", "w")
        into = reference("it is rated into", RATED_INTO_OHM, "ohm", PRACTICE)
        return book.figure("radio/source_v", NEW_SOURCE, rated, into, name=f"{unit.name}: output at its rating")
    path = at(output, lambda it: it.source_stated_as)
    stated = Term("stated as", output.source_stated_as.value, "", None, None, "", path)
    volts = book.fact(output, lambda it: it.source_voltage_v, "output at the last clean step", "v")
    return book.figure(
        f"{'radio' if radio else output.id}/source_v",
        SOURCE,
        volts,
        stated,
        name="Radio output at the last clean step" if radio else f"{output.name}: output at the last clean step",
    )


def compute_sources(book: Book) -> dict[str, Figure]:
    """The output of everything that is tapped, by its id; the radio's where nothing is tapped yet."""
    design = book.design
    tapped = [tapped_source(design, tap) for tap in design.links_of(TapLink)]
    return {output.id: compute_source(book, output) for output in tapped or [design.vehicle.radio]}


def compute_source_power(book: Book, sources: dict[str, Figure]) -> None:
    """What each tapped output means in watts into the speaker it drives."""
    design = book.design
    for tap in design.links_of(TapLink):
        speaker = next((s for s in design.vehicle.speakers if s.channel_id in tap.from_ids), None)
        output = tapped_source(design, tap)
        scope = "radio" if output is design.vehicle.radio else output.id
        if speaker is None or f"{scope}/source_power_w" in book.figures:
            continue
        book.figure(
            f"{scope}/source_power_w",
            SOURCE_POWER,
            sources[output.id],
            book.fact(speaker, lambda it: it.impedance_ohm, "nominal impedance", "ohm"),
            name=f"That is, into {speaker.name}",
        )


def compute_signals(
    book: Book,
    sources: dict[str, Figure],
    loads: Sequence[AmplifierLoad],
    supplies: Sequence[SupplyResult],
    volume: Volume | None,
) -> list[SignalResult]:
    """Gains and levels of every way, with the ladder where everything is known."""
    by_amplifier = {load.amplifier.id: load.outputs for load in loads}
    fed = {supply.part.id: supply for supply in supplies}
    ways = signal_ways(book.design)
    outputs = [tuple(load for load in by_amplifier.get(way.amplifier.id, ()) if way.feeds(load)) for way in ways]
    limits = [
        [(load.link.channel, _output_limits(book, load, fed.get(way.amplifier.id))) for load in own]
        for way, own in zip(ways, outputs, strict=True)
    ]
    loadings = [loading_of(book, way) for way in ways]
    behind: dict[str, Behind] = {}  # by converter: it has one gain for all it feeds
    results = []
    for way, own, limit, loading in zip(ways, outputs, limits, loadings, strict=True):
        source = _source_of(book, way, sources)
        passed = Behind({"source": source, "output": source})
        if (converter := way.converter) is not None:
            if converter.id not in behind:
                everything = zip(ways, limits, loadings, strict=True)
                feeds = [Fed(w, of, less) for w, of, less in everything if w.converter is converter]
                behind[converter.id] = through_converter(book, converter, source, feeds)
            passed = behind[converter.id]
        arrives = arriving(book, way, passed.figures["output"], loading)
        signals = tuple(
            OutputSignal(load, bounds | _at_amplifier(book, load, bounds, arrives), way.span_of(load.link.channel))
            for load, (_, bounds) in zip(own, limit, strict=True)
        )
        figures = passed.figures | {"arrives": arrives}
        figures |= signals[0].figures if signals else _at_powered_sub(book, way, figures["output"])
        ladder = ladder_of(book, way, figures, own[0] if own else None, volume)
        results.append(
            SignalResult(
                way,
                passed.decides,
                ladder,
                signals,
                figures,
                passed.span_db,
                passed.settings,
                loading,
            )
        )
    return results


def _source_of(book: Book, way: Way, sources: dict[str, Figure]) -> Figure:
    if isinstance(way.radio, HeadUnit | Accessory):
        return book.figure(
            f"{way.radio.id}/line_out_v", LINE_OUT, book.part(way.radio, lambda it: it.line_v, "line output", "v")
        )
    if isinstance(way.radio, Radio):
        term = book.fact(way.radio, lambda it: it.line_v, "radio's line output at the last clean step", "v")
        return book.figure(f"{way.radio.id}/line_out_v", LINE_READ, term)
    return sources[begins_at(book.design, way).id]


def _at_powered_sub(book: Book, way: Way, output: Figure) -> dict[str, Figure]:
    """Where the sensitivity of a powered subwoofer on a line pair is set; nothing for an amplifier nothing hangs on."""
    if not isinstance(way.amplifier, PoweredSubwoofer):
        return {}
    overlap = book.policy(lambda it: it.overlap_db, "music past full power", "db")
    return {
        "sensitivity": book.figure(
            f"{way.amplifier.id}/sensitivity_v", ARRIVES, output, overlap, name="Input sensitivity to set"
        )
    }


def _output_limits(book: Book, load: LoadResult, supply: SupplyResult | None) -> dict[str, Figure]:
    scope = load.scope
    available = _available(book, load, supply)
    full = book.figure(f"{scope}/full_target_v", FULL_TARGET, available, load.allowed, load.load)  # fmt: skip
    clip = book.figure(f"{scope}/clip_v", CLIP, available, load.load)  # fmt: skip
    return {"full": full, "clip": clip}


def _available(book: Book, load: LoadResult, supply: SupplyResult | None) -> Figure:
    """What the output gives at the voltage the amplifier really has."""
    if load.amplifier.regulated or supply is None:
        return load.power
    if load.amplifier.channels == 1:
        return supply.figures["output"]
    return book.figure(f"{load.scope}/output_w", OUTPUT_2, load.power, supply.figures["voltage"])  # fmt: skip


def _at_amplifier(book: Book, load: LoadResult, figures: dict[str, Figure], output: Figure) -> dict[str, Figure]:
    full, clip, scope = figures["full"], figures["clip"], load.scope
    tone, overlap = (
        book.policy(lambda it: it.tone_dbfs, "test tone", "dbfs"),
        book.policy(lambda it: it.overlap_db, "music past full power", "db"),
    )
    kept = _as_kept(book, load, figures, output, tone) if load.link.sensitivity_kept_v is not None else {}
    target = kept.get("target") or book.figure(f"{scope}/target_v", TARGET, full, tone, overlap)
    sensitivity = book.figure(f"{scope}/sensitivity_v", SENSITIVITY, output, overlap, clip, full)
    meter_in = book.figure(f"{scope}/tone_in_v", TONE_IN, output, tone)  # fmt: skip
    gain = book.figure(f"{scope}/gain_db", GAIN, target, meter_in)  # fmt: skip
    return kept | {"target": target, "sensitivity": sensitivity, "tone_in": meter_in, "amp_gain": gain}


def _as_kept(book: Book, load: LoadResult, figures: dict[str, Figure], output: Figure, tone: Term) -> dict[str, Figure]:
    """What an output comes to with its knob kept where it is."""
    scope, link = load.scope, load.link
    kept = fixed("sensitivity kept at", link.sensitivity_kept_v, "v", at(link, lambda it: it.sensitivity_kept_v))
    reached = book.figure(f"{scope}/reached_v", REACHED, output, figures["clip"], kept)
    return {
        "reached": reached,
        "past": book.figure(f"{scope}/past_db", PAST, reached, figures["full"]),
        "target": book.figure(f"{scope}/target_v", KEPT_TARGET, reached, figures["clip"], tone),
    }
