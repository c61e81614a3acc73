"""Where the steps of one plan are filed: each once, after what it needs, with the minutes and tools of its kind."""

from __future__ import annotations

from collections.abc import Iterable
from math import dist
from typing import TYPE_CHECKING, Any

from ohmack.core.build.fuses_there import unread_fuses
from ohmack.core.build.in_line import pieces_in_line
from ohmack.core.build.plug_adapters import adapters_at
from ohmack.core.build.steps import Phase, Step
from ohmack.core.document import Design
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import Link, TapLink
from ohmack.core.document.parts import Accessory, HeadUnit
from ohmack.core.document.vehicle import Speaker
from ohmack.core.fit.runs import BEHIND_THE_RADIO, plays_over_the_loom
from ohmack.core.loads.meter import wired_now
from ohmack.core.loads.wiring_judge import WiringOption
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.geometry import Point
from ohmack.core.reference import table
from ohmack.core.supply.results import SupplyResult

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

AT_M = 0.1  # nearer than this is at the same place


class StepBook:
    """The steps filed so far, and what of the plan more than one kind of work asks for."""

    def __init__(self, results: Results) -> None:
        self.results = results
        self.design: Design = results.design
        self.steps: dict[str, Step] = {}
        self.within: dict[str, str] = {}  # by the id of a step that is done with another: that one's
        self.pieces = pieces_in_line(results)
        self.cables = [row for row in results.wire_rows if row.points and not row.in_car]  # those no link stands for
        self.links = [link for link in self.design.links if not link.in_car]  # those this job lays
        self.ways = [results.runs[link.id].points or () for link in self.links if link.id in results.runs]
        self.ways += [row.points for row in self.cables]
        self.ways += [tuple(p.point for p in one.way) for one in self.design.coming_out]
        self.learned = {t.kind: (t.low_min, max(t.low_min, t.high_min)) for t in self.design.work.times}

    def add(
        self, name: str, phase: Phase, what: str, kind: str, needs: Iterable[str] = (), where: Point | None = None,
        cautions: tuple[str, ...] = (), *, people: int = 0, times: float = 1.0, **more: Any,
    ) -> str:  # fmt: skip
        """File a step; gives its id.

        Parameters:
            name: its id.
            phase: where in the work it belongs.
            what: what is done, in words.
            kind: a row of `reference/steps.toml`: minutes, hands, tools; the minutes the shop learned come first.
            needs: ids of steps before it; those that are not filed are no part of this plan.
            where: on the plan [m, m].
            cautions: what to mind.
            people: hands, where more than the kind's are needed.
            times: over the kind's minutes.
            more: other fields of `Step`.
        """
        low, high, hands, tools = table("steps", "kinds")[kind]
        low, high = self.learned.get(kind, (low, high))
        known = tuple(dict.fromkeys(n for n in (self.within.get(n, n) for n in needs) if n in self.steps))
        self.steps[name] = Step(
            name, phase, what, kind, known, where, cautions, low_min=float(low) * times, high_min=float(high) * times,
            tools=tools, people=people or hands, times=times, **more,
        )  # fmt: skip
        return name

    def times_for(self, kind: str, length_m: float | None, leads: int = 1) -> float:
        """How many times a kind's minutes a length takes: what is done at its ends, and the rest in proportion.

        Parameters:
            kind: a row of `lengths` in `reference/steps.toml`.
            length_m: of the cable [m]; as long as usual where nobody knows.
            leads: how many are laid together, each with ends of its own.

        Returns:
            the factor. Source: common practice, no source.
        """
        usual = table("steps", "lengths")
        ends = float(usual["at_the_ends"])
        one = 1.0 if length_m is None else ends + (1 - ends) * length_m / float(usual[kind])
        return one + ends * (leads - 1)

    def off(self, name: str, what: str, kind: str, item: str, where: Point | None, *cautions: str) -> None:
        """File that something comes off the car, after the battery is off and everything was tried."""
        self.add(name, Phase.OFF, what, kind, ("battery-off", "try-all"), where, cautions, takes_off=item)

    def look_behind(self, of: str, name: str, phase: Phase, needs: Iterable[str], where: Point) -> str:
        """File the look behind what will be drilled; gives its id."""
        what = f"Look behind {name}: fuel, brake lines, wiring"
        return self.add(f"look-{of}", phase, what, "look-behind", needs, where)

    def named(self, *starts: str) -> tuple[str, ...]:
        """The ids filed so far that begin so."""
        return tuple(n for n in self.steps if n.startswith(starts))

    def of_phase(self, *phases: Phase) -> tuple[str, ...]:
        """The ids filed so far of some phases."""
        return tuple(n for n, s in self.steps.items() if s.phase in phases)

    def comes_out_at(self, where: Point) -> bool:
        """Whether something comes out, or is joined as it was, at a place of the car."""
        return any(
            dist(where, spot.point) < AT_M
            for one in self.design.coming_out
            for spot in (*one.way[:1], *one.way[-1:], *([one.position] if one.position is not None else []))
        )

    @property
    def taken(self) -> tuple[str, ...]:
        """The steps that take something off, as filed."""
        return self.of_phase(Phase.OFF)

    # -- what the plan is ----------------------------------------------------------------------------------------

    @property
    def wired(self) -> bool:
        """Whether wires of the car are touched, or new ones laid."""
        in_the_dash = self.behind_radio or any(piece.behind_radio for piece in self.pieces)
        rewired = self.ties or self.cables or self.fused_anew or self.fused_anew_small or in_the_dash or self.recoiled
        return bool(rewired or self.design.coming_out)

    @property
    def ties(self) -> list[Link]:
        """The links this job joins at an end at least: those it lays, and those that stay where a part is new."""
        new = {part.id for part in self.design.parts if not part.in_car}
        return [
            k for k in self.design.links if not k.in_car or not new.isdisjoint((k.to_id, getattr(k, "from_id", "")))
        ]

    @property
    def recoiled(self) -> list[tuple[LoadResult, WiringOption]]:
        """The outputs whose coils lie in the car and are wired another way in this job, each with how they are now."""
        seen = ((load, wired_now(load, self.results.lead_ohm(load))) for load in self.results.loads)
        return [(load, now) for load, now in seen if now is not None]

    @property
    def fused_anew(self) -> list[SupplyResult]:
        """The runs that stay with a fuse of Ohmack's choice: nobody read one in them."""
        return [s for s in self.results.supplies if s.link.in_car and s.link.fuse and s.link.fuse.rating_a is None]

    @property
    def fused_anew_small(self) -> list[tuple[str, float, str]]:
        """The same of factory feeds and charge cables: (link, amperes, what it feeds)."""
        return [
            (one.link.id, one.rating_a, one.fed)
            for one in unread_fuses(self.results)
            if one.rating_a is not None and one.link.kind != "power"
        ]

    @property
    def fed_anew(self) -> bool:
        """Whether this job lays power from a battery."""
        new = any(link.kind == "power" for link in self.links)
        return new or any(not feed.part.in_car for feed in self.results.pack_feeds)

    @property
    def stays(self) -> tuple[int, int]:
        """How many parts, and how many cables, were in the car before and stay."""
        design = self.design
        return sum(part.in_car for part in design.parts), sum(link.in_car for link in design.links)

    @property
    def taps(self) -> list[TapLink]:
        """The pickups this job makes; an amplifier on the plugs of the old one makes none."""
        return [t for t in self.design.new_links_of(TapLink) if not plays_over_the_loom(self.design, t)]

    @property
    def new_radio(self) -> HeadUnit | None:
        """The radio that comes into the dash."""
        return next(self.design.new_parts_of(HeadUnit), None)

    @property
    def behind_radio(self) -> list[Accessory | HeadUnit]:
        """The new radio, and the boxes, adapters and leads that are plugged in behind it or the one there was."""
        elsewhere = self.at_amplifier
        boxes = [p for p in self.design.new_parts_of(Accessory) if p.category in BEHIND_THE_RADIO]
        return [*([self.new_radio] if self.new_radio is not None else []), *(p for p in boxes if p not in elsewhere)]

    @property
    def without_radio(self) -> bool:
        """Whether no radio was in the car before the work."""
        return self.design.vehicle.radio.tier.value is Tier.NONE and not any(
            unit.in_car for unit in self.design.parts_of(HeadUnit)
        )

    @property
    def at_amplifier(self) -> list[Accessory]:
        """The plug adapters that go on the plug of a factory amplifier."""
        design = self.design
        return [part for part, at in adapters_at(design) if at is not design.vehicle.radio]

    @property
    def swaps(self) -> list[tuple[Speaker, str]]:
        """Speaker places that get a new driver, with its name."""
        drives = self.results.drives
        return [(d.speaker, d.driver.name) for d in drives if d.driver is not None and not d.driver.in_car]
