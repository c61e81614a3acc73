"""What in a car is not known exactly, between what and what it lies, and the car with it elsewhere."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from ohmack.core.network.model import Branch, Place, PowerNetwork
from ohmack.core.physics.supply import Load
from ohmack.core.prove.car import LEAD, Car, Fed, Output, Setting
from ohmack.core.record import record
from ohmack.core.reference import table
from ohmack.core.wording import lowered

JOINTS = (Place.POST, Place.POSITIVE, Place.NEGATIVE, Place.RING, Place.BLOCK)
OF_PLACE = {Place.FUSE: "fuse", Place.RUN: "wire", Place.LEAD: "wire", Place.BODY: "body", Place.STRAP: "strap"}


@record
class Span:
    """A value that is not known exactly: it lies anywhere between two ends, as far as anybody can say."""

    kind: str  # branch, post, load, idle, coil, level, asleep
    of: str
    low: float
    high: float


def spans_of(car: Car) -> tuple[Span, ...]:
    """Everything in a car that is not known exactly.

    Parameters:
        car: the car.

    Returns:
        one span a value: of branches in ohms, of the rest as a factor of what is planned.

    Source: spreads common practice; ranges of the survey's own where it gives them.
    """
    spreads = table("proof", "spreads")
    found = []
    for branch in car.network.branches if car.network is not None else ():
        own = car.spans.get(branch.id)
        spread = float(spreads[OF_PLACE.get(branch.place, "joint")])
        low, high = own or (branch.resistance_ohm * (1 - spread), branch.resistance_ohm * (1 + spread))
        found.append(Span("branch", branch.id, low, high))
    post, load, idle, coil, gain = (float(spreads[n]) for n in ("post_share", "load", "idle", "coil", "gain"))
    for name, _, _ in car.posts:
        own = car.spans.get(f"post {name}")
        found.append(Span("post", name, *own) if own is not None else _about("post", name, post))
    for fed in car.fed:
        found += [_about("load", fed.id, load), _about("idle", fed.id, idle)]
    for output in car.outputs:
        found += [_coil(car, output, p.name, coil) for p in output.parts if p.name != LEAD]
        found.append(_about("level", output.scope, gain))
    own = car.spans.get("asleep")
    found.append(Span("asleep", "", *own) if own is not None else _about("asleep", "", float(spreads["asleep"])))
    return tuple(found)


OF_KIND = {
    "post": "what the battery holds", "load": "what {} draws at full level", "idle": "what {} draws without music",
    "coil": "what its coils read by themselves", "level": "the level itself", "asleep": "what the car draws asleep",
}  # fmt: skip


def said_of(car: Car, span: Span) -> str:
    """What a span is about, in words."""
    if span.kind == "branch" and car.network is not None:
        return lowered(next(b.term.name for b in car.network.branches if b.id == span.of))
    fed = car.feeding(span.of)
    return OF_KIND[span.kind].format(fed.name if fed is not None else "")


def planned_of(car: Car, span: Span) -> float:
    """The value a span is about, as planned, in the span's own terms."""
    if span.kind != "branch" or car.network is None:
        return 1.0
    return next(b.resistance_ohm for b in car.network.branches if b.id == span.of)


def _about(kind: str, of: str, share: float) -> Span:
    return Span(kind, of, 1 - share, 1 + share)


def _coil(car: Car, output: Output, name: str, usual: float) -> Span:
    of = f"{output.scope} {name}"
    own = car.spans.get(of) or car.spans.get(name)
    return Span("coil", of, *own) if own is not None else _about("coil", of, usual)


def moved(car: Car, to: Mapping[Span, float]) -> Car:
    """The car with values of its spans elsewhere.

    Parameters:
        car: the car.
        to: by span, the value in the span's own terms.

    Returns:
        the car.
    """
    by: dict[str, dict[str, float]] = {}
    for span, value in to.items():
        by.setdefault(span.kind, {})[span.of] = value
    network = car.network
    if network is not None and "branch" in by:
        network = _with_branches(network, by["branch"])
    emf = car.emf_v
    if "post" in by:
        emf = {s: {n: v * by["post"].get(n, 1.0) for n, v in held.items()} for s, held in emf.items()}
    loads, idles, asleep = by.get("load", {}), by.get("idle", {}), by.get("asleep", {}).get("", 1.0)
    fed = tuple(_fed(f, loads.get(f.id, 1.0), idles.get(f.id, 1.0), asleep) for f in car.fed)
    outputs = car.outputs
    if "coil" in by or "level" in by:
        outputs = tuple(_output(o, by.get("coil", {}), by.get("level", {}).get(o.scope, 1.0)) for o in outputs)
    return replace(car, network=network, emf_v=emf, fed=fed, outputs=outputs, standby_a=car.standby_a * asleep)


def _with_branches(network: PowerNetwork, ohm: Mapping[str, float]) -> PowerNetwork:
    def at(branch: Branch) -> Branch:
        if branch.id not in ohm:
            return branch
        return replace(branch, term=replace(branch.term, value=ohm[branch.id]))

    return replace(network, branches=tuple(at(b) for b in network.branches))


def _fed(fed: Fed, load: float, idle: float, asleep: float) -> Fed:
    if load == idle == asleep == 1.0:
        return fed
    return replace(fed, load=_times(fed.load, load), idle=_times(fed.idle, idle), asleep_a=fed.asleep_a * asleep)


def _times(load: Load, factor: float) -> Load:
    return Load(load.power_w * factor, load.conductance_s * factor, load.current_a * factor)


def _output(output: Output, coils: Mapping[str, float], level: float) -> Output:
    parts = tuple(
        replace(p, impedance_ohm=p.impedance_ohm * coils[f"{output.scope} {p.name}"])
        if f"{output.scope} {p.name}" in coils else p for p in output.parts
    )  # fmt: skip
    volts = {n: None if (v := getattr(output, n)) is None else v * level for n in LEVELS}
    return replace(output, parts=parts, **volts)  # type: ignore[arg-type]


LEVELS = ("source_v", "in_v", "out_v", "wanted_v")  # what is louder where a level is


def touches(span: Span, setting: Setting, subject: str) -> bool:
    """Whether a value can matter to a reading in a setting at an output."""
    if span.kind == "coil":
        return setting is Setting.DEAD and span.of.startswith(f"{subject} ")
    if span.kind == "level":
        return span.of == subject
    if span.kind == "asleep":
        return setting is Setting.ASLEEP
    if setting is Setting.DEAD:
        return span.kind == "branch"
    if span.kind == "load":
        return setting.playing
    return not (span.kind == "idle" and setting.playing)
