"""Settings of one gain compared: what each limit allows, what signal is left over noise, and which is best."""

from __future__ import annotations

from collections.abc import Sequence
from math import inf

from ohmack.core.errors import require
from ohmack.core.physics.noise import noise_of_db
from ohmack.core.physics.signal_chain import db_from_voltage_ratio, dbv, voltage_ratio_from_db
from ohmack.core.record import record

TOO_LITTLE = "too little for full output behind it"
NEAR = 1.005  # a limit met within half a percent is met


@record
class GainSetting:
    """One setting: where it stands, what leaves, what is left over noise, and what stands against it."""

    gain_db: float
    output_v: float
    stands_at: str
    snr_db: float | None  # the least of all inputs behind it; None where a noise is not known
    against: str  # "" where nothing does

    @property
    def kept_db(self) -> float:
        """The gain as a knob is set to it [db]."""
        return round(self.gain_db, 2)

    @property
    def fits(self) -> bool:
        """Whether nothing clips with it and everything behind it comes to full output."""
        return not self.against


def gain_settings(
    source_v: float,
    gain_low_db: float,
    gain_high_db: float,
    output_limit_v: float,
    spans_v: Sequence[tuple[float, float]],
    own_noise_dbv: float | None,
    noises_dbv: Sequence[float | None],
) -> tuple[GainSetting, ...]:
    """Every setting of a gain worth thinking of, the best first.

    Parameters:
        source_v: what comes in at the top volume, rms [v].
        gain_low_db: lowest gain [db].
        gain_high_db: highest gain [db].
        output_limit_v: where its output clips, rms [v].
        spans_v: of every input behind it the (most, least) sensitive setting, shape (n, 2) [v].
        own_noise_dbv: at its output [dbv].
        noises_dbv: of every input behind it, shape (n,) [dbv].

    Returns:
        settings, the best first: what fits, the loudest before the rest, as noise does not change with the gain; then
        what gives too little, the loudest first; then what clips or is too much, the quietest first.

    Raises:
        OutOfRange: a voltage not above zero, a range of gain upside down.

    Source: levels and noise powers add: textbook; which settings are looked at: every limit, and a gain of one.
    """
    require("source_v", source_v, "v")
    require("output_limit_v", output_limit_v, "v")
    require("gain_high_db", gain_high_db, "db", above=gain_low_db - 1e-9)
    lowest_v, highest_v = (source_v * voltage_ratio_from_db(gain) for gain in (gain_low_db, gain_high_db))
    stands = [
        ("its clean output", output_limit_v),
        ("its highest gain", highest_v),
        ("its lowest gain", lowest_v),
        ("a gain of one", source_v),
        ("the least sensitive setting behind it", min((span[1] for span in spans_v), default=inf)),
        ("the most sensitive setting behind it", max((span[0] for span in spans_v), default=0.0)),
    ]
    found: list[GainSetting] = []
    for name, output_v in sorted(stands, key=lambda one: one[1]):  # of two that are alike the lower
        inside = lowest_v / NEAR <= output_v <= highest_v * NEAR
        if not inside or any(abs(db_from_voltage_ratio(output_v / one.output_v)) < 0.05 for one in found):
            continue
        found.append(
            GainSetting(
                db_from_voltage_ratio(output_v / source_v), output_v, name,
                _snr_db(output_v, own_noise_dbv, noises_dbv), _against(output_v, output_limit_v, spans_v),
            )
        )  # fmt: skip
    return tuple(sorted(found, key=_in_order))


def _in_order(one: GainSetting) -> tuple[int, float]:
    if one.against in ("", TOO_LITTLE):
        return (0 if one.fits else 1), -one.output_v
    return 2, one.output_v


def _snr_db(output_v: float, own_dbv: float | None, noises_dbv: Sequence[float | None]) -> float | None:
    known = [noise for noise in noises_dbv if noise is not None]
    if own_dbv is None or not known or len(known) < len(noises_dbv):
        return None
    return dbv(output_v) - noise_of_db((own_dbv, max(known)))


def _against(output_v: float, limit_v: float, spans_v: Sequence[tuple[float, float]]) -> str:
    if output_v > limit_v * NEAR:
        return "its output clips"
    if any(output_v > least * NEAR for _, least in spans_v):
        return "more than the input behind it can be turned down for"
    if any(output_v < most / NEAR for most, _ in spans_v):
        return TOO_LITTLE
    return ""
