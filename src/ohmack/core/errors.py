"""One tree of errors for the core; each carries fields, so that the web can put the sentence at its place."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf

from ohmack.core.units import unit_of


class OhmackError(Exception):
    """Root of everything the core raises on purpose."""


@dataclass
class OutOfRange(OhmackError):
    """A number outside the range a model is valid for."""

    parameter: str
    value: float
    unit: str
    allowed: str

    def __str__(self) -> str:
        return f"The {in_words(self.parameter)} is {self.value:g} {self.unit}; allowed is {self.allowed}."


IN_WORDS = {
    "source_v": "source voltage",
    "new_ohm": "new load",
    "old_ohm": "old load",
    "loads_ohm": "load",
    "rating_a": "fuse rating",
    "tone_dbfs": "test tone",
    "overlap_db": "level past full power",
    "strand_count": "number of strands",
    "rise_m": "rise",
    "slack_fraction": "slack",
    "full_scale_v": "full output",
    "idle_a": "alternator's output at idle",
    "leads": "number of leads",
}
"""Names of parameters for people, where they are more than the name without its unit."""


def in_words(parameter: str) -> str:
    """What a parameter is called before people: no underscores, no unit.

    >>> in_words("idle_current_a"), in_words("load_ohm"), in_words("overlap_db")
    ('idle current', 'load', 'level past full power')
    """
    words = parameter.split("_")
    return IN_WORDS.get(parameter) or " ".join(words[:-1] if unit_of(parameter) else words)


@dataclass
class NoOperatingPoint(OhmackError):
    """A constant-power load asks for more than the source can deliver through the wire."""

    parameter: str
    wanted_power_w: float
    source_v: float

    def __str__(self) -> str:
        return (
            f"{self.wanted_power_w:.0f} W cannot be drawn through this wire from {self.source_v:.2f} V: "
            "the voltage collapses before the power is reached."
        )


@dataclass
class NotLaid(OhmackError):
    """A wire of the works: the plan lays nothing, so there is nothing to measure or to cut."""

    parameter: str

    def __str__(self) -> str:
        return "It runs over the factory wires: nothing of it is laid or cut."


@dataclass
class NotWired(OhmackError):
    """An output whose leads make no load: shorted, or open."""

    parameter: str
    why: str

    def __str__(self) -> str:
        return f"There is no load to judge: {self.why}."


@dataclass
class UnknownName(OhmackError):
    """A size, family, port or path that does not exist."""

    parameter: str
    name: str
    known: str = ""

    def __str__(self) -> str:
        tail = f" Known are: {self.known}." if self.known else ""
        return f"{self.parameter} “{self.name}” is not known.{tail}"


@dataclass
class NotPossible(OhmackError):
    """Something that cannot be done with this car or plan; `reason` says why, in a sentence."""

    parameter: str
    reason: str

    def __str__(self) -> str:
        return self.reason


class OfTheValue(str):
    """What is wrong with the value at a place, said without a subject: “must be more than 0”."""


@dataclass
class BadDocument(OhmackError):
    """A design document that cannot be read; `places` lists where and why, each why a sentence of its own or
    `OfTheValue`.
    """

    places: tuple[tuple[str, str], ...]

    def __str__(self) -> str:
        return "; ".join(f"{place}: {reason}" for place, reason in self.places)


def require(parameter: str, value: float, unit: str, above: float = 0.0, up_to: float = inf) -> None:
    """Refuse a value outside (above, up_to]; NaN is refused too.

    Raises:
        OutOfRange: the value is not above `above`, or is more than `up_to`, or is no number.
    """
    if not (above < value <= up_to and value < inf):
        limit = f"more than {above:g} {unit}" + ("" if up_to == inf else f" and at most {up_to:g} {unit}")
        raise OutOfRange(parameter, value, unit, limit)
