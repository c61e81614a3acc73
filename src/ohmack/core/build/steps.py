"""What a step of the work is: what, where, after what, with which tools, in how many minutes."""

from __future__ import annotations

from enum import IntEnum

from ohmack.core.physics.geometry import Point
from ohmack.core.record import record


class Phase(IntEnum):
    """Where in the work a step belongs."""

    TABLE = 1
    BEFORE = 2
    BATTERY = 3
    OFF = 4
    OUT = 5
    LAY = 6
    FIT = 7
    JOIN = 8
    CHECK = 9
    POWER = 10
    CLOSE = 11

    @property
    def words(self) -> str:
        """As it is said."""
        return _PHASES[self]


_PHASES = {
    Phase.TABLE: "On the table, before the car comes", Phase.BEFORE: "Before anything is unplugged",
    Phase.BATTERY: "Battery", Phase.OFF: "Take off", Phase.OUT: "Take out", Phase.LAY: "Lay", Phase.FIT: "Fix",
    Phase.JOIN: "Join", Phase.CHECK: "Check, no fuse in", Phase.POWER: "First power",
    Phase.CLOSE: "Put back",
}  # fmt: skip


SEAT_OFF = "off-seat"  # the kind of step that takes a seat off its bolts
HEADLINING_OFF = "off-headlining"  # one step for all speakers in the ceiling, and its kind


@record
class Step:
    """One step of the work."""

    id: str
    phase: Phase
    what: str
    kind: str  # whose minutes, tools and hands it has; empty for a step of the shop's own
    needs: tuple[str, ...] = ()
    where: Point | None = None  # on the plan
    cautions: tuple[str, ...] = ()
    one_shot: bool = False  # cannot be undone
    takes_off: str = ""  # what comes off the car with it
    low_min: float = 0.0
    high_min: float = 0.0
    tools: str = ""
    people: int = 1
    own: bool = False  # whether the shop put it in
    part_ids: tuple[str, ...] = ()  # the parts it cannot do without
    times: float = 1.0  # how many times over what its kind takes

    @property
    def once_min(self) -> tuple[float, float]:
        """What its kind takes once, at least and at most [min]."""
        return self.low_min / self.times, self.high_min / self.times

    @property
    def timed_as(self) -> dict[str, object]:
        """What a mark keeps, so that the shop may learn from its minutes: putting back is no measure of taking off."""
        return {"kind": "" if self.phase is Phase.CLOSE else self.kind, "times": self.times}

    @property
    def minutes(self) -> float:
        """The middle of its range [min]."""
        return (self.low_min + self.high_min) / 2
