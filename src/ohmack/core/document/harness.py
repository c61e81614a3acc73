"""The factory harness: connectors with cavities, wire colours, what the meter read, and a hunt for unknown wires."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ohmack.core.document.facts import Fact, Identifier, Model, Name, Position
from ohmack.core.document.registry import Gone, Many, Ref

PinNumber = Annotated[int, Field(ge=1, le=999)]
AreaMm2 = Annotated[float, Field(gt=0, le=120)]
PinVolts = Annotated[float, Field(ge=-1, le=60)]
PinOhms = Annotated[float, Field(ge=0, le=10_000_000)]


OPEN_OHM = 9_999_999.0  # what is kept where the meter shows open


def reads_open(value_ohm: float | None) -> bool:
    """Whether a reading was kept as open."""
    return value_ohm is not None and value_ohm >= OPEN_OHM


class Colour(StrEnum):
    """Insulation colours."""

    BLACK = "black"
    BROWN = "brown"
    RED = "red"
    ORANGE = "orange"
    YELLOW = "yellow"
    GREEN = "green"
    LIGHT_GREEN = "light green"
    BLUE = "blue"
    LIGHT_BLUE = "light blue"
    PURPLE = "purple"
    GREY = "grey"
    WHITE = "white"
    PINK = "pink"
    BEIGE = "beige"
    TURQUOISE = "turquoise"


class CavityUse(StrEnum):
    """What a cavity's wire does."""

    CONSTANT = "constant"
    SWITCHED = "switched"
    ILLUMINATION = "illumination"
    GROUND = "ground"
    SPEAKER = "speaker"
    LINE = "line level"
    REMOTE = "amplifier remote"
    AERIAL = "aerial motor"
    BUTTONS = "steering-wheel buttons"
    BUS = "data bus"
    REVERSE = "reverse light"
    SPEED = "road speed"
    MICROPHONE = "microphone"
    VIDEO = "video"
    AIRBAG = "airbag, leave alone"
    OTHER = "something else"
    EMPTY = "empty"


class Polarity(StrEnum):
    PLUS = "plus"
    MINUS = "minus"


class Condition(StrEnum):
    """The state an earlier owner or the years left a wire in."""

    WHOLE = "whole"
    CUT = "cut"
    SPLICED = "spliced"
    CORRODED = "corroded"


class JointMethod(StrEnum):
    CRIMP = "crimp butt"
    SEALED_CRIMP = "crimp with adhesive sleeve"
    SOLDER_SLEEVE = "solder sleeve"
    SOLDER = "solder and heat-shrink"
    ADAPTER = "plug adapter"
    SCREW_LOCK = "reusable screw lock"
    TAP = "insulation-displacing tap"


class Cavity(Model):
    """One cavity of a connector with its wire.

    `expected` is what papers say, `use` what it is taken for, with its basis.
    """

    id: Identifier
    number: PinNumber = Field(title="Cavity")
    expected: CavityUse | None = Field(None, title="Papers say")
    use: Fact[CavityUse] = Field(default_factory=Fact, title="Is")
    channel_id: Annotated[Identifier | None, Ref("channel", empty="none")] = Field(None, title="Speaker pair")
    polarity: Polarity | None = Field(None, title="Polarity")
    feed_id: Annotated[Identifier | None, Ref("feed", empty="none")] = Field(None, title="Is the feed")
    base: Colour | None = Field(None, title="Base colour")
    tracer: Colour | None = Field(None, title="Tracer colour")
    area_mm2: AreaMm2 | None = Field(None, title="Wire")
    destination: Name = Field("", title="Goes to")
    condition: Condition = Field(Condition.WHOLE, title="Found")
    joint: JointMethod | None = Field(None, title="Joint")
    off_v: PinVolts | None = Field(None, title="Volts, key off")
    accessory_v: PinVolts | None = Field(None, title="Volts, accessory")
    lights_v: PinVolts | None = Field(None, title="Volts, accessory and lights")
    body_ohm: PinOhms | None = Field(None, title="Ohms to body, key off")

    @property
    def title(self) -> str:
        """What it is called where it stands alone; its connector may call it by a letter."""
        return f"Cavity {self.number}"

    @property
    def taken_for(self) -> CavityUse | None:
        """What the cavity is taken for: what was found, else what papers say."""
        return self.use.value if self.use.value is not None else self.expected


class Housing(Model):
    """A generic housing: a block of cavities, with a keyway on one edge."""

    rows: Annotated[int, Field(ge=1, le=26)] = Field(2, title="Rows")
    columns: Annotated[int, Field(ge=1, le=60)] = Field(8, title="Columns")
    numbered: Literal["along the rows", "down the columns", "there and back", "lettered rows"] = Field(
        "along the rows", title="Numbered"
    )
    keyway: Literal["none", "top", "bottom", "left", "right"] = Field("top", title="Keyway")
    numbers_from: Literal["mating side", "wire side"] = Field("mating side", title="Numbered as seen from the")
    wide: tuple[PinNumber, ...] = Field((), max_length=24, title="Wide cavities")

    @property
    def size(self) -> int:
        """How many cavities it has."""
        return self.rows * self.columns

    def called(self, number: int) -> str:
        """What stands beside a cavity: its number, or row letter and column as in B7."""
        if self.numbered != "lettered rows" or not 1 <= number <= self.size:
            return str(number)
        row, column = divmod(number - 1, self.columns)
        return f"{chr(ord('A') + row)}{column + 1}"

    def number_of(self, text: str) -> int | None:
        """The number of a cavity that is called so; None where the housing has none."""
        typed = text.strip().upper()
        if typed[:1].isalpha() and typed[1:].isdigit() and len(typed) <= 4:
            row, column = ord(typed[0]) - ord("A"), int(typed[1:])
            return row * self.columns + column if row < self.rows and 1 <= column <= self.columns else None
        return int(typed) if typed.isdigit() and len(typed) <= 3 else None


class Connector(Model):
    """One connector of the factory loom."""

    id: Identifier
    name: Name = Field(title="Name")
    at_id: Annotated[Identifier | None, Ref("radio or module", empty="not known")] = Field(None, title="Plugs into")
    position: Position | None = None
    gender: Literal["plug", "socket"] = Field("plug", title="On the loom is a")
    housing: Housing = Field(default_factory=Housing)
    cavities: Annotated[tuple[Cavity, ...], Many("cavity", "cavities", shared=False)] = Field((), max_length=500)

    def called(self, cavity: Cavity) -> str:
        """What a cavity of it is called."""
        return self.housing.called(cavity.number)


class HuntWire(Model):
    """One unknown wire of a hunt."""

    id: Identifier
    name: Name = Field(title="Wire")
    base: Colour | None = Field(None, title="Base colour")
    tracer: Colour | None = Field(None, title="Tracer colour")
    cavity_id: Identifier | None = None


class Heard(StrEnum):
    """What a reading of the hunt showed besides a number or a speaker."""

    NOTHING = "nothing"
    OUT = "cone moves out"
    IN = "cone moves in"
    CONNECTED = "continuity"
    OPEN = "no continuity"


class Fault(StrEnum):
    """What may be wrong with a speaker of a hunt."""

    DEAD = "dead"
    SHORTED = "shorted"
    TOUCHING = "touching"
    TO_BODY = "on the body"


class TestKind(StrEnum):
    """The tests of a hunt."""

    __test__ = False  # not a test of pytest's

    RESISTANCE = "resistance"
    BODY = "continuity to body"
    TRIAL = "one pair at a time"
    POP = "pop test"


class HuntReading(Model):
    """One reading. For a pop test the cell's plus is on `wire_a_id`; `bundled_ids` sit in one clip with `wire_b_id`."""

    id: Identifier
    kind: TestKind = Field(title="Test")
    wire_a_id: Annotated[Identifier, Ref("hunted wire", Gone.GOES_TOO, offered=False)]
    wire_b_id: Annotated[Identifier | None, Ref("hunted wire", Gone.GOES_TOO, offered=False)] = None
    bundled_ids: Annotated[tuple[Identifier, ...], Ref("hunted wire", Gone.GOES_TOO, offered=False)] = Field(
        (), max_length=16
    )
    value_ohm: PinOhms | None = Field(None, title="Ohms")
    heard: Heard | None = Field(None, title="What happened")
    speaker_id: Annotated[Identifier | None, Ref("speaker", Gone.GOES_TOO, offered=False)] = None
    withdrawn: bool = Field(False, title="Withdrawn")

    @model_validator(mode="after")
    def _says_something(self) -> Self:
        pair = self.kind is not TestKind.BODY
        if pair and (self.wire_b_id is None or self.wire_b_id == self.wire_a_id):
            raise ValueError("a reading between two wires needs two different wires")
        if self.bundled_ids and len({self.wire_a_id, self.wire_b_id, *self.bundled_ids}) < 2 + len(self.bundled_ids):
            raise ValueError("every wire of a reading is named once")
        if not pair and (self.wire_b_id is not None or self.bundled_ids):
            raise ValueError("continuity to body is read on one wire")
        if self.kind is TestKind.RESISTANCE and self.value_ohm is None:
            raise ValueError("a resistance needs its ohms")
        wanted = {TestKind.BODY: (Heard.CONNECTED, Heard.OPEN), TestKind.POP: (Heard.OUT, Heard.IN, Heard.NOTHING)}
        if self.kind in wanted and self.heard not in wanted[self.kind]:
            raise ValueError(f"say what happened: {', '.join(h.value for h in wanted[self.kind])}")
        if self.kind is TestKind.TRIAL and (self.heard is Heard.NOTHING) == (self.speaker_id is not None):
            raise ValueError("say which speaker sounded, or that none did")
        if self.kind in (TestKind.RESISTANCE, TestKind.BODY) and self.speaker_id is not None:
            raise ValueError("an ohmmeter names no speaker")
        if self.kind is TestKind.POP and self.heard is Heard.NOTHING and self.speaker_id is not None:
            raise ValueError("a speaker that did not move is none that moved")
        return self

    @property
    def clip(self) -> tuple[str, ...]:
        """The wires on the other side: one, or a bundle in one clip; none for continuity to body."""
        return (self.wire_b_id, *self.bundled_ids) if self.wire_b_id is not None else ()


class Hunt(Model):
    """A hunt: wires nobody knows, the speakers they may lead to, and what was read.

    Wires beyond two for each speaker and one for each ground lead elsewhere; with fewer, some speakers have no pair
    among them.
    """

    connector_id: Annotated[Identifier | None, Ref("connector", offered=False)] = None
    wires: Annotated[tuple[HuntWire, ...], Many("hunted wire", "wires", shared=False)] = Field(
        (), max_length=16, title="Wires"
    )
    speaker_ids: Annotated[tuple[Identifier, ...], Ref("speaker", offered=False)] = Field(
        (), max_length=16, title="Speakers they may lead to"
    )
    grounds: Annotated[int, Field(ge=0, le=4)] = Field(0, title="Grounds among them")
    bundles: bool = Field(False, title="Several fit into one clip")
    dead_ids: Annotated[tuple[Identifier, ...], Ref("speaker", offered=False)] = Field((), max_length=16)
    shorted_ids: Annotated[tuple[Identifier, ...], Ref("speaker", offered=False)] = Field((), max_length=16)
    dead_unknown: Annotated[int, Field(ge=0, le=2)] = Field(0, title="Dead speakers, not known which")
    shorted_unknown: Annotated[int, Field(ge=0, le=2)] = Field(0, title="Shorted pairs, not known which")
    touching_ids: Annotated[tuple[Identifier, ...], Ref("hunted wire", offered=False)] = Field(
        (), max_length=4, title="Wires that touch each other"
    )
    to_body_ids: Annotated[tuple[Identifier, ...], Ref("hunted wire", offered=False)] = Field(
        (), max_length=4, title="Wires that touch the body"
    )
    readings: Annotated[tuple[HuntReading, ...], Many("reading", "readings", shared=False)] = Field((), max_length=200)

    @property
    def others(self) -> int:
        """Wires among them that lead to no speaker and no ground."""
        return max(0, len(self.wires) - 2 * len(self.speaker_ids) - self.grounds)

    def fault_of(self, speaker_id: str) -> Fault | None:
        """What a speaker of the hunt is taken to suffer from; None for one that is whole."""
        if speaker_id in self.dead_ids:
            return Fault.DEAD
        return Fault.SHORTED if speaker_id in self.shorted_ids else None
