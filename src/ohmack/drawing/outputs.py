"""Every amplifier with all its outputs in one picture: each pair of terminals, its wire, and the coils it ends on."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from markupsafe import Markup

from ohmack.core.loads.driven import Driven
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.speaker_loads import Wiring
from ohmack.core.supply.small_circuits import SpeakerCable
from ohmack.core.wording import trimmed
from ohmack.drawing.coils import COIL_H, as_circuit, lay_network, size_of
from ohmack.drawing.svg import cut_to, el, group, label

WIDTH, LEFT, AMP_W, GAP, BETWEEN = 780.0, 14.0, 168.0, 26.0, 30.0
NETWORK_X, ROW = 330.0, 86.0
MOST_WIDE = WIDTH - NETWORK_X - 24  # a network that is wider is drawn smaller


def draw_outputs(loads: Sequence[LoadResult], cables: Sequence[SpeakerCable]) -> Markup:
    """All outputs, amplifier by amplifier; an output that is no series-parallel network is said, not drawn."""
    wires = {cable.link.id: cable for cable in cables}
    pieces: list[Markup] = []
    y = 8.0
    for _, group_of in groupby(loads, key=lambda load: load.amplifier.id):
        outputs = list(group_of)
        drawn, height = _amplifier(outputs, wires, y)
        pieces.append(drawn)
        y += height + BETWEEN
    title = "Every output and what hangs on it"
    return el(
        "svg", el("title", title), *pieces, viewBox=f"0 0 {WIDTH:g} {y - BETWEEN + 8:g}",
        class_="drawing wiring outputs", role="img", aria_label=title,
    )  # fmt: skip


def _rows(load: LoadResult) -> list[tuple[Wiring | None, str]]:
    """What is drawn of an output: its network, then what is beside it behind capacitors."""
    found: list[tuple[Wiring | None, str]] = [(as_circuit(load.chosen.wiring), _named(load.driven, load))]
    for driven in load.beside:
        coils = tuple(Wiring("coil", coil=coil) for coil in driven.coils)
        found.append((coils[0], f"{driven.name}, behind its capacitor"))
    return found


def _named(driven: Sequence[Driven], load: LoadResult) -> str:
    words = load.driven_name if not load.beside else ", ".join(d.name for d in driven)
    if load.unread:
        return f"{words}: nobody read how it is wired"
    return f"{words}: {load.chosen.net}" if load.chosen.stays else f"{words}: {load.chosen.reason}"


def _amplifier(outputs: Sequence[LoadResult], wires: dict[str, SpeakerCable], top: float) -> tuple[Markup, float]:
    rows: list[Markup] = []
    y = top + 26
    for load in outputs:
        drawn, height = _output(load, wires, y)
        rows.append(drawn)
        y += height + GAP
    height = max(96.0, y - GAP - top + 12)
    amplifier = outputs[0].amplifier
    box = [
        el("rect", x=LEFT, y=top, width=AMP_W, height=height, rx=5, class_="amp"),
        label(LEFT + 12, top + 22, cut_to(AMP_W - 24, amplifier.name, "lab"), "lab"),
    ]
    return group([*box, *rows]), height


def _output(load: LoadResult, wires: dict[str, SpeakerCable], top: float) -> tuple[Markup, float]:
    """One output: its terminals on the amplifier, both wires, the network, what the wire is."""
    edge = LEFT + AMP_W
    pieces: list[Markup] = []
    y, first = top, (top, top)
    for n, (wiring, words) in enumerate(_rows(load)):
        if wiring is None:
            pieces.append(label(NETWORK_X, y + 30, words, "dim"))
            y += ROW
            continue
        width, height = size_of(wiring)
        scale = min(1.0, MOST_WIDE / width)
        tall = height * scale
        middle = y + 18 + tall / 2
        plus, minus = middle - 9, y + 18 + tall + 10
        right = NETWORK_X + width * scale
        if n == 0:
            first = plus, minus
            pieces += _wire(f"M{edge - 6:.1f} {plus:.1f}H{NETWORK_X - 14:.1f}V{middle:.1f}H{NETWORK_X:.1f}", "w-red")
            start = f"M{edge - 6:.1f} {plus + 20:.1f}H{edge + 30:.1f}V{minus:.1f}"
        else:  # from the same terminals
            pieces += _wire(f"M{edge + 96:.1f} {first[0]:.1f}V{middle:.1f}H{NETWORK_X:.1f}", "w-red")
            pieces += _capacitor(NETWORK_X - 24, middle)
            start = f"M{edge + 30:.1f} {first[1]:.1f}V{minus:.1f}"
        pieces += _wire(f"{start}H{right + 12:.1f}V{middle:.1f}H{right:.1f}", "w-black")
        network = lay_network(wiring, dict(load.chosen.coil_power_w), 0.0, 0.0)
        pieces.append(group(network, transform=f"translate({NETWORK_X:.1f} {y + 18:.1f}) scale({scale:.3f})"))
        pieces.append(label(NETWORK_X, y + 10, cut_to(WIDTH - NETWORK_X - 8, words, "lab"), "lab"))
        if n == 0:
            pieces += [el("circle", cx=edge - 6, cy=at, r=5, class_="terminal") for at in (plus, plus + 20)]
            pieces.append(label(edge - 16, plus + 5, "+", "lab", "end"))
            pieces.append(label(edge - 16, plus + 25, "−", "lab", "end"))
            pieces.append(label(LEFT + 12, middle + 4, _channel(load), "dim"))
            pieces.append(label(LEFT + 12, middle + 20, f"from {trimmed(load.lowest_ohm)} Ω up", "dim"))
        y += 18 + tall + 22
    if (cable := wires.get(load.link.id)) is not None:
        pieces.append(label(edge + 44, top + 10, cable.wire.label, "dim", "start", "paper-halo"))
    return group(pieces), max(COIL_H + 40, y - top)


def _capacitor(x: float, y: float) -> list[Markup]:
    """Two plates across a wire."""
    plates = [el("path", d=f"M{x + dx:.1f} {y - 11:.1f}v22", class_="plate") for dx in (-3.0, 3.0)]
    return [el("rect", x=x - 3, y=y - 5, width=6.0, height=10.0, class_="gap-fill"), *plates]


def _channel(load: LoadResult) -> str:
    first = load.link.channel
    if load.amplifier.channels == 1:
        return "speaker"
    return f"{first} + {first + 1}, bridged" if load.link.bridged else f"channel {first}"


def _wire(d: str, tone: str) -> list[Markup]:
    return [el("path", d=d, class_="w-out", stroke_width=5.4), el("path", d=d, class_=tone, stroke_width=3)]
