"""Where the steps of one plan are filed: each once, after what it needs, with the minutes and tools of its kind."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

from ohmack.core.build.in_line import pieces_in_line
from ohmack.core.build.steps import Phase, Step
from ohmack.core.document import Design
from ohmack.core.document.parts import Accessory, HeadUnit
from ohmack.core.document.vehicle import Speaker
from ohmack.core.fit.runs import BEHIND_THE_RADIO
from ohmack.core.physics.geometry import Point
from ohmack.core.reference import table

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


class StepBook:
    """The steps filed so far, and what of the plan more than one kind of work asks for."""

    def __init__(self, results: Results) -> None:
        self.results = results
        self.design: Design = results.design
        self.steps: dict[str, Step] = {}
        self.pieces = pieces_in_line(results)
        self.cables = [row for row in results.wire_rows if row.points]  # those no link stands for
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
        known = tuple(dict.fromkeys(n for n in needs if n in self.steps))
        self.steps[name] = Step(
            name, phase, what, kind, known, where, cautions, low_min=float(low) * times, high_min=float(high) * times,
            tools=tools, people=people or hands, times=times, **more,
        )  # fmt: skip
        return name

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

    @property
    def taken(self) -> tuple[str, ...]:
        """The steps that take something off, as filed."""
        return self.of_phase(Phase.OFF)

    # -- what the plan is ----------------------------------------------------------------------------------------

    @property
    def wired(self) -> bool:
        """Whether wires of the car are touched, or new ones laid."""
        in_the_dash = self.behind_radio or any(piece.behind_radio for piece in self.pieces)
        return bool(self.design.links or self.cables or in_the_dash)

    @property
    def new_radio(self) -> HeadUnit | None:
        """The radio that comes into the dash."""
        return next(self.design.parts_of(HeadUnit), None)

    @property
    def behind_radio(self) -> list[Accessory | HeadUnit]:
        """The new radio, and the boxes, adapters and leads that are plugged in behind it or the one there was."""
        boxes = [p for p in self.design.parts_of(Accessory) if p.category in BEHIND_THE_RADIO]
        return [*([self.new_radio] if self.new_radio is not None else []), *boxes]

    @property
    def swaps(self) -> list[tuple[Speaker, str]]:
        """Speaker places that get a new driver, with its name."""
        return [(d.speaker, d.driver.name) for d in self.results.drives if d.driver is not None]
