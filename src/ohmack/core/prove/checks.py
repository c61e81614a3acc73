"""What a check is, and where its probes sit on the car."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import TYPE_CHECKING

from ohmack.core.physics.geometry import Point
from ohmack.core.prove.car import Setting
from ohmack.core.prove.points import is_itself
from ohmack.core.prove.probes import Probe, Quantity
from ohmack.core.record import record
from ohmack.core.reference import table

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

GATES = {1: "Before the fuse goes in", 2: "First power", 3: "Levels and sound"}
METERS = {
    Quantity.OHM: "Meter on ohms, leads held together first",
    Quantity.DC_V: "Meter on DC volts",
    Quantity.DROP_MV: "Meter on DC millivolts, a clamp on the ground lead",
    Quantity.CURRENT: "Clamp on DC amperes",
    Quantity.ASLEEP_MA: "Meter on DC milliamperes in the negative lead, or a clamp that reads them",
    Quantity.AC_V: "Meter on AC volts, true rms",
    Quantity.DISTORTION: "Scope or analyser",
    Quantity.STEP: "Scope or distortion detector at the output",
    Quantity.HEAT: "Thermometer on the case",
    Quantity.ANSWER: "",
}


def minutes_of(kind: str) -> float:
    """What a check of a kind takes [min]."""
    return float(table("proof", "minutes")[kind])


@record
class Spot:
    """A place a probe sits at: what it is called, and where on the plan; None where it has no place yet."""

    name: str
    point: Point | None = None


@record
class Check:
    """One check of the plan of proof."""

    id: str
    gate: int
    title: str
    how: str
    probe: Probe
    minutes: float
    plus: Spot | None = None
    minus: Spot | None = None
    needs: tuple[str, ...] = ()
    about: str = ""  # the thing it is about, by id
    caution: str = ""
    nothing: bool = False  # whether a meter must show no connection
    at_most: float | None = None  # a limit instead of a prediction
    at_least: float = 0.0
    planned: float | None = None  # a value of the plan's own instead of the car's: a volume step
    ways: tuple[str, ...] = ()  # what it may read, where that is for the reading to say; nothing is predicted
    closing: bool = True  # whether the trim waits for it
    sheet: str = ""  # where something for it is read in

    @property
    def is_read(self) -> bool:
        """Whether a number is read, and not an answer given."""
        return self.probe.quantity is not Quantity.ANSWER

    @property
    def asks_current(self) -> bool:
        """Whether the current that flows meanwhile is noted with it."""
        return self.probe.quantity is Quantity.DROP_MV

    @property
    def setting(self) -> Setting:
        """What the car does meanwhile."""
        return self.probe.setting


def _told_apart(names: Sequence[str]) -> list[str]:
    """Names, those that are there more than once by number."""
    many, seen, found = Counter(names), Counter[str](), []
    for name in names:
        seen[name] += 1
        found.append(f"{name} no. {seen[name]}" if many[name] > 1 else name)
    return found


class Spots:
    """Where every point of a car is, by the names the model gives them."""

    def __init__(self, results: Results) -> None:
        design = results.design
        names = _told_apart([p.name for p in design.parts])
        self.parts = {
            p.id: (name, p.position.point if p.position is not None else None)
            for p, name in zip(design.parts, names, strict=True)
        }
        self.speakers = {s.id: (s.name, s.position.point) for s in design.vehicle.speakers}
        self.batteries = {b.id: (b.name, b.position.point) for b in design.vehicle.supply.batteries}
        packs = results.pack_feeds if design.vehicle.above_12_v else ()
        self.converter = next((pack.part.id for pack in packs), None)
        self.radio = (design.vehicle.radio.name, design.vehicle.radio.position.point)
        self.modules = {m.id: (m.name, m.position.point) for m in design.vehicle.modules}
        self.modules[design.vehicle.radio.id] = self.radio
        self.feeds = {f.id: (f.name, f.position.point) for f in design.vehicle.feeds}
        self._runs = results.runs

    def of(self, name: str) -> Spot:
        """A thing by id: its name and its place."""
        for known in (self.parts, self.speakers, self.batteries, self.modules, self.feeds):
            if name in known:
                return Spot(*known[name])
        return Spot(name)

    def end(self, name: str, words: str) -> Spot:
        """A terminal of a thing."""
        here = self.of(name)
        return Spot(f"{here.name}, {words}", here.point)

    def post(self, name: str) -> tuple[str, Spot, Spot]:
        """(title, where the red probe sits, where the black one) of a battery's post; above 12 V what feeds the rest is
        the output of a converter, and the battery itself is read at its input.
        """
        if self.converter is None:
            return self.of(name).name, self.end(name, "+ post"), self.end(name, "− post")
        there = "input" if is_itself(name) else "output"
        title = self.of(self.converter).name
        ends = self.end(self.converter, f"+ {there}"), self.end(self.converter, f"− {there}")
        return (f"Input of {title}" if there == "input" else title, *ends)

    def run(self, link_id: str, last: bool) -> Spot:
        """An end of a run."""
        run = self._runs.get(link_id)
        if run is None:
            return Spot(link_id)
        points = run.points
        return Spot(run.end_name if last else run.start_name, points[-1 if last else 0] if points else None)
