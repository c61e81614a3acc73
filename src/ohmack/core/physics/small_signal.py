"""A driver in small-signal terms: what its papers give, what follows from it, and where the papers disagree."""

from __future__ import annotations

from math import pi

from ohmack.core.errors import require
from ohmack.core.record import record

AIR_DENSITY_KG_M3 = 1.204  # dry air at 20 C and 1013 hPa: textbook
SOUND_SPEED_M_S = 343.2  # the same
AIR_STIFFNESS_PA = AIR_DENSITY_KG_M3 * SOUND_SPEED_M_S**2  # ρc², what a volume of air resists with
TOLERATED = 0.15  # papers round, and makers measure each value on another sample; common practice


@record
class SmallSignal:
    """A driver as a lumped circuit: resonance, losses, the air its suspension is worth, cone area, coil."""

    fs_hz: float
    qms: float
    qes: float
    vas_m3: float
    sd_m2: float
    re_ohm: float
    le_h: float = 0.0
    xmax_m: float | None = None

    @property
    def qts(self) -> float:
        """Total Q at resonance."""
        return self.qms * self.qes / (self.qms + self.qes)

    @property
    def cms_m_n(self) -> float:
        """Compliance of the suspension [m/N]: Vas / (ρ c² Sd²)."""
        return self.vas_m3 / (AIR_STIFFNESS_PA * self.sd_m2**2)

    @property
    def mms_kg(self) -> float:
        """Moving mass with its air load [kg]: 1 / ((2 π fs)² Cms)."""
        return 1 / ((2 * pi * self.fs_hz) ** 2 * self.cms_m_n)

    @property
    def rms_kg_s(self) -> float:
        """Mechanical loss [kg/s]: 2 π fs Mms / Qms."""
        return 2 * pi * self.fs_hz * self.mms_kg / self.qms

    @property
    def bl_tm(self) -> float:
        """Force factor [T m]: √(2 π fs Mms Re / Qes)."""
        return float((2 * pi * self.fs_hz * self.mms_kg * self.re_ohm / self.qes) ** 0.5)


def checked(driver: SmallSignal) -> SmallSignal:
    """The driver, if every parameter can be one.

    Parameters:
        driver: what is to be computed with.

    Returns:
        the same.

    Raises:
        OutOfRange: a parameter that is not above zero; the inductance may be zero.

    Source: the lumped model holds for positive values only: textbook.
    """
    for name, value, unit in (
        ("fs_hz", driver.fs_hz, "Hz"), ("qms", driver.qms, ""), ("qes", driver.qes, ""),
        ("vas_m3", driver.vas_m3, "m³"), ("sd_m2", driver.sd_m2, "m²"), ("re_ohm", driver.re_ohm, "Ω"),
    ):  # fmt: skip
        require(name, value, unit)
    return driver


def together(driver: SmallSignal, count: int) -> SmallSignal:
    """Equal drivers in one chamber, wired in parallel, as one.

    Parameters:
        driver: one of them.
        count: how many.

    Returns:
        a driver of as much more area and suspension, the same resonance and losses, and the coils in parallel.

    Raises:
        OutOfRange: no driver.

    Source: textbook; Sd, Vas and 1/Re add.
    """
    require("count", count, "drivers")
    return SmallSignal(
        driver.fs_hz, driver.qms, driver.qes, count * driver.vas_m3, count * driver.sd_m2, driver.re_ohm / count,
        driver.le_h / count, driver.xmax_m,
    )  # fmt: skip


def isobaric(driver: SmallSignal) -> SmallSignal:
    """Two equal drivers one behind the other, moving together, coils in parallel, as one.

    Parameters:
        driver: one of them.

    Returns:
        a driver of the same area and half the suspension's volume: twice the mass, twice the stiffness.

    Source: textbook; the air between them is taken as stiff.
    """
    return SmallSignal(
        driver.fs_hz, driver.qms, driver.qes, driver.vas_m3 / 2, driver.sd_m2, driver.re_ohm / 2, driver.le_h / 2,
        driver.xmax_m,
    )  # fmt: skip


@record
class Disagreement:
    """A value of the papers that does not follow from the others."""

    quantity: str  # "qts", "mms_kg", "bl_tm"
    stated: float
    follows: float


def disagreements(
    driver: SmallSignal, *, qts: float | None = None, mms_kg: float | None = None, bl_tm: float | None = None
) -> tuple[Disagreement, ...]:
    """Where papers that give more values than are needed contradict themselves.

    Parameters:
        driver: the parameters the others follow from.
        qts: total Q as stated; None where it is not.
        mms_kg: moving mass as stated [kg].
        bl_tm: force factor as stated [T m].

    Returns:
        every stated value that is off by more than TOLERATED, with what follows from the others.

    Source: Qts from Qms and Qes, Mms from fs, Vas and Sd, Bl from fs, Mms, Re and Qes: textbook.
    """
    stated = (("qts", qts, driver.qts), ("mms_kg", mms_kg, driver.mms_kg), ("bl_tm", bl_tm, driver.bl_tm))
    return tuple(
        Disagreement(name, value, follows)
        for name, value, follows in stated
        if value is not None and abs(value / follows - 1) > TOLERATED
    )
