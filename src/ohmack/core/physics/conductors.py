"""Conductors: size, area, resistance and ampacity of copper, tinned copper and copper-clad aluminium wire."""

from __future__ import annotations

import re
from dataclasses import replace
from functools import cache
from math import ceil, pi, sqrt

from ohmack.core.errors import UnknownName, require
from ohmack.core.record import record
from ohmack.core.reference import Source, source, table

COPPER = "copper"
CCA = "copper_clad_aluminium"
MATERIALS = {COPPER: "copper", "tinned_copper": "tinned copper", CCA: "clad aluminium"}  # as they are said
LISTED_C, OUTSIDE_C, ENGINE_C = 105.0, 30.0, 50.0  # what listed ampacities are for: insulation, and the air round it


@record
class Conductor:
    """One wire size of one material, at 20 °C."""

    size: str
    system: str
    area_mm2: float
    resistance_ohm_per_m: float
    ampacity_a: float
    material: str
    resistance_source: Source
    ampacity_source: Source
    leads: int = 1  # in parallel; area, resistance and ampacity are those of all together
    insulation_c: float = LISTED_C

    @property
    def label(self) -> str:
        """The size as it is said in the shop: `4 AWG`, `25 mm²`, `4 AWG × 2`."""
        size = f"{self.size} AWG" if self.system == "AWG" else f"{self.size} mm²"
        return size if self.leads == 1 else f"{size} × {self.leads}"

    @property
    def one_lead(self) -> Conductor:
        """One of its leads by itself."""
        n = self.leads
        return replace(
            self, area_mm2=self.area_mm2 / n, resistance_ohm_per_m=self.resistance_ohm_per_m * n,
            ampacity_a=self.ampacity_a / n, leads=1,
        )  # fmt: skip


def awg_number(size: str) -> int:
    """The number n of the AWG formula: "4" is 4, "1/0" is 0, "2/0" is -1.

    Raises:
        UnknownName: the text is no AWG size.
    """
    match = re.fullmatch(r"([1-4])/0|(\d{1,2})", size.strip())
    if not match or (match[2] and not 0 <= int(match[2]) <= 40):
        raise UnknownName("wire size", size, "4/0 to 40 AWG")
    return 1 - int(match[1]) if match[1] else int(match[2])


def awg_diameter_mm(n: int) -> float:
    """Diameter of a solid AWG conductor.

    Parameters:
        n: AWG number, 0 for 1/0, -1 for 2/0.

    Returns:
        diameter [mm].

    Formula: 0.127 * 92^((36 - n) / 39). Source: ASTM B258.

    >>> round(awg_diameter_mm(36), 3)
    0.127
    """
    awg = table("wire", "awg")
    return float(awg["diameter_mm_at_36"] * awg["ratio"] ** ((36 - n) / 39))


def circle_area_mm2(diameter_mm: float) -> float:
    """Area of a round conductor.

    Parameters:
        diameter_mm: diameter [mm].

    Returns:
        area [mm2].

    Raises:
        OutOfRange: the diameter is not above zero.
    """
    require("diameter_mm", diameter_mm, "mm")
    return pi * diameter_mm**2 / 4


def resistance_factor(temperature_c: float, material: str = COPPER) -> float:
    """How much the resistance of a wire at a temperature exceeds that at 20 °C.

    Parameters:
        temperature_c: conductor temperature [c].
        material: "copper", "tinned_copper" or "copper_clad_aluminium".

    Returns:
        factor, 1.0 at 20 °C.

    Raises:
        OutOfRange: outside -60 to 200 °C, where the linear law does not hold.

    Formula: 1 + 0.00393 (t - 20), 0.00403 for clad aluminium. Source: IEC 60028; aluminium's from memory.

    >>> round(resistance_factor(60.0), 3)
    1.157
    """
    require("temperature_c", temperature_c, "°C", above=-60, up_to=200)
    offset_k = temperature_c - table("wire", "copper")["reference_temperature_c"]
    return float(1 + table("wire", material)["temperature_coefficient_per_k"] * offset_k)


def copper_resistance_ohm_per_m(area_mm2: float) -> float:
    """Resistance per metre of copper at 20 °C.

    Parameters:
        area_mm2: cross-section [mm2].

    Returns:
        resistance [ohm/m].

    Raises:
        OutOfRange: the area is not above zero.

    Formula: resistivity over area. Source: IEC 60028.
    """
    require("area_mm2", area_mm2, "mm²")
    return float(table("wire", "copper")["resistivity_ohm_m"] / (area_mm2 * 1e-6))


def _in_material(base: Conductor, material: str) -> Conductor:
    if material == COPPER:
        return base
    if material not in MATERIALS:
        raise UnknownName("wire material", material, ", ".join(MATERIALS))
    clad = table("wire", material)
    ratio = clad["conductivity_ratio"]
    return replace(
        base,
        resistance_ohm_per_m=base.resistance_ohm_per_m / ratio,
        ampacity_a=base.ampacity_a * sqrt(ratio),  # equal heat in the same insulation: I²R constant
        material=material,
        resistance_source=clad["source"],
        ampacity_source=clad["source"],
    )


THINNEST_AWG = 24


@cache
def _awg(size: str) -> Conductor:
    number = awg_number(size)
    if number > THINNEST_AWG:
        raise UnknownName("wire size", f"{size} AWG", f"4/0 to {THINNEST_AWG} AWG")
    area_mm2 = circle_area_mm2(awg_diameter_mm(number))
    carries_a, carries_source = _awg_ampacity_a(number, area_mm2)
    return Conductor(
        size,
        "AWG",
        area_mm2,
        copper_resistance_ohm_per_m(area_mm2),
        carries_a,
        COPPER,
        source("wire", "awg"),
        carries_source,
    )


def _awg_ampacity_a(number: int, area_mm2: float) -> tuple[float, Source]:
    """The listed ampacity; between two listed gauges that of the thinner one."""
    listed = {awg_number(size): float(amps) for size, amps in table("wire", "ampacity_awg")["rows"]}
    thinner = [listed[n] for n in sorted(listed) if n >= number]
    return (thinner[0], source("wire", "ampacity_awg")) if thinner else _thin_ampacity_a(area_mm2)


def _thin_ampacity_a(area_mm2: float) -> tuple[float, Source]:
    """What a wire thinner than the ampacity tables may carry."""
    rows = [amps for area, amps in table("wire", "ampacity_thin")["rows"] if area <= area_mm2 * 1.0001]
    if not rows:
        raise UnknownName("wire size", f"{area_mm2:.2f} mm²", "0.2 mm² and up")
    return float(rows[-1]), source("wire", "ampacity_thin")


@cache
def _metric(area_mm2: float) -> Conductor:
    resistances = dict(table("wire", "iec_60228_class_5")["rows"])
    if area_mm2 not in resistances:
        raise UnknownName("wire size", f"{area_mm2:g} mm²", ", ".join(f"{a:g}" for a in resistances))
    listed = dict(table("wire", "ampacity_metric")["rows"])
    carries_a, carries_source = (
        (float(listed[area_mm2]), source("wire", "ampacity_metric"))
        if area_mm2 in listed
        else _thin_ampacity_a(area_mm2)
    )
    return Conductor(
        f"{area_mm2:g}",
        "mm2",
        area_mm2,
        resistances[area_mm2] / 1000,
        carries_a,
        COPPER,
        source("wire", "iec_60228_class_5"),
        carries_source,
    )


@cache
def conductor(size: str, material: str = COPPER) -> Conductor:
    """Look a wire up by what is printed on it.

    Parameters:
        size: "4 AWG", "1/0 AWG", "25 mm2".
        material: "copper", "tinned_copper" or "copper_clad_aluminium".

    Returns:
        the conductor at 20 °C.

    Raises:
        UnknownName: no such size or material.

    Source: AWG by ASTM B258 area and IEC 60028 copper; metric by IEC 60228 class 5 maximum.
    """
    text = size.strip().replace("²", "2")
    if match := re.fullmatch(r"(\d/0|\d{1,2})\s*(?:AWG|awg|ga|gauge)", text):
        return _in_material(_awg(match[1]), material)
    if match := re.fullmatch(r"(\d+(?:\.\d+)?)\s*(?:mm2|sqmm)", text):
        return _in_material(_metric(float(match[1])), material)
    raise UnknownName("wire size", size, "for example 4 AWG, 1/0 AWG or 25 mm²")


@cache
def in_other_material(wire: Conductor, material: str) -> Conductor:
    """The same size of wire in another material.

    Parameters:
        wire: the conductor.
        material: "copper", "tinned_copper" or "copper_clad_aluminium".

    Returns:
        the conductor of equal size.

    Raises:
        UnknownName: an unknown material.

    Source: ASTM B566 conductivity (from memory); ampacity by equal heat.
    """
    if wire.material == material:
        return wire
    if wire.material != COPPER:  # back to the copper it was made from
        ratio = table("wire", wire.material)["conductivity_ratio"]
        resistance, carries_a = wire.resistance_ohm_per_m * ratio, wire.ampacity_a / sqrt(ratio)
        wire = replace(
            wire, resistance_ohm_per_m=resistance, ampacity_a=carries_a, material=COPPER,
            resistance_source=source("wire", "copper"),
        )  # fmt: skip
    return _in_material(wire, material)


def measured_conductor(strand_count: int, strand_diameter_mm: float, material: str = COPPER) -> Conductor:
    """A wire by its counted strands, because kit labels lie.

    Parameters:
        strand_count: number of strands.
        strand_diameter_mm: diameter of one strand [mm].
        material: "copper", "tinned_copper" or "copper_clad_aluminium".

    Returns:
        a conductor of the counted area with the ampacity of the largest AWG size that is not bigger.

    Raises:
        OutOfRange: no strands, or a diameter that is not above zero.
        UnknownName: thinner than 0.2 mm², or an unknown material.

    Source: area by geometry, resistance by IEC 60028, ampacity by ABYC E-11 of the next smaller size.
    """
    require("strand_count", strand_count, "strands")
    area_mm2 = strand_count * circle_area_mm2(strand_diameter_mm)
    smaller = [_awg(size) for size in table("wire", "awg")["sizes"] if _awg(size).area_mm2 <= area_mm2 * 1.0001]
    like = max(smaller, key=lambda c: c.area_mm2, default=None)
    carries_a, carries_source = (
        (like.ampacity_a, like.ampacity_source) if like is not None else _thin_ampacity_a(area_mm2)
    )
    base = Conductor(
        f"{area_mm2:.{1 if area_mm2 >= 1 else 2}f}",
        "mm2",
        area_mm2,
        copper_resistance_ohm_per_m(area_mm2),
        carries_a,
        COPPER,
        source("wire", "copper"),
        carries_source,
    )
    return _in_material(base, material)


@cache
def sizes(system: str, material: str = COPPER) -> tuple[Conductor, ...]:
    """The sizes of a system the chooser offers, smallest first.

    Raises:
        UnknownName: the system is neither "AWG" nor "mm2".
    """
    if system == "AWG":
        return tuple(conductor(f"{s} AWG", material) for s in reversed(table("wire", "awg")["sizes"]))
    if system == "mm2":
        rows = table("wire", "iec_60228_class_5")["sizes"]
        return tuple(conductor(f"{area_mm2:g} mm2", material) for area_mm2 in rows)
    raise UnknownName("wire system", system, "AWG, mm2")


ROUNDED = 1.06  # papers and people say 5, 8, 13, 21, 33 and 53 mm² for 10, 8, 6, 4, 2 and 1/0 AWG; common practice


def goes_in(wire: Conductor, most_mm2: float, terminals: int = 1) -> bool:
    """Whether a wire goes into a terminal that takes up to `most_mm2`, which is a rounded number [mm²]; its leads share
    several of that kind. Source: common practice.

    >>> goes_in(conductor("4 AWG"), 21.0), goes_in(conductor("2 AWG"), 25.0)
    (True, False)
    >>> goes_in(laid(conductor("4 AWG"), 2), 21.0), goes_in(laid(conductor("4 AWG"), 2), 21.0, terminals=2)
    (False, True)
    """
    in_one_mm2 = wire.area_mm2 / wire.leads * ceil(wire.leads / terminals)
    return in_one_mm2 <= most_mm2 * ROUNDED


@cache
def laid(wire: Conductor, leads: int = 1, insulation_c: float = LISTED_C, beside: int = 0) -> Conductor:
    """A wire as it is laid: several leads in parallel, another insulation, other loaded wires in its loom.

    Parameters:
        wire: one lead as the tables list it, for 105 °C insulation and by itself.
        leads: of it in parallel, of equal length, 1 up.
        insulation_c: what its insulation bears [c].
        beside: how many other loaded wires lie in the same loom.

    Returns:
        a conductor of all leads together.

    Raises:
        OutOfRange: no lead, or insulation that bears no more than the air.

    Formula: area and ampacity × n, resistance / n; ampacity × √((t − 30) / (105 − 30)) and × the grouping factor.
    Source: equal heat, as IEC 60364-5-52 table B.52.14 does; grouping its table B.52.17 (from memory).

    >>> pair = laid(conductor("4 AWG"), 2)
    >>> pair.label, round(pair.ampacity_a), round(laid(conductor("4 AWG"), insulation_c=75).ampacity_a)
    ('4 AWG × 2', 256, 124)
    """
    require("leads", leads, "")
    require("insulation_c", insulation_c, "°C", above=ENGINE_C, up_to=250)
    if leads == 1 and insulation_c == LISTED_C and beside == 0:
        return wire
    warmer = sqrt((insulation_c - OUTSIDE_C) / (LISTED_C - OUTSIDE_C))
    grouped = table("wire", "grouping")["factors"]
    together = float(grouped[min(leads + beside, len(grouped)) - 1])
    return replace(
        wire, area_mm2=wire.area_mm2 * leads, resistance_ohm_per_m=wire.resistance_ohm_per_m / leads,
        ampacity_a=wire.ampacity_a * leads * warmer * together, leads=leads, insulation_c=insulation_c,
        ampacity_source=source("wire", "grouping") if together < 1 else wire.ampacity_source,
    )  # fmt: skip


def ampacity_a(wire: Conductor, engine_space: bool) -> float:
    """What a wire may carry where it runs.

    Parameters:
        wire: the conductor.
        engine_space: True where any of it lies in the engine space.

    Returns:
        ampacity [a].

    Formula: the conductor's own, in the engine space × 0.85, of other insulation than 105 °C × √((t − 50) / (t − 30)).
    Source: ABYC E-11, engine space factor (from memory); equal heat in air of 50 °C.
    """
    if not engine_space:
        return wire.ampacity_a
    if wire.insulation_c == LISTED_C:
        return wire.ampacity_a * float(table("wire", "engine_space")["factor"])
    return wire.ampacity_a * sqrt((wire.insulation_c - ENGINE_C) / (wire.insulation_c - OUTSIDE_C))


def cable_price(wire: Conductor, length_m: float) -> float:
    """A planning price for a length of cable, in the shop's currency.

    Parameters:
        wire: the conductor.
        length_m: length [m].

    Returns:
        price, planning value.

    Source: common practice.
    """
    price = table("wire", "price")
    per_m = price["base_per_m"] * wire.leads + price["per_mm2_m"] * wire.area_mm2
    return float(per_m * length_m * price.get(f"{wire.material}_factor", 1.0))
