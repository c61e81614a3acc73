"""The coil wiring picture: amplifier terminals, coils, jumpers."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.loads.wiring_judge import WiringOption
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import BenchWiring
from ohmack.core.physics.speaker_loads import Wiring
from ohmack.core.wording import amount, digits, trimmed
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import el, group, label

COIL_W, COIL_H, GAP = 148.0, 62.0, 30.0


@dataclass(frozen=True, slots=True)
class Block:
    """A drawn piece of the network with its size; ports are left and right at half height."""

    width: float
    height: float
    pieces: tuple[Markup, ...]


def _wire(d: str, tone: str = "w-red") -> list[Markup]:
    return [el("path", d=d, class_="w-out", stroke_width=5.4), el("path", d=d, class_=tone, stroke_width=3)]


def _coil(wiring: Wiring, powers: dict[str, float], x: float, y: float) -> Block:
    coil = wiring.coil
    if coil is None:
        raise ValueError("a coil is wanted")
    top = y
    bumps = "a9.5 12 0 0 1 19 0" * 6
    middle = top + COIL_H / 2
    pieces = [
        *_wire(f"M{x:.1f} {middle:.1f}h15"),
        *_wire(f"M{x + COIL_W - 15:.1f} {middle:.1f}h15", "w-black"),
        el("rect", x=x + 8, y=top, width=COIL_W - 16, height=COIL_H, rx=6, class_="coil-box"),
        el("path", d=f"M{x + 17:.1f} {middle + 7:.1f}{bumps}", class_="coil"),
        label(x + 14, top + 15, "+", "lab"),
        label(x + COIL_W - 14, top + 15, "−", "lab", "end"),
        label(x + COIL_W / 2, top + 15, f"coil {coil.name}, {trimmed(coil.impedance_ohm)} Ω", "dim", "middle"),
        label(
            x + COIL_W / 2,
            top + COIL_H - 6,
            f"{digits(powers[coil.name])} W" if coil.name in powers else "–",
            "lab",
            "middle",
        ),
    ]
    return Block(COIL_W, COIL_H, tuple(pieces))


def size_of(wiring: Wiring) -> tuple[float, float]:
    """(width, height) of a network as it is drawn [px]."""
    if wiring.kind == "coil":
        return COIL_W, COIL_H
    sizes = [size_of(part) for part in wiring.parts]
    if wiring.kind == "series":
        return sum(w for w, _ in sizes) + GAP * (len(sizes) - 1), max(h for _, h in sizes)
    return max(w for w, _ in sizes) + 2 * GAP, sum(h for _, h in sizes) + 12 * (len(sizes) - 1)


def lay_network(wiring: Wiring, powers: dict[str, float], x: float, y: float) -> list[Markup]:
    """The network with its upper left corner at (x, y)."""
    width, height = size_of(wiring)
    middle = y + height / 2
    if wiring.kind == "coil":
        return list(_coil(wiring, powers, x, y).pieces)
    pieces: list[Markup] = []
    if wiring.kind == "series":
        here = x
        for number_, part in enumerate(wiring.parts):
            w, h = size_of(part)
            if number_:
                pieces += _wire(f"M{here - GAP:.1f} {middle:.1f}h{GAP:.1f}", "w-grey")
            pieces += lay_network(part, powers, here, middle - h / 2)
            here += w + GAP
        return pieces
    row, ports = y, []
    for part in wiring.parts:
        w, h = size_of(part)
        port = row + h / 2
        ports.append(port)
        left = x + (width - w) / 2
        pieces += _wire(f"M{x:.1f} {port:.1f}H{left:.1f}") + _wire(
            f"M{left + w:.1f} {port:.1f}H{x + width:.1f}", "w-black"
        )
        pieces += lay_network(part, powers, left, row)
        row += h + 12
    pieces = [
        *_wire(f"M{x:.1f} {ports[0]:.1f}V{ports[-1]:.1f}"),
        *_wire(f"M{x + width:.1f} {ports[0]:.1f}V{ports[-1]:.1f}", "w-black"),
        *pieces,
    ]
    return pieces


def as_circuit(wiring: Wiring | BenchWiring) -> Wiring | None:
    """What a wiring is drawn as; None where its leads make no series-parallel network."""
    return wiring.reduced if isinstance(wiring, BenchWiring) else wiring


def draw_wiring(
    load: LoadResult, option: WiringOption, upright: bool = False, read: tuple[str, bool] | None = None
) -> Markup:
    """Amplifier, cable, coils and jumpers of one wiring, as a drawing of its own; the amplifier on the left, or, for a
    phone, above. What a meter read at its terminals stands beside them.
    """
    if as_circuit(option.wiring) is None:
        return Markup("")
    net = f"net {trimmed(round(option.load_ohm, 2))} Ω, an ohmmeter reads about {amount(option.meter_ohm, 'ohm')}"
    pieces, width, height = (_above if upright else _beside)(load, option, net)
    if read is not None:
        x, y = (width / 2, 124.0) if upright else (89.0, height / 2 + 76)
        pieces.append(label(x, y, read[0], "lab", "middle", "paper-halo" if read[1] else "paper-halo bad"))
    return el(
        "svg",
        el("title", f"{load.driven_name}, {option.words}"),
        group(pieces),
        viewBox=f"0 0 {width:g} {height:g}",
        class_="drawing wiring" + (" standing" if upright else ""),
        role="img",
        aria_label=f"Coil wiring: {option.words}",
    )


def _circuit(option: WiringOption) -> Wiring:
    circuit = as_circuit(option.wiring)
    if circuit is None:
        raise ValueError("a series-parallel wiring is wanted")
    return circuit


def _beside(load: LoadResult, option: WiringOption, net: str) -> tuple[list[Markup], float, float]:
    """(the drawing with the amplifier on the left, its width, its height)."""
    wiring = _circuit(option)
    width, height = size_of(wiring)
    total_w, total_h = 780.0, max(220.0, height + 104)
    x = 250 + max(0.0, (total_w - 270 - width) / 2)
    top = (total_h - height) / 2 - 8
    middle = top + height / 2
    amp_y = total_h / 2 - 55
    right = x + width
    pieces = [
        el("rect", x=14.0, y=amp_y, width=150.0, height=110.0, rx=5, class_="amp"),
        label(89, amp_y + 28, load.amplifier.name, "lab", "middle"),
        label(89, amp_y + 46, f"lowest load {trimmed(load.lowest_ohm)} Ω", "dim", "middle"),
        label(142, amp_y + 74, "+", "lab", "end"),
        label(142, amp_y + 100, "−", "lab", "end"),
        *_wire(f"M158 {amp_y + 70:.1f}H200V{middle:.1f}H{x:.1f}"),
        *_wire(f"M158 {amp_y + 96:.1f}H186V{total_h - 10:.1f}H{right + 22:.1f}V{middle:.1f}H{right:.1f}", "w-black"),
        el("circle", cx=156.0, cy=amp_y + 70, r=5, class_="terminal"),
        el("circle", cx=156.0, cy=amp_y + 96, r=5, class_="terminal"),
        *lay_network(wiring, dict(option.coil_power_w), x, top),
        label(x + width / 2, 22, f"{load.driven_name}: {option.words}", "lab", "middle"),
        label(right + 12, total_h - 24, net, "dim", "end", "paper-halo"),
    ]
    return pieces, total_w, total_h


def _above(load: LoadResult, option: WiringOption, net: str) -> tuple[list[Markup], float, float]:
    """(the drawing with the amplifier above its coils, its width, its height)."""
    wiring = _circuit(option)
    width, height = size_of(wiring)
    total_w = max(NARROW, width + 40)
    centre, x, top, amp_y, foot = total_w / 2, (total_w - width) / 2, 158.0, 34.0, 100.0
    middle, right = top + height / 2, x + width
    plus, minus = centre - 40, centre + 40
    pieces = [
        label(centre, 20, f"{load.driven_name}: {option.words}", "lab", "middle"),
        el("rect", x=centre - 90, y=amp_y, width=180.0, height=foot - amp_y, rx=5, class_="amp"),
        label(centre, amp_y + 20, load.amplifier.name, "lab", "middle"),
        label(centre, amp_y + 37, f"lowest load {trimmed(load.lowest_ohm)} Ω", "dim", "middle"),
        label(plus, foot - 9, "+", "lab", "middle"),
        label(minus, foot - 9, "−", "lab", "middle"),
        *_wire(f"M{plus:.1f} {foot:.1f}v24H{x - 12:.1f}V{middle:.1f}H{x:.1f}"),
        *_wire(f"M{minus:.1f} {foot:.1f}v24H{right + 12:.1f}V{middle:.1f}H{right:.1f}", "w-black"),
        el("circle", cx=plus, cy=foot, r=5, class_="terminal"),
        el("circle", cx=minus, cy=foot, r=5, class_="terminal"),
        *lay_network(wiring, dict(option.coil_power_w), x, top),
        label(centre, top + height + 26, net, "dim", "middle"),
    ]
    return pieces, total_w, top + height + 36


def draw_thumbnail(laid: Wiring | BenchWiring) -> Markup:
    """A small picture of a wiring for the list of choices: boxes and wires only."""
    wiring = as_circuit(laid)
    if wiring is None:
        return Markup("")
    width, height = size_of(wiring)
    return el(
        "svg", group(lay_network(wiring, {}, 10.0, 6.0)), viewBox=f"0 0 {width + 20:g} {height + 12:g}",
        class_="thumb", aria_hidden="true",
    )  # fmt: skip
