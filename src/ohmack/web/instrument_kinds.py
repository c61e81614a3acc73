"""Which of the shop's instruments reads what."""

from __future__ import annotations

from ohmack.core.prove.probes import Quantity
from ohmack.store.instruments import InstrumentKind

READS = {
    InstrumentKind.METER: "ohms, DC and AC volts, amperes by its clamp, degrees by its probe",
    InstrumentKind.ANALYSER: "effective volts and harmonics at an output: an oscilloscope or an analyser",
    InstrumentKind.SOURCE: "the test tone, where it does not come from a file",
}
BY = {Quantity.DISTORTION: InstrumentKind.ANALYSER}  # everything else the multimeter reads


def kind_for(quantity: Quantity) -> InstrumentKind:
    """Which instrument reads a quantity."""
    return BY.get(quantity, InstrumentKind.METER)
