"""The shapes of the bodies from above, as shares of length and half width, nose to tail. Drawn for this product."""

from __future__ import annotations

from dataclasses import dataclass

from ohmack.core.document.vehicle import Body

Outline = tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Shape:
    """One body: outline and glass. `rear` None is a body without rear glass, `front` None one without any."""

    outline: Outline
    front: tuple[float, float] | None  # windscreen foot, roof front
    rear: tuple[float, float] | None  # roof rear, end of the rear glass
    side_end: float  # where the side windows end
    pillar: float
    hood: float = 0.065  # crease of the bonnet, 0 for none
    creases: tuple[float, ...] = ()  # further lines across: boot lid, bulkhead
    bed: tuple[float, float] | None = None  # an open load bed


_FRONT: Outline = (
    (0.0, 0.0),
    (0.004, 0.40),
    (0.022, 0.72),
    (0.07, 0.88),
    (0.16, 0.945),
    (0.28, 0.985),
    (0.42, 1.0),
    (0.62, 1.0),
)
_BLUNT: Outline = ((0.0, 0.0), (0.002, 0.55), (0.012, 0.82), (0.04, 0.94), (0.12, 0.985), (0.30, 1.0), (0.62, 1.0))

_SQUARE: Outline = (
    (0.0, 0.0), (0.003, 0.55), (0.014, 0.80), (0.045, 0.92), (0.13, 0.965), (0.28, 0.99), (0.42, 1.0), (0.62, 1.0),
    (0.90, 0.995), (0.965, 0.965), (0.987, 0.87), (0.998, 0.5), (1.0, 0.0),
)  # fmt: skip
_WASP: Outline = (
    (0.0, 0.0), (0.006, 0.34), (0.03, 0.66), (0.09, 0.86), (0.20, 0.96), (0.32, 0.985), (0.48, 0.97), (0.62, 0.985),
    (0.78, 1.0), (0.90, 0.92), (0.96, 0.77), (0.99, 0.46), (1.0, 0.0),
)  # fmt: skip

SHAPES: dict[Body, Shape] = {
    Body.ESTATE: Shape(
        (*_FRONT, (0.80, 0.985), (0.915, 0.935), (0.965, 0.85), (0.99, 0.60), (1.0, 0.0)),
        (0.275, 0.365),
        (0.885, 0.955),
        0.865,
        0.535,
    ),
    Body.HATCH: Shape(
        (
            (0.0, 0.0),
            (0.005, 0.42),
            (0.028, 0.74),
            (0.085, 0.89),
            (0.18, 0.95),
            (0.30, 0.99),
            (0.44, 1.0),
            (0.62, 1.0),
            (0.78, 0.975),
            (0.89, 0.90),
            (0.95, 0.79),
            (0.985, 0.52),
            (1.0, 0.0),
        ),
        (0.29, 0.39),
        (0.82, 0.93),
        0.80,
        0.575,
    ),
    Body.SALOON: Shape(
        (*_FRONT, (0.78, 0.985), (0.89, 0.93), (0.96, 0.83), (0.99, 0.56), (1.0, 0.0)),
        (0.275, 0.37),
        (0.725, 0.81),
        0.71,
        0.53,
        creases=(0.845, 0.955),
    ),
    Body.PICKUP: Shape(
        (*_FRONT[:-1], (0.60, 1.0), (0.90, 0.99), (0.965, 0.94), (0.99, 0.84), (0.998, 0.5), (1.0, 0.0)),
        (0.235, 0.32),
        (0.525, 0.55),
        0.51,
        0.425,
        bed=(0.575, 0.975),
    ),
    Body.COUPE: Shape(
        (*_FRONT, (0.79, 0.985), (0.90, 0.925), (0.965, 0.80), (0.992, 0.50), (1.0, 0.0)),
        (0.29, 0.385),
        (0.70, 0.83),
        0.685,
        0.565,
        creases=(0.86, 0.957),
    ),
    Body.EXTENDED_CAB: Shape(
        (*_FRONT[:-1], (0.60, 1.0), (0.90, 0.99), (0.965, 0.94), (0.99, 0.84), (0.998, 0.5), (1.0, 0.0)),
        (0.235, 0.32),
        (0.49, 0.513),
        0.475,
        0.42,
        bed=(0.535, 0.975),
    ),
    Body.TRUCK: Shape(
        _SQUARE,
        (0.25, 0.32),
        (0.462, 0.478),
        0.445,
        0.44,
        bed=(0.51, 0.98),
    ),
    Body.ROADSTER: Shape(
        _WASP,
        (0.36, 0.44),
        None,
        0.60,
        0.60,
        creases=(0.655, 0.71, 0.965),
    ),
    Body.VAN: Shape(
        (*_BLUNT, (0.90, 0.995), (0.97, 0.96), (0.99, 0.86), (0.998, 0.5), (1.0, 0.0)),
        (0.115, 0.215),
        None,
        0.335,
        0.34,
        hood=0.035,
        creases=(0.375,),
    ),
    Body.TWO_SEATER: Shape(
        (
            (0.0, 0.0),
            (0.006, 0.36),
            (0.03, 0.68),
            (0.09, 0.87),
            (0.20, 0.96),
            (0.32, 0.985),
            (0.48, 0.97),
            (0.62, 0.985),
            (0.78, 1.0),
            (0.90, 0.93),
            (0.96, 0.80),
            (0.99, 0.5),
            (1.0, 0.0),
        ),
        (0.345, 0.44),
        (0.635, 0.73),
        0.62,
        0.60,
        creases=(0.80, 0.96),
    ),
    Body.BUS: Shape(
        (*_BLUNT, (0.90, 0.99), (0.97, 0.94), (0.99, 0.82), (0.998, 0.5), (1.0, 0.0)),
        (0.05, 0.15),
        (0.945, 0.978),
        0.93,
        0.33,
        hood=0.0,
    ),
    Body.CART: Shape(
        (
            (0.0, 0.0),
            (0.01, 0.45),
            (0.05, 0.76),
            (0.14, 0.92),
            (0.30, 0.98),
            (0.50, 1.0),
            (0.72, 1.0),
            (0.88, 0.95),
            (0.97, 0.82),
            (0.995, 0.5),
            (1.0, 0.0),
        ),
        None,
        None,
        0.0,
        0.0,
        hood=0.10,
        creases=(0.32,),
        bed=(0.70, 0.95),
    ),
}
