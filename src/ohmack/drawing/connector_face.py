"""A connector's face: mating side and wire side told apart and mirrored, cavities coloured as their wires, what is
found ringed.
"""

from __future__ import annotations

from collections.abc import Callable

from markupsafe import Markup

from ohmack.core.document.factory import Band, RadioChannel
from ohmack.core.document.handles import cavity_at
from ohmack.core.document.harness import Cavity, CavityUse, Condition, Connector, Housing, Polarity
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.harness.pin_map import Side, keyway_of, meter_contradicts, spot_of, use_words
from ohmack.core.harness.wire_colours import colour_words
from ohmack.drawing.svg import el, group, label, text_width
from ohmack.drawing.wires import wire_end

WIDTH = 780.0
SIDES: tuple[Side, Side] = ("mating side", "wire side")
TITLES = {"mating side": "Mating side, looking into the {0}", "wire side": "Wire side, looking at the back of the {0}"}
BANDS = {Band.HIGH: "hi", Band.MID_HIGH: "mh", Band.MID: "mi", Band.LOW_MID: "lm", Band.LOW: "lo"}
SHORT = {
    CavityUse.CONSTANT: "+12",
    CavityUse.SWITCHED: "ACC",
    CavityUse.ILLUMINATION: "ILL",
    CavityUse.GROUND: "GND",
    CavityUse.REMOTE: "REM",
    CavityUse.AERIAL: "AER",
    CavityUse.BUTTONS: "SWC",
    CavityUse.BUS: "BUS",
    CavityUse.REVERSE: "REV",
    CavityUse.SPEED: "SPD",
    CavityUse.MICROPHONE: "MIC",
    CavityUse.VIDEO: "VID",
    CavityUse.AIRBAG: "SRS",
    CavityUse.OTHER: "···",
    CavityUse.EMPTY: "",
}


def short_words(vehicle: Vehicle, cavity: Cavity) -> str:
    """What a cavity is in a few letters: `FL+`, `CONST`."""
    taken = cavity.taken_for
    if taken in (CavityUse.SPEAKER, CavityUse.LINE) and cavity.channel_id is not None:
        channel = next((c for c in vehicle.channels if c.id == cavity.channel_id), None)
        place = channel.place.value if channel and channel.place else (channel.name if channel else "SPK")
        sign = {Polarity.PLUS: "+", Polarity.MINUS: "−", None: ""}[cavity.polarity]
        letters = "".join(w[0] for w in place.split()).upper() if " " in place else place[:3].upper()
        return letters + _range(vehicle, channel) + sign
    return "?" if taken is None else SHORT.get(taken, "SPK")


def _range(vehicle: Vehicle, channel: RadioChannel | None) -> str:
    """The band of a pair, where another pair of its place carries another."""
    if channel is None or channel.place is None:
        return ""
    bands = {c.band.value for c in vehicle.channels if c.place is channel.place}
    return BANDS.get(channel.band.value, "") if len(bands) > 1 and channel.band.value is not None else ""


def _cell_px(housing: Housing) -> tuple[float, bool]:
    """(size of a cell, whether both faces fit side by side)."""
    beside = housing.columns <= 8
    room = (WIDTH / 2 - 34 if beside else WIDTH - 40) / housing.columns
    return max(11.0, min(46.0, room)), beside


def cell_height(size: float) -> float:
    """Cells that carry words are a little taller than wide."""
    return size + 12 if size >= 38 else size


def _keyway(edge: str, x: float, y: float, width: float, height: float) -> Markup:
    """A bump in the shell on the keyed edge."""
    spots = {
        "top": f"M{x + width / 2 - 14:.1f} {y:.1f}v-8h28v8",
        "bottom": f"M{x + width / 2 - 14:.1f} {y + height:.1f}v8h28v-8",
        "left": f"M{x:.1f} {y + height / 2 - 11:.1f}h-8v22h8",
        "right": f"M{x + width:.1f} {y + height / 2 - 11:.1f}h8v22h-8",
    }
    return el("path", d=spots[edge], class_="keyway") if edge in spots else Markup("")


def _cavity(
    vehicle: Vehicle, connector: Connector, cavity: Cavity | None, number: int, box: tuple[float, float, float],
    side: Side, selected: str, link_to: Callable[[str], str]
) -> Markup:  # fmt: skip
    x, y, size = box
    tall = cell_height(size)
    wide = number in connector.housing.wide
    inset = 2.0 if size > 20 else 1.0
    middle_x, middle_y = x + size / 2, y + tall / 2
    shell = el(
        "rect",
        x=x + inset - (2 if wide else 0),
        y=y + inset,
        width=size - 2 * inset + (4 if wide else 0),
        height=tall - 2 * inset,
        rx=3 if size > 20 else 1,
        class_="cavity" if cavity is not None and cavity.taken_for is not CavityUse.EMPTY else "cavity bare",
    )
    pieces = [shell]
    if size >= 28:
        pieces.append(label(x + 5, y + 12, connector.housing.called(number), "dim", "start", "cavity-no"))
    if cavity is None:
        return group(pieces)
    path = cavity_at(connector, cavity)
    if cavity.taken_for is not CavityUse.EMPTY:
        radius = size * (0.2 if size >= 28 else 0.32)
        at_y = middle_y + (1 if size >= 28 else 0)
        if side == "wire side" or cavity.base is not None:
            pieces += wire_end(middle_x, at_y, radius, cavity.base, cavity.tracer)
        if side == "mating side" and size >= 28:
            pieces.append(
                el("rect", x=middle_x - 2, y=at_y - radius * 0.62, width=4, height=radius * 1.24, class_="contact")
            )
        words = short_words(vehicle, cavity)
        if size >= 38 and words:
            pieces.append(
                label(
                    middle_x,
                    y + tall - 6,
                    words if text_width(words, "dim") <= size + 10 else words[:4],
                    "dim",
                    "middle",
                    "cavity-use",
                )
            )
    wrong = meter_contradicts(cavity) is not None
    differs = cavity.use.value is not None and cavity.expected is not None and cavity.use.value is not cavity.expected
    if wrong or differs or cavity.condition is not Condition.WHOLE:
        pieces.append(
            el(
                "rect",
                x=x + inset,
                y=y + inset,
                width=size - 2 * inset,
                height=tall - 2 * inset,
                rx=3,
                class_="cavity-ring" + (" over" if wrong or cavity.condition is Condition.CUT else ""),
            )
        )
    if cavity.condition is Condition.CUT:
        pieces.append(
            el("path", d=f"M{x + 7:.1f} {y + tall - 7:.1f}L{x + size - 7:.1f} {y + 7:.1f}", class_="cut-mark")
        )
    colour = colour_words(cavity.base, cavity.tracer)
    condition = "" if cavity.condition is Condition.WHOLE else cavity.condition.value
    said = ", ".join(filter(None, (use_words(vehicle, cavity), colour, condition)))
    words = f"Cavity {connector.housing.called(number)}: {said}"
    return el(
        "a",
        el("title", words),
        *pieces,
        href=link_to(path),
        aria_label=words,
        class_="cavity-link" + (" chosen" if selected.startswith(path) else ""),
    )


def draw_face(vehicle: Vehicle, connector: Connector, selected: str, link_to: Callable[[str], str]) -> Markup:
    """Both faces of a connector as one picture.

    Parameters:
        vehicle: the car.
        connector: the connector.
        selected: the path of what is selected.
        link_to: address of a path.

    Returns:
        an SVG; the wire side is the mirror image of the mating side.
    """
    housing = connector.housing
    size, beside = _cell_px(housing)
    by_number = {c.number: c for c in reversed(connector.cavities)}
    width, height = housing.columns * size + 16, housing.rows * cell_height(size) + 16
    pieces = []
    for at, side in enumerate(SIDES):
        left = (WIDTH / 2 * at + (WIDTH / 2 - width) / 2) if beside else (WIDTH - width) / 2
        top = 40.0 if beside or not at else 40.0 + height + 62
        middle = left + width / 2
        pieces += [
            label(middle, top - 18, TITLES[side].format(connector.gender), "lab", "middle"),
            _keyway(keyway_of(housing, side), left, top, width, height),
            el(
                "rect",
                x=left,
                y=top,
                width=width,
                height=height,
                rx=9 if side == "mating side" else 4,
                class_=f"shell {'mating' if side == 'mating side' else 'wire'}",
            ),
        ]
        for number in range(1, housing.size + 1):
            spot = spot_of(housing, number, side)
            box = (left + 8 + spot.column * size, top + 8 + spot.row * cell_height(size), size)
            pieces.append(_cavity(vehicle, connector, by_number.get(number), number, box, side, selected, link_to))
    total = 40 + height + 18 if beside else 40 + 2 * height + 62 + 18
    return el(
        "svg",
        el("title", f"{connector.name}: mating side and wire side"),
        group(pieces),
        viewBox=f"0 0 {WIDTH:g} {total:.0f}",
        class_="drawing face",
        role="group",
        aria_label=f"Face of {connector.name}, {housing.rows} rows of {housing.columns}",
    )
