"""Proof: readings as they were taken, what was accepted in writing, what is known to be wrong, what is searched for."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, model_validator

from ohmack.core.document.facts import Identifier, Model, Name, Note
from ohmack.core.document.registry import Many

CheckId = Annotated[str, Field(min_length=1, max_length=120)]
Reads = Annotated[float, Field(ge=-1e9, le=1e9)]


class FaultKind(StrEnum):
    """What can be wrong in a car that was wired by a plan."""

    BAD_GROUND = "a bad ground"
    OPEN_GROUND = "a ground lead that is off or cut"
    CORRODED_HOLDER = "a corroded fuse holder"
    LOOSE_RING = "a loose ring"
    THIN_WIRE = "a thinner wire than planned"
    CLAD_WIRE = "copper-clad aluminium instead of copper"
    BLOWN_FUSE = "a blown fuse"
    RUN_TO_BODY = "a power run that touches the body"
    OPEN_RUN = "a power lead that is off or cut"
    BAD_CRIMP = "a bad crimp in a power lead"
    BAD_STRAP = "a corroded battery strap"
    WEAK_BATTERY = "a weak battery"
    NOT_CHARGING = "an alternator that does not charge"
    CHARGE_OFF = "a second battery that gets no charge"
    RELAY_STUCK = "a charging relay that does not open"
    NO_SWITCH_ON = "no switch-on at the terminal"
    STAYS_ON = "a switch-on that stays live with the key off"
    KEEPS_ON = "a part that stays on without its switch-on"
    CAR_DRAINS = "something of the car's own that draws with the key off"
    WRONG_FEED = "switched and constant exchanged"
    EARLY_ON = "a switch-on ahead of the source"
    WRONG_COILS = "coils wired another way"
    COIL_OPEN = "an open coil"
    COIL_SHORTED = "a shorted coil"
    PAIR_OPEN = "a speaker lead that is off"
    PAIR_TO_BODY = "a speaker lead that touches the body"
    PAIR_SHARED = "something else on the speaker leads"
    BAD_JOINT = "a bad joint in a lead"
    REVERSED = "a reversed polarity"
    CROSSED = "two channels crossed"
    WRONG_GAIN = "a gain that is off"
    INPUT_OVERLOAD = "an overdriven input"
    CONVERTER_RANGE = "a converter in the wrong range"
    NO_SIGNAL = "a line lead that is off"
    THIN_SOURCE = "a source without treble"
    BASS_LOST = "a source that takes the bass away"
    GROUND_LOOP = "a ground loop through the line leads"
    BROKEN_RING = "a broken ring"
    DEAD_ADAPTER = "a dead adapter"
    NO_PLUG = "a missing shorting plug"


class Symptom(StrEnum):
    """What somebody says is wrong, in the installer's words."""

    NO_POWER = "no power at all"
    NOT_IN_ACCESSORY = "works in on, but not in accessory"
    NO_TREBLE = "no treble"
    THIN_BASS = "thin bass"
    WHINE = "whine with engine speed"
    CUTS_OUT = "cuts out when loud"
    LIGHTS_DIM = "lights dim"
    DRAINS = "drains overnight"
    ONE_SILENT = "one side or one speaker silent"
    POPS = "pops at switch-on"
    QUIET = "too quiet"
    DISTORTED = "distorted long before it is loud"
    SILENT = "powered, and no sound at all"


class Fault(Model):
    """Something that is wrong: what, where, and by how much."""

    id: Identifier
    kind: FaultKind = Field(title="What is wrong")
    at: CheckId = Field(title="Where")
    other: Annotated[str, Field(max_length=400)] = ""  # a second place, or a wiring
    by: Annotated[float, Field(ge=-1000, le=1_000_000)] = 0.0  # ohms, decibels or a factor, by the kind


class ProofReading(Model):
    """One reading as it was taken; a correction is a new one that names it, never another value in its place."""

    id: Identifier
    check: CheckId
    value: Reads | None = Field(None, title="Reads")  # in the unit of its check; None for what is answered
    passed: bool | None = Field(None, title="Good")
    over: bool = Field(False, title="Beyond the meter's range")  # an ohmmeter that shows no connection
    current_a: Annotated[float, Field(ge=0, le=2000)] | None = Field(None, title="While so much flows")
    instrument: Name = Field("", title="Instrument")
    range: Name = Field("", title="Range")
    zero_ohm: Annotated[float, Field(ge=0, le=10)] = Field(0.0, title="Leads held together read")
    when: Name = ""
    who: Name = Field("", title="Read by")
    note: Note = Field("", title="Note")
    corrects: Annotated[str, Field(max_length=40)] = ""

    @model_validator(mode="after")
    def _says_something(self) -> Self:
        if self.value is None and self.passed is None and not self.over:
            raise ValueError("a reading says a value, or whether it is good")
        return self


class Deviation(Model):
    """A check that is not as predicted, or was not made, and stands as it is: who says so, and why."""

    id: Identifier
    check: CheckId
    reading: Annotated[str, Field(max_length=40)] = ""  # the one that is accepted; empty where none was taken
    by: Name = Field(min_length=1, title="Accepted by")
    reason: Note = Field(min_length=3, title="Because")
    when: Name = ""


class Jump(Model):
    """A gate that was passed with checks open: who says so, and why."""

    id: Identifier
    gate: Annotated[int, Field(ge=1, le=3)]
    open: tuple[CheckId, ...] = Field((), max_length=400)  # what was not passed then
    by: Name = Field(min_length=1, title="Passed by")
    reason: Note = Field(min_length=3, title="Because")
    when: Name = ""


class Mend(Model):
    """A fault that was found and mended; what was read before it is no evidence any more."""

    id: Identifier
    kind: FaultKind
    at: CheckId
    words: Note = Field("", title="What was done")
    after: Annotated[int, Field(ge=0, le=100_000)] = 0  # so many readings had been taken
    checks: tuple[CheckId, ...] = Field((), max_length=400)  # those that said it, to be made again
    when: Name = ""
    who: Name = ""


PRACTICE_EDITION = 4  # of a practice begun now; the first hides no fault that was not known to it


class Practice(Model):
    """A job that is practice: the bench stands in for the car, and hides faults drawn from a seed."""

    seed: Annotated[int, Field(ge=1, le=1_000_000)] = Field(1, title="Seed")
    level: Annotated[int, Field(ge=1, le=3)] = Field(1, title="Level")
    revealed: bool = Field(False, title="The answer was shown")
    edition: Annotated[int, Field(ge=1, le=PRACTICE_EDITION)] = 1  # which faults it may hide; what was begun keeps its


class Proof(Model):
    """The proof of one job."""

    practice: Practice | None = None

    readings: Annotated[tuple[ProofReading, ...], Many("proof reading", "proof readings", shared=False)] = Field(
        (), max_length=1000
    )
    deviations: Annotated[tuple[Deviation, ...], Many("deviation", "deviations", shared=False)] = Field(
        (), max_length=200
    )
    jumps: Annotated[tuple[Jump, ...], Many("passed gate", "passed gates", shared=False)] = Field((), max_length=20)
    mends: Annotated[tuple[Mend, ...], Many("mended fault", "mended faults", shared=False)] = Field((), max_length=60)
    faults: Annotated[tuple[Fault, ...], Many("known fault", "known faults", shared=False)] = Field((), max_length=12)
    symptoms: tuple[Symptom, ...] = Field((), max_length=13, title="What is wrong")
    not_symptoms: tuple[Symptom, ...] = Field((), max_length=13, title="What is not wrong")
