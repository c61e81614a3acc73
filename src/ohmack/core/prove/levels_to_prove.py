"""Gate 3 of the plan of proof: the clip step, every gain, what a full tone does to the supply, how it sounds."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from re import match
from typing import TYPE_CHECKING

from ohmack.core.document.policy import GainSchool
from ohmack.core.document.responses import MeasuredAt, Taken
from ohmack.core.loads.driven import any_tweeter
from ohmack.core.network.model import Consumer
from ohmack.core.prove.car import Car, Output, Setting
from ohmack.core.prove.checks import METERS, Check, Spot, Spots, minutes_of
from ohmack.core.prove.probes import Ask, Probe, Quantity
from ohmack.core.prove.symptoms import QUIET
from ohmack.core.reference import table
from ohmack.core.signal.crossovers import Crossover, flat_first
from ohmack.core.signal.procedure import WITHIN
from ohmack.core.signal.ways import step_of, volume_of
from ohmack.core.wording import amount, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

SET_BY = {
    GainSchool.METER: "Speaker off, meter on the terminals: gain up until it reads this.",
    GainSchool.SCOPE: "Speaker off: gain up until the wave just flattens, an eighth back. The meter reads between.",
    GainSchool.LIGHT: "Gain up until the clip light comes on, an eighth back. The meter reads between.",
}
EARS = "Ears protected: loud systems damage hearing."


def level_checks(results: Results, car: Car, spots: Spots) -> Iterator[Check]:
    """The checks of the third gate."""
    yield from _clip_steps(results, spots)
    yield from _filters(results, spots)
    sources: set[str] = set()
    for output in car.outputs:
        if output.out_v is not None:
            yield from _levels(results, car, spots, output, sources)
    yield from _sounds(results, car)
    for consumer in car.network.consumers if car.network is not None else ():
        yield from _full_level(car, spots, consumer)
    yield from _shared(results, spots)
    if results.design.links:
        yield _asleep(results, car, spots)
        yield from _responses(results)


def _clip_steps(results: Results, spots: Spots) -> Iterator[Check]:
    done: set[str] = set()
    for signal in results.signals:
        source = volume_of(results.design, signal.way)
        if source.id in done:
            continue
        done.add(source.id)
        known = step_of(source)
        number = match(r"\s*(\d+(?:\.\d+)?)", known)
        planned = float(number.group(1)) if number else None
        most = None if planned is None else planned + float(table("proof", "limits")["steps"])
        said = f"The plan says {known}." if known else "Nobody knows it yet: plan with what is read."
        how = f"Full-scale tone, up until the wave flattens, one step back. {said}"
        yield Check(
            f"level/clip/{source.id}", 3, f"Last clean step of {source.name}", f"{METERS[Quantity.STEP]}. {how}",
            Probe(Quantity.STEP, setting=Setting.ON, subject=source.id), minutes_of("clip"), spots.of(source.id), None,
            (), source.id, EARS, at_most=most,
            at_least=0.0 if planned is None else planned - float(table("proof", "limits")["steps"]), planned=planned,
        )  # fmt: skip


def tweeters_filters(results: Results, spots: Spots, scope: str) -> Iterator[Check]:
    """The filters of an output a tweeter hangs on: looked at before anything is heard from it."""
    entry = results.crossover_of(scope)
    if entry is not None and _has_tweeter(results, scope):
        yield from _filters_of(entry, spots, 2)


def _filters(results: Results, spots: Spots) -> Iterator[Check]:
    for entry in results.crossovers:
        if not _has_tweeter(results, entry.scope):
            yield from _filters_of(entry, spots, 3)


def _has_tweeter(results: Results, scope: str) -> bool:
    return any(load.scope == scope and any_tweeter(results.design, load.links) for load in results.loads)


def _filters_of(entry: Crossover, spots: Spots, gate: int) -> Iterator[Check]:
    words = entry.all_words
    if words:
        probe = Probe(Quantity.ANSWER, setting=Setting.ON, ask=Ask.DONE, subject=entry.scope)
        yield Check(f"level/filter/{entry.scope}", gate, f"Filters of {entry.name}", f"Set and looked at: {words}.",
                    probe, minutes_of("look"), spots.of(entry.part.id), None, (), entry.part.id)  # fmt: skip


def _levels(results: Results, car: Car, spots: Spots, output: Output, sources: set[str]) -> Iterator[Check]:
    policy = results.design.policy
    tone = f"Tone of {amount(output.tone_hz, 'hz')} at {amount(policy.tone_dbfs, 'dbfs')}"
    flat = flat_first(results.crossovers, output.scope, output.tone_hz)
    first = f"{flat} " if flat else ""
    at = spots.of(output.owner_id)

    def read(check_id: str, title: str, where: str, how: str, spot: Spot, needs: tuple[str, ...] = ()) -> Check:
        probe = Probe(Quantity.AC_V, where, setting=Setting.LEVEL, subject=output.scope)
        words = f"{METERS[Quantity.AC_V]}. {tone}, source at its last clean step. {how}"
        return Check(check_id, 3, title, words, probe, minutes_of("level"), spot, None, needs, output.owner_id, EARS)

    way = f"{output.line_id}/{output.tone_hz:g}"
    if way not in sources and output.in_v is not None:
        sources.add(way)
        before = flat_first(results.crossovers, output.scope, output.tone_hz, own=False)
        how = " ".join(["Between core and shield of its input.", *([before] if before else [])])
        yield read(f"level/in/{output.scope}", f"Into {output.name}", "input", how,
                   Spot(f"{at.name}, its input", at.point))  # fmt: skip
    school = policy.gain_school
    if school is not GainSchool.EAR:  # by ear no volts are asked for; what is round or not is, all the same
        terminals = Spot(f"{output.name}, terminals", at.point)
        how = f"{first}{SET_BY[school]}{_one_knob(results, output.scope)}"
        out = read(f"level/out/{output.scope}", f"Out of {output.name}", "output", how, terminals,
                   (f"dead/pair/{output.scope}",))  # fmt: skip
        planned_v = output.out_v or 0.0
        ends = replace(out, at_least=QUIET * planned_v, at_most=planned_v * (1 + WITHIN))
        yield out if school is GainSchool.METER else ends
    most = float(table("proof", "limits")["distortion_percent"])
    after = (f"level/out/{output.scope}",) if school is not GainSchool.EAR else ()
    how = f"{METERS[Quantity.DISTORTION]}. {first}{tone}: harmonics under {most:g} %."
    probe = Probe(Quantity.DISTORTION, "output", setting=Setting.LEVEL, subject=output.scope)
    terminals = Spot(f"{output.name}, terminals", at.point)
    yield Check(f"level/round/{output.scope}", 3, f"The wave of {output.name} is round", how, probe,
                minutes_of("level"), terminals, None, after, output.owner_id, EARS, at_most=most)  # fmt: skip
    if flat:
        back = Probe(Quantity.ANSWER, setting=Setting.ON, ask=Ask.DONE, subject=output.scope)
        how = "They were flat for the tone. On again, and looked at, before the speaker is connected."
        yield Check(f"level/filter-on/{output.scope}", 3, f"Filters of {output.name} are on again", how, back,
                    minutes_of("look"), terminals, None, (f"level/round/{output.scope}",), output.owner_id)  # fmt: skip


def _one_knob(results: Results, scope: str) -> str:
    """Which other outputs the knob of one sets too, in words; "" where none."""
    load = next((load for load in results.loads if load.scope == scope), None)
    if load is None:
        return ""
    knob = load.amplifier.knob_of(load.link.channel)
    there = {o.link.channel for o in results.loads if o.amplifier is load.amplifier} & set(knob)
    if len(there) < 2:
        return ""
    return f" Channels {listed([str(n) for n in sorted(there)])} have one knob: set at one of them, read at the other."


def _sounds(results: Results, car: Car) -> Iterator[Check]:
    if not car.outputs:
        return
    tweeters = {d.speaker.id for d in results.drives if d.tweeter}
    high = " ".join(p for o in car.outputs for p in o.coils if p in tweeters)
    low = " ".join(load.driver.id for load in results.loads if load.driver.is_subwoofer)
    how = "Music with cymbals: treble on both sides, not only in front of one."
    yield _sound("level/treble", "Treble is there", how, Ask.TREBLE, high)
    if low:
        how = "Music at the crossover: turn one polarity round; the fuller one stays."
        yield _sound("level/polarity", "Polarity at the crossover, bass is full", how, Ask.BASS, low)


def _sound(check_id: str, title: str, how: str, ask: Ask, places: str) -> Check:
    probe = Probe(Quantity.ANSWER, setting=Setting.ON, ask=ask, subject=places)
    return Check(check_id, 3, title, how, probe, minutes_of("listen"))


def _full_level(car: Car, spots: Spots, consumer: Consumer) -> Iterator[Check]:
    name, fed = consumer.id, car.feeding(consumer.id)
    if fed is None:
        return
    here = spots.of(name)
    plus, minus = spots.end(name, "+ terminal"), spots.end(name, "− terminal")
    post = spots.end(consumer.cell_id, "− post")
    how = f"{METERS[Quantity.DC_V]}, {Setting.LEVEL.value}, bursts of a second."
    how += f" Red at {plus.name}, black at {minus.name}."
    yield Check(f"level/volts/{name}", 3, f"{here.name} at full level", how,
                Probe(Quantity.DC_V, consumer.plus, consumer.minus, Setting.LEVEL), minutes_of("drop"), plus, minus,
                (f"live/amp/{name}/running",), name, EARS)  # fmt: skip
    how = (
        f"{METERS[Quantity.DROP_MV]}. One probe at {minus.name}, one at the battery's negative post. Bursts of a"
        " second; note the current beside it."
    )
    yield Check(f"level/drop/{name}", 3, f"Ground drop of {here.name} at full level", how,
                Probe(Quantity.DROP_MV, consumer.minus, f"{consumer.cell_id} minus", Setting.LEVEL, subject=name),
                minutes_of("drop"), minus, post, (f"level/volts/{name}",), name, EARS)  # fmt: skip
    most = float(table("proof", "limits")["heat_c"])
    yield Check(
        f"level/heat/{name}", 3, f"{here.name} after 20 minutes",
        f"{METERS[Quantity.HEAT]}, twenty minutes of music at the usual step: at most {most:g} °C.",
        Probe(Quantity.HEAT, setting=Setting.LEVEL, subject=name), minutes_of("heat"), here, None, (), name,
        at_most=most, closing=False,
    )  # fmt: skip


def _shared(results: Results, spots: Spots) -> Iterator[Check]:
    """Leads in parallel carry alike."""
    for supply in results.supplies:
        chosen = supply.chosen
        if chosen is None or chosen.wire.leads < 2 or chosen.current_a is None:
            continue
        each = amount(chosen.current_a / chosen.wire.leads, "a")
        how = (
            f"Clamp round each lead to {supply.part.name} in turn, bursts of a second at full level: about {each} each,"
            " the most and the least within a fifth. One that carries less has a bad joint, or is longer."
        )
        probe = Probe(Quantity.ANSWER, setting=Setting.LEVEL, ask=Ask.DONE, subject=supply.link.id)
        yield Check(f"level/shared/{supply.link.id}", 3, f"{supply.part.name}: its leads carry alike", how, probe,
                    minutes_of("drop"), spots.of(supply.part.id), None, (), supply.part.id, EARS)  # fmt: skip


def _asleep(results: Results, car: Car, spots: Spots) -> Check:
    known = results.design.vehicle.supply.standby_current_a.value is not None
    most = None if known else float(table("proof", "limits")["asleep_ma"])
    cell = car.network.cells[0].id if car.network is not None else ""
    how = "Key off, doors closed, half an hour: some cars keep their bus awake that long."
    return Check("level/asleep", 3, "Current asleep", f"{METERS[Quantity.ASLEEP_MA]}. {how}",
                 Probe(Quantity.ASLEEP_MA, setting=Setting.ASLEEP), minutes_of("asleep"),
                 spots.end(cell, "− post") if cell else None, at_most=most, closing=False)  # fmt: skip


def _responses(results: Results) -> Iterator[Check]:
    before = [r for r in results.design.vehicle.responses if r.measured_at is MeasuredAt.SEAT
              and r.taken is Taken.BEFORE]  # fmt: skip
    if before:
        probe = Probe(Quantity.ANSWER, setting=Setting.ON, ask=Ask.DONE, subject="response")
        yield Check("level/response", 3, "Response at the seat, after", "Read the same place in as before; compare.",
                    probe, minutes_of("response"), closing=False, sheet="responses")  # fmt: skip
