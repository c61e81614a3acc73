"""A wiring as it lies on the bench: amplifier, speaker wire, and the drivers from behind with their terminals and
jumpers.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from markupsafe import Markup

from ohmack.core.loads.driven import Driven
from ohmack.core.loads.meter import MINUS, PLUS, parts_of
from ohmack.core.loads.wiring_judge import DriverPower, WiringOption
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.wording import amount, digits, trimmed
from ohmack.drawing.svg import el, group, label, text_width

MOST_DRIVERS, MOST_COILS = 4, 2  # beyond, the coils are drawn as a circuit
WIDTH, AMP_X, AMP_W, AMP_H = 780.0, 14.0, 150.0, 124.0
RADIUS, HALF, SIDE = 72.0, 22.0, 46.0  # of a driver; terminals over and under its middle; beside it
TOP, LANE = 54.0, 11.0
JOINTS = ("w-violet", "w-green", "w-orange", "w-grey")


@dataclass(frozen=True, slots=True)
class Terminal:
    """Where one end of a coil is [px], and at which driver."""

    x: float
    y: float
    plus: bool
    driver: int


@dataclass
class Net:
    """Everything that is one piece of wire."""

    plus: list[Terminal] = field(default_factory=list)
    minus: list[Terminal] = field(default_factory=list)


def can_be_drawn(load: LoadResult, option: WiringOption) -> bool:
    """Whether the drivers of an output, and every coil of this wiring, have room as they lie on a bench."""
    coils = {coil.name for coil in option.wiring.coils()}
    few = all(len(driven.coils) <= MOST_COILS for driven in load.driven)
    return few and len(load.driven) <= MOST_DRIVERS and coils == {c.name for d in load.driven for c in d.coils}


def draw_backs(load: LoadResult, option: WiringOption) -> Markup:
    """The amplifier on the left, its drivers beside it from behind, every wire from terminal to terminal."""
    drivers = load.driven
    room = (WIDTH - AMP_X - AMP_W - 40) / len(drivers)
    centres = [AMP_X + AMP_W + 40 + room * (n + 0.5) for n in range(len(drivers))]
    lanes = sum(not _within(net) for net in _nets(option, drivers, centres, 0.0).values()) - 2
    above = TOP + 16 + LANE * lanes  # the red wire runs over the lanes of jumpers
    middle = above + 10 + RADIUS
    low = middle + RADIUS + 22 + LANE * lanes
    height = low + 48
    nets = _nets(option, drivers, centres, middle)
    wires = [*_wire(_bus(nets[PLUS].plus, TOP + 10, middle - 12), "w-red")]
    wires += _wire(_bus(nets[MINUS].minus, low, middle + 30), "w-black")
    inner = [net for name, net in nets.items() if name not in (PLUS, MINUS)]
    bowed = {net.minus[0].driver for net in inner if _within(net)}
    for net in (net for net in inner if _within(net)):
        wires += _wire(_bow(net, middle), JOINTS[0])
    gaps: dict[int, int] = {}
    for n, net in enumerate(net for net in inner if not _within(net)):
        gap = max(min(t.driver for t in net.minus), min(t.driver for t in net.plus))  # it goes up left of this driver
        gaps[gap] = gaps.get(gap, -1) + 1
        link = centres[gap] - room / 2 + (9 * gaps[gap] if gap else 8)
        wires += _wire(_joint(net, n, link, above, middle), JOINTS[(n + 1) % len(JOINTS)])
    pieces = [
        *_amplifier(load, middle),
        *(_back(x, middle) for x in centres),
        *wires,
        *(_terminal(t) for net in nets.values() for t in (*net.plus, *net.minus)),
        *(_name(d, x, middle, len(drivers), n in bowed) for n, (d, x) in enumerate(zip(drivers, centres, strict=True))),
        *(_power(option.drivers, n, x, low) for n, x in enumerate(centres)),
        label(AMP_X, 20, _short(_title(load, option), WIDTH - 2 * AMP_X, "lab"), "lab"),
        label(AMP_X, 38, _net(option), "dim"),
    ]
    title = f"{load.driven_name} from behind: {option.words}"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {WIDTH:g} {height:g}", class_="drawing wiring backs",
        role="img", aria_label=title,
    )  # fmt: skip


def _title(load: LoadResult, option: WiringOption) -> str:
    """What is wired, and how; equal drivers counted."""
    names = [driven.name for driven in load.driven]
    said = f"{len(names)} × {names[0]}" if len(set(names)) == 1 < len(names) else load.driven_name
    return f"{said}: {option.words}"


def _net(option: WiringOption) -> str:
    return f"net {trimmed(round(option.load_ohm, 2))} Ω, a meter reads about {amount(option.meter_ohm, 'ohm')}"


def _nets(option: WiringOption, drivers: Sequence[Driven], centres: Sequence[float], middle: float) -> dict[str, Net]:
    """Every node of the network with the terminals on it."""
    places = {
        coil.name: (n, centres[n] + (0.0 if len(driven.coils) == 1 else SIDE * (2 * k - 1)))
        for n, driven in enumerate(drivers)
        for k, coil in enumerate(driven.coils)
    }
    nets: dict[str, Net] = {PLUS: Net(), MINUS: Net()}
    for part in parts_of(option.wiring):
        n, x = places[part.name]
        nets.setdefault(part.a, Net()).plus.append(Terminal(x, middle - HALF, True, n))
        nets.setdefault(part.b, Net()).minus.append(Terminal(x, middle + HALF, False, n))
    return nets


def _wire(d: str, tone: str) -> list[Markup]:
    if not d:
        return []
    return [el("path", d=d, class_="w-out", stroke_width=6.4), el("path", d=d, class_=tone, stroke_width=4)]


def _bus(terminals: Sequence[Terminal], y: float, amp_y: float) -> str:
    """From the amplifier to every terminal: out, along, and to each."""
    if not terminals:
        return ""
    start = AMP_X + AMP_W
    last = max(t.x for t in terminals)
    drops = "".join(f"M{t.x:.1f} {y:.1f}V{t.y:.1f}" for t in terminals)
    return f"M{start - 6:.1f} {amp_y:.1f}H{start + 20:.1f}V{y:.1f}H{last:.1f}{drops}"


def _within(net: Net) -> bool:
    """Whether it only joins two coils of one driver."""
    return len(net.plus) == 1 == len(net.minus) and net.plus[0].driver == net.minus[0].driver


def _bow(net: Net, middle: float) -> str:
    """A jumper within one driver."""
    a, b = net.minus[0], net.plus[0]
    across = (a.x + b.x) / 2
    down = f"M{a.x:.1f} {a.y:.1f}C{a.x:.1f} {middle + 60:.1f} {across:.1f} {middle + 58:.1f} {across:.1f} {middle:.1f}"
    return f"{down}S{b.x:.1f} {middle - 58:.1f} {b.x:.1f} {b.y:.1f}"


def _joint(net: Net, n: int, link: float, above: float, middle: float) -> str:
    """A jumper between drivers: under them, up between two of them at `link`, and over to the others."""
    down, up = middle + RADIUS + 12 + LANE * n, above - LANE * n
    path = ""
    for terminals, y in ((net.minus, down), (net.plus, up)):
        ends = [*(t.x for t in terminals), link]
        path += f"M{min(ends):.1f} {y:.1f}H{max(ends):.1f}" + "".join(
            f"M{t.x:.1f} {t.y:.1f}V{y:.1f}" for t in terminals
        )
    return f"{path}M{link:.1f} {down:.1f}V{up:.1f}"


def _amplifier(load: LoadResult, middle: float) -> list[Markup]:
    y = middle - AMP_H / 2
    first = load.link.channel
    outputs = f"channels {first} and {first + 1}, bridged" if load.link.bridged else f"channel {first}"
    return [
        el("rect", x=AMP_X, y=y, width=AMP_W, height=AMP_H, rx=5, class_="amp"),
        label(AMP_X + 12, y + 24, _short(load.amplifier.name, AMP_W - 20, "lab"), "lab"),
        label(AMP_X + 12, y + 42, f"from {trimmed(load.lowest_ohm)} Ω up", "dim"),
        label(AMP_X + AMP_W - 16, middle - 8, "+", "lab", "end"),
        label(AMP_X + AMP_W - 16, middle + 34, "−", "lab", "end"),
        label(AMP_X + 12, middle + 52, outputs if load.amplifier.channels > 1 else "speaker", "dim"),
        el("circle", cx=AMP_X + AMP_W - 6, cy=middle - 12, r=5, class_="terminal"),
        el("circle", cx=AMP_X + AMP_W - 6, cy=middle + 30, r=5, class_="terminal"),
    ]


def _back(x: float, y: float) -> Markup:
    """A driver from behind: frame with its holes, magnet."""
    holes = [
        el("circle", cx=x + RADIUS * 0.88 * cos_, cy=y + RADIUS * 0.88 * sin_, r=3.0, class_="hole")
        for cos_, sin_ in ((0.7, 0.71), (-0.7, 0.71), (0.38, -0.92), (-0.38, -0.92), (0.97, -0.2), (-0.97, -0.2))
    ]  # fmt: skip
    return group(
        [
            el("circle", cx=x, cy=y, r=RADIUS, class_="frame-ring"),
            *holes,
            el("circle", cx=x, cy=y, r=RADIUS * 0.52, class_="magnet"),
        ]
    )


def _name(driven: Driven, x: float, y: float, many: int, bowed: bool) -> Markup:
    """The driver's letter and coils, clear of its terminals and wires."""
    ohms = " + ".join(f"{trimmed(coil.impedance_ohm)} Ω" for coil in driven.coils)
    letter = driven.coils[0].name.rstrip("0123456789") if many > 1 else ""
    if len(driven.coils) > 1:
        lines = [letter, ohms] if letter and not bowed else [f"{letter}  {ohms}".strip()]
        middle = y + 62 if bowed else y + 5  # a bow runs over the middle
        rows = [(middle + 16 * (k - (len(lines) - 1) / 2), words) for k, words in enumerate(lines)]
        return group([label(x, row, words, "lab", "middle") for row, words in rows])
    return group([label(x + 14, y + 5, f"{letter}  {ohms}".strip(), "lab")])


def _terminal(terminal: Terminal) -> Markup:
    tone = "plus" if terminal.plus else "minus"
    return group(
        [
            el("rect", x=terminal.x - 8, y=terminal.y - 8, width=16.0, height=16.0, rx=3, class_=f"tag {tone}"),
            label(terminal.x, terminal.y + 5, "+" if terminal.plus else "−", "lab", "middle", "on-tag"),
        ]
    )


def _power(powers: Sequence[DriverPower], n: int, x: float, low: float) -> Markup:
    """What reaches a driver of what it takes, as a bar."""
    if n >= len(powers):
        return Markup("")
    one = powers[n]
    share = one.share
    words = f"{digits(one.power_w)} W" + (f" of {digits(one.takes_w)} W" if one.takes_w else "")
    pieces = [label(x, low + 40, words, "lab", "middle", "paper-halo")]
    if share is not None:
        wide = 110.0
        pieces.append(el("rect", x=x - wide / 2, y=low + 16, width=wide, height=7.0, class_="bar-room"))
        pieces.append(
            el("rect", x=x - wide / 2, y=low + 16, width=wide * min(1.0, share), height=7.0, class_="bar-full")
        )
    return group(pieces)


def _short(text: str, room: float, style: str) -> str:
    """A name cut to its room."""
    while text and text_width(text, style) > room:
        text = text[:-2].rstrip() + "…" if not text.endswith("…") else text[:-2].rstrip("… ") + "…"
    return text
