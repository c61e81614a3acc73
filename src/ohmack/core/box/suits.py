"""A box judged the other way round: which drivers it suits, where nothing is known of the one that goes in."""

from __future__ import annotations

from math import sqrt

from ohmack.core.document.boxes import Box
from ohmack.core.physics.alignments import BUTTERWORTH_Q
from ohmack.core.record import record

SHARES = (0.5, 1.0, 2.0)  # of the box's volume, as a driver's Vas
B4_Q, B4_ALPHA = 1 / 2.6131, sqrt(2)  # the flat lossless vented box of the handbooks (Thiele, from memory)


@record
class Suits:
    """A driver a box suits: its Vas, its Qts, and where it matters its resonance."""

    vas_l: float
    qts: float
    fs_hz: float | None = None


def suited_drivers(box: Box) -> tuple[Suits, ...]:
    """Drivers a box makes flat.

    Parameters:
        box: closed or vented, with its volume.

    Returns:
        for a closed box the Qts by Vas that makes its Q 0.71; for a vented one of known tuning the driver of the flat
        fourth-order alignment; none for other boxes.

    Source: Qts √(1 + Vas/V) = 0.71, Small 1972; Thiele's first alignment (both from memory).
    """
    if box.box_type in ("closed", "free air"):
        return tuple(Suits(share * box.net_volume_l, BUTTERWORTH_Q / sqrt(1 + share)) for share in SHARES)
    if box.box_type == "vented" and box.tuning_hz is not None:
        return (Suits(B4_ALPHA * box.net_volume_l, B4_Q, box.tuning_hz),)
    return ()
