"""Signal: levels from the radio to the cone, gains, sensitivity setting and target voltage."""

from __future__ import annotations

from dataclasses import dataclass

from ohmack.core.document import Design
from ohmack.core.document.factory import Module, Radio
from ohmack.core.document.links import LineLink, TapLink
from ohmack.core.document.parts import Amplifier, Converter
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.sections.figures import Book, Figure, Term
from ohmack.core.sections.loads import LoadResult
from ohmack.core.sections.power import SupplyResult
from ohmack.core.signal_chain import (
    GainPlan,
    db_from_voltage_ratio,
    dbv,
    plan_converter_gain,
    rms_from,
    target_voltage_v,
    voltage_ratio_from_db,
)
from ohmack.core.speaker_loads import power_voltage_v


@dataclass(frozen=True, slots=True)
class Stage:
    """One rung of the level ladder, all in dBV rms."""

    name: str
    thing_id: str
    level_dbv: float
    clip_dbv: float
    noise_dbv: float | None = None

    @property
    def margin_db(self) -> float:
        """How far below its clipping the stage works at the top volume."""
        return self.clip_dbv - self.level_dbv


@dataclass(frozen=True, slots=True)
class SignalResult:
    """The signal way of one amplifier."""

    amplifier: Amplifier
    converter: Converter
    tap: TapLink
    line: LineLink
    plan: GainPlan | None
    stages: tuple[Stage, ...]
    figures: dict[str, Figure]


def signal_ways(design: Design) -> list[tuple[Amplifier, Converter, TapLink, LineLink]]:
    """Every complete way radio - converter - amplifier of a design."""
    converters = {c.id: c for c in design.parts_of(Converter)}
    amplifiers = {a.id: a for a in design.parts_of(Amplifier)}
    taps = {tap.converter_id: tap for tap in design.links_of(TapLink)}
    return [
        (amplifiers[line.amplifier_id], converters[line.converter_id], taps[line.converter_id], line)
        for line in design.links_of(LineLink)
        if line.converter_id in taps
    ]


def compute_source(book: Book, output: Radio | Module) -> Figure:
    """The rms output of the radio or the factory amplifier a signal is taken from, at the last clean step."""
    radio = output is book.design.vehicle.radio
    base = "vehicle/radio" if radio else f"vehicle/modules/{output.id}"
    stated = Term("stated as", output.source_stated_as.value, "", None, None, "", f"{base}/source_stated_as")
    volts = book.fact(f"{base}/source_voltage_v", "speaker output at the last clean step", output.source_voltage_v, "v")
    return book.derive(
        f"{'radio' if radio else output.id}/source_v",
        "Radio output at the last clean step" if radio else f"{output.name}: output at the last clean step",
        "v", "as read; peak / √2 where stated as peak", rms_from, volts, stated, source=PHYSICS,
    )  # fmt: skip


def tapped_source(design: Design, tap: TapLink) -> Radio | Module:
    """What a tap takes its signal from."""
    return design.vehicle.source_of(tap.channel_ids[0])


def compute_sources(book: Book) -> dict[str, Figure]:
    """The output of everything that is tapped, by its id; the radio's where nothing is tapped yet."""
    design = book.design
    tapped = [tapped_source(design, tap) for tap in design.links_of(TapLink)]
    return {output.id: compute_source(book, output) for output in tapped or [design.vehicle.radio]}


def compute_source_power(book: Book, sources: dict[str, Figure]) -> None:
    """What each tapped output means in watts into the speaker it drives."""
    design = book.design
    for tap in design.links_of(TapLink):
        speaker = next((s for s in design.vehicle.speakers if s.channel_id in tap.channel_ids), None)
        output = tapped_source(design, tap)
        scope = "radio" if output is design.vehicle.radio else output.id
        if speaker is None or f"{scope}/source_power_w" in book.figures:
            continue
        path = f"vehicle/speakers/{speaker.id}/impedance_ohm"
        book.derive(
            f"{scope}/source_power_w", f"That is, into {speaker.name}", "w", "V² / Z", lambda v, z: v * v / z, sources[output.id],
            book.fact(path, "nominal impedance", speaker.impedance_ohm, "ohm"), source=PHYSICS,
        )  # fmt: skip


def compute_signal(
    book: Book,
    way: tuple[Amplifier, Converter, TapLink, LineLink],
    source: Figure,
    load: LoadResult | None,
    supply: SupplyResult | None,
) -> SignalResult:
    """Gains and levels of one way, with the ladder where everything is known."""
    amplifier, converter, tap, line = way
    limits = [
        book.part(converter, "gain_low_db", "lowest gain", "db"),
        book.part(converter, "gain_high_db", "highest gain", "db"),
        book.part(converter, "output_limit_v", "clean output", "v"),
        book.part(amplifier, "sensitivity_low_v", "most sensitive", "v"),
        book.part(amplifier, "sensitivity_high_v", "least sensitive", "v"),
    ]
    figures = _output_limits(book, load, supply) if load is not None else {}
    ratio = _sensitivity_ratio(figures)  # sensitivity to set over voltage that arrives
    plan: GainPlan | None = None
    if source.value is not None and ratio is not None:
        low_db, high_db, clean_v, most_v, least_v = (term.value for term in limits)
        scale = ratio * voltage_ratio_from_db(-book.design.policy.overlap_db)
        plan = plan_converter_gain(source.value, low_db, high_db, clean_v, most_v / scale, least_v / scale)
    overlap = book.policy("overlap_db", "overlap", "db")
    gain = book.derive(
        f"{converter.id}/gain_db", "Converter gain", "db",
        "highest clean level everything behind it takes" + (f": {plan.binding} decides" if plan else ""),
        lambda *_: plan.gain_db if plan else None, source, *limits, overlap, source=PRACTICE,
    )  # fmt: skip
    output = book.derive(
        f"{converter.id}/output_v", "Converter output at the top volume", "v", "V_in × 10^(gain/20)",
        lambda v, g: v * voltage_ratio_from_db(g), source, gain, source=PHYSICS,
    )  # fmt: skip
    figures |= {"source": source, "gain": gain, "output": output}
    if load is not None:
        figures |= _at_amplifier(book, amplifier.id, figures, output)
    tapped = tapped_source(book.design, tap)
    radio = tapped is book.design.vehicle.radio
    first = ("radio", "radio") if radio else (tapped.id, "factory amplifier")
    stages = _stages(first, source, output, converter, amplifier, load, figures)
    return SignalResult(amplifier, converter, tap, line, plan, stages, figures)


def _sensitivity_ratio(figures: dict[str, Figure]) -> float | None:
    if not figures:
        return 1.0
    clip, full = figures["clip"].value, figures["full"].value
    return clip / full if clip and full else None


def _output_limits(book: Book, load: LoadResult, supply: SupplyResult | None) -> dict[str, Figure]:
    amplifier, scope = load.amplifier, load.amplifier.id
    available = load.power if amplifier.regulated or supply is None else supply.figures["output"]
    allowed = book.part(load.driver, "power_rms_w", "driver RMS power", "w")
    full = book.derive(
        f"{scope}/full_target_v", "Output for the power that is used", "v", "√(min(P_amplifier, P_driver) × Z)",
        lambda p, d, z: power_voltage_v(min(p, d), z), available, allowed, load.load, source=PHYSICS,
    )  # fmt: skip
    clip = book.derive(
        f"{scope}/clip_v", "Amplifier output limit", "v", "√(P × Z)", power_voltage_v, available, load.load, source=PHYSICS,
    )  # fmt: skip
    return {"full": full, "clip": clip}


def _at_amplifier(book: Book, scope: str, figures: dict[str, Figure], output: Figure) -> dict[str, Figure]:
    full, clip = figures["full"], figures["clip"]
    tone, overlap = book.policy("tone_dbfs", "test tone", "dbfs"), book.policy("overlap_db", "overlap", "db")
    target = book.derive(
        f"{scope}/target_v", "A meter at the output must show", "v",
        "√(P × Z) × 10^((tone + overlap)/20), at most √(P × Z)", target_voltage_v, full, tone, overlap, source=PRACTICE,
    )  # fmt: skip
    sensitivity = book.derive(
        f"{scope}/sensitivity_v", "Input sensitivity to set", "v",
        "V_in × 10^(−overlap/20) × V_limit / V_used",
        lambda v, o, c, f: v * voltage_ratio_from_db(-o) * c / f, output, overlap, clip, full, source=PRACTICE,
    )  # fmt: skip
    meter_in = book.derive(
        f"{scope}/tone_in_v", "Amplifier input during the tone", "v", "V_in × 10^(tone/20)",
        lambda v, t: v * voltage_ratio_from_db(t), output, tone, source=PHYSICS,
    )  # fmt: skip
    gain = book.derive(
        f"{scope}/gain_db", "Amplifier gain needed", "db", "20 log₁₀(V_out / V_in) for the tone",
        lambda out, v: db_from_voltage_ratio(out / v), target, meter_in, source=PHYSICS,
    )  # fmt: skip
    return {"target": target, "sensitivity": sensitivity, "tone_in": meter_in, "amp_gain": gain}


def _stages(
    first: tuple[str, str],
    source: Figure,
    output: Figure,
    converter: Converter,
    amplifier: Amplifier,
    load: LoadResult | None,
    figures: dict[str, Figure],
) -> tuple[Stage, ...]:
    if source.value is None or output.value is None:
        return ()
    (output_id, output_name), radio_v, line_v = first, source.value, output.value
    limit_v = rms_from(converter.input_limit_v, converter.input_stated_as)
    stages = [
        Stage(f"{output_name} output", output_id, dbv(radio_v), dbv(radio_v)),
        Stage("converter input", converter.id, dbv(radio_v), dbv(limit_v)),
        Stage("converter output", converter.id, dbv(line_v), dbv(converter.output_limit_v), converter.noise_dbv),
        Stage("amplifier input", amplifier.id, dbv(line_v), dbv(amplifier.sensitivity_high_v), amplifier.noise_dbv),
    ]
    full, clip = figures.get("full"), figures.get("clip")
    if load and full and clip and full.value and clip.value:
        gain_db = dbv(full.value) - dbv(line_v)
        noise = None if amplifier.noise_dbv is None else amplifier.noise_dbv + gain_db
        stages.append(Stage("amplifier output", amplifier.id, dbv(full.value), dbv(clip.value), noise))
        cone_v = power_voltage_v(load.driver.power_rms_w, load.chosen.load_ohm)
        stages.append(Stage("driver", load.driver.id, dbv(full.value), dbv(cone_v)))
    return tuple(stages)
