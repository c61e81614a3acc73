"""A wiring as it lies on the bench: amplifier, speaker wire, and the drivers from behind with their terminals and
jumpers.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from markupsafe import Markup

from ohmack.core.loads.driven import Driven
from ohmack.core.loads.wiring_judge import DriverPower, WiringOption
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import MINUS, PLUS, BenchWiring, laid
from ohmack.core.wording import amount, digits, trimmed
from ohmack.drawing.svg import cut_to, el, group, label

MOST_DRIVERS, MOST_COILS = 4, 2  # beyond, the coils are drawn as a circuit
WIDTH, AMP_X, AMP_W, AMP_H = 780.0, 14.0, 150.0, 124.0
RADIUS, HALF, SIDE = 72.0, 22.0, 46.0  # of a driver; terminals over and under its middle; beside it
TOP, LANE = 54.0, 11.0
JOINTS = ("w-violet", "w-green", "w-orange", "w-grey")


@dataclass(frozen=True, slots=True)
class Terminal:
    """Where one end of a coil is [px], at which driver, and what it is called."""

    x: float
    y: float
    plus: bool
    driver: int
    name: str = ""


@dataclass
class Net:
    """Everything that is one piece of wire, and which ends of the output are on it."""

    plus: list[Terminal] = field(default_factory=list)
    minus: list[Terminal] = field(default_factory=list)
    output: frozenset[str] = frozenset()

    @property
    def lone(self) -> bool:
        """Whether no wire is on it."""
        return len(self.plus) + len(self.minus) + len(self.output) < 2

    @property
    def within(self) -> bool:
        """Whether it only joins two ends at one driver."""
        return (
            not self.output and len(self.plus) == 1 == len(self.minus) and self.plus[0].driver == self.minus[0].driver
        )

    @property
    def crosses(self) -> bool:
        """Whether it needs a run between drivers beside those straight to the output."""
        if PLUS in self.output and MINUS in self.output:
            return False
        if PLUS in self.output:
            return bool(self.minus)
        if MINUS in self.output:
            return bool(self.plus)
        return not self.within and not self.lone


def can_be_drawn(load: LoadResult, option: WiringOption) -> bool:
    """Whether the drivers of an output, and every coil of this wiring, have room as they lie on a bench."""
    coils = {coil.name for coil in option.wiring.coils()}
    few = all(len(driven.coils) <= MOST_COILS for driven in load.driven)
    return few and len(load.driven) <= MOST_DRIVERS and coils == {c.name for d in load.driven for c in d.coils}


def draw_backs(load: LoadResult, option: WiringOption, read: tuple[str, bool] | None = None) -> Markup:
    """The amplifier on the left, its drivers beside it from behind, every wire from terminal to terminal; what a meter
    read at its terminals stands under them.
    """
    drivers = load.driven
    room = (WIDTH - AMP_X - AMP_W - 40) / len(drivers)
    centres = [AMP_X + AMP_W + 40 + room * (n + 0.5) for n in range(len(drivers))]
    bench = bench_wiring(option)
    lanes = sum(net.crosses for net in _nets(bench, drivers, centres, 0.0))
    above = TOP + 16 + LANE * lanes  # the red wire runs over the lanes of jumpers
    middle = above + 10 + RADIUS
    low = middle + RADIUS + 22 + LANE * lanes
    nets = _nets(bench, drivers, centres, middle)
    wires: list[Markup] = []
    for net in nets:
        wires += _to_output(net, middle, low)
    bowed = {net.plus[0].driver for net in nets if net.within}
    for net in (net for net in nets if net.within):
        wires += _wire(_bow(net, middle), JOINTS[0])
    gaps: dict[int, int] = {}
    for n, net in enumerate(net for net in nets if net.crosses):
        gap = max(min((t.driver for t in net.minus), default=0), min((t.driver for t in net.plus), default=0))
        gaps[gap] = gaps.get(gap, -1) + 1  # it goes up left of this driver
        link = centres[gap] - room / 2 + (9 * gaps[gap] if gap else 8 + 9 * gaps[gap])
        up, down = TOP + 10 if PLUS in net.output else above - LANE * n, middle + RADIUS + 12 + LANE * n
        down = low if MINUS in net.output else down
        tone = "w-red" if PLUS in net.output else "w-black" if MINUS in net.output else JOINTS[(n + 1) % len(JOINTS)]
        wires += _wire(_joint(net, link, up, down), tone)
    wrong = _wrong(bench)
    foot = 66 if any(map(wrong, drivers)) else 48
    pieces = [
        *_amplifier(load, middle),
        *(_back(x, middle) for x in centres),
        *wires,
        *_output_ends(middle),
        *(_terminal(t, net.lone) for net in nets for t in (*net.plus, *net.minus)),
        *(_name(d, x, middle, len(drivers), n in bowed) for n, (d, x) in enumerate(zip(drivers, centres, strict=True))),
        *(_power(option.drivers, n, x, low, wrong(d)) for n, (d, x) in enumerate(zip(drivers, centres, strict=True))),
        label(AMP_X, 20, cut_to(WIDTH - 2 * AMP_X, _title(load, option), "lab"), "lab"),
        label(AMP_X, 38, _net(option), "dim"),
    ]
    if read is not None:
        pieces.append(label(AMP_X, low + foot - 10, read[0], "lab", "start", "" if read[1] else "bad"))
    title = f"{load.driven_name} from behind: {option.words}"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {WIDTH:g} {low + foot:g}",
        class_="drawing wiring backs", role="group", aria_label=title, data_bench=load.link.id,
    )  # fmt: skip


def bench_wiring(option: WiringOption) -> BenchWiring:
    """A wiring as leads from terminal to terminal."""
    wiring = option.wiring
    return wiring if isinstance(wiring, BenchWiring) else BenchWiring(laid(wiring), wiring.coils())


def _title(load: LoadResult, option: WiringOption) -> str:
    """What is wired, and how."""
    return f"{load.driven_name}: {option.words}"


def _net(option: WiringOption) -> str:
    if not option.stays:
        return option.reason
    return f"net {trimmed(round(option.load_ohm, 2))} Ω, a meter reads about {amount(option.meter_ohm, 'ohm')}"


def _nets(bench: BenchWiring, drivers: Sequence[Driven], centres: Sequence[float], middle: float) -> list[Net]:
    """Every piece of wire with the terminals on it, those of the output first."""
    places = {
        coil.name: (n, centres[n] + (0.0 if len(driven.coils) == 1 else SIDE * (2 * k - 1)))
        for n, driven in enumerate(drivers)
        for k, coil in enumerate(driven.coils)
    }
    found = []
    for names in bench.nets:
        net = Net(output=names & {PLUS, MINUS})
        for coil, (n, x) in places.items():
            if f"{coil}+" in names:
                net.plus.append(Terminal(x, middle - HALF, True, n, f"{coil}+"))
            if f"{coil}-" in names:
                net.minus.append(Terminal(x, middle + HALF, False, n, f"{coil}-"))
        found.append(net)
    return found


def _wrong(bench: BenchWiring) -> Callable[[Driven], str]:
    """What is wrong with a driver as it is wired, in a word or two."""
    polarity, shorted, hand = (
        bench.polarity,
        set(bench.bridged_over()),
        any(sign < 1 for sign in bench.polarity.values()),
    )

    def say(driven: Driven) -> str:
        signs = {polarity[coil.name] for coil in driven.coils} if hand else {1}
        if signs == {-1}:
            return "reversed"
        if signs == {0}:
            return "gets nothing"
        if signs == {1}:
            return ""
        if -1 in signs:
            return "coils opposed"
        return "a coil shorted" if {coil.name for coil in driven.coils} & shorted else "a coil hangs open"

    return say


def _wire(d: str, tone: str) -> list[Markup]:
    if not d:
        return []
    return [el("path", d=d, class_="w-out", stroke_width=6.4), el("path", d=d, class_=tone, stroke_width=4)]


def _to_output(net: Net, middle: float, low: float) -> list[Markup]:
    """The wires of a net straight to the amplifier."""
    start = AMP_X + AMP_W
    if net.output == {PLUS, MINUS}:
        short = f"M{start - 6:.1f} {middle - 12:.1f}H{start + 12:.1f}V{middle + 30:.1f}H{start - 6:.1f}"
        both = _bus(net.plus, TOP + 10, middle - 12) + _bus(net.minus, low, middle + 30)
        return [*_wire(both, "w-red"), *_wire(short, "w-red")]
    if PLUS in net.output:
        return _wire(_bus(net.plus, TOP + 10, middle - 12, bool(net.minus)), "w-red")
    return _wire(_bus(net.minus, low, middle + 30, bool(net.plus)), "w-black") if MINUS in net.output else []


def _bus(terminals: Sequence[Terminal], y: float, amp_y: float, goes_on: bool = False) -> str:
    """From the amplifier to every terminal: out, along, and to each; or out to where it goes on."""
    start = AMP_X + AMP_W
    if not terminals and not goes_on:
        return ""
    last = max((t.x for t in terminals), default=start + 20)
    drops = "".join(f"M{t.x:.1f} {y:.1f}V{t.y:.1f}" for t in terminals)
    return f"M{start - 6:.1f} {amp_y:.1f}H{start + 20:.1f}V{y:.1f}H{last:.1f}{drops}"


def _bow(net: Net, middle: float) -> str:
    """A jumper within one driver."""
    a, b = net.minus[0], net.plus[0]
    if a.x == b.x:  # both ends of one coil
        return f"M{a.x:.1f} {a.y:.1f}C{a.x + 34:.1f} {a.y:.1f} {b.x + 34:.1f} {b.y:.1f} {b.x:.1f} {b.y:.1f}"
    across = (a.x + b.x) / 2
    down = f"M{a.x:.1f} {a.y:.1f}C{a.x:.1f} {middle + 60:.1f} {across:.1f} {middle + 58:.1f} {across:.1f} {middle:.1f}"
    return f"{down}S{b.x:.1f} {middle - 58:.1f} {b.x:.1f} {b.y:.1f}"


def _joint(net: Net, link: float, up: float, down: float) -> str:
    """A jumper between drivers: under them, up between two of them at `link`, and over to the others."""
    path = ""
    both = bool(net.minus or MINUS in net.output) and bool(net.plus or PLUS in net.output)
    for terminals, y, out in ((net.minus, down, MINUS in net.output), (net.plus, up, PLUS in net.output)):
        ends = [*(t.x for t in terminals), *([link] if both else []), *([AMP_X + AMP_W + 20] if out else [])]
        if ends:
            path += f"M{min(ends):.1f} {y:.1f}H{max(ends):.1f}"
        path += "".join(f"M{t.x:.1f} {t.y:.1f}V{y:.1f}" for t in terminals)
    return f"{path}M{link:.1f} {down:.1f}V{up:.1f}" if both else path


def _amplifier(load: LoadResult, middle: float) -> list[Markup]:
    y = middle - AMP_H / 2
    first = load.link.channel
    outputs = f"channels {first} and {first + 1}, bridged" if load.link.bridged else f"channel {first}"
    return [
        el("rect", x=AMP_X, y=y, width=AMP_W, height=AMP_H, rx=5, class_="amp"),
        label(AMP_X + 12, y + 24, cut_to(AMP_W - 20, load.amplifier.name, "lab"), "lab"),
        label(AMP_X + 12, y + 42, f"from {trimmed(load.lowest_ohm)} Ω up", "dim"),
        label(AMP_X + AMP_W - 16, middle - 8, "+", "lab", "end"),
        label(AMP_X + AMP_W - 16, middle + 34, "−", "lab", "end"),
        label(AMP_X + 12, middle + 52, outputs if load.amplifier.channels > 1 else "speaker", "dim"),
    ]


def _output_ends(middle: float) -> list[Markup]:
    """The amplifier's own terminals, over the ends of the wires."""
    ends = ((PLUS, "amplifier +", middle - 12), (MINUS, "amplifier −", middle + 30))
    return [_handle(name, said, [_end(AMP_X + AMP_W - 6, y)]) for name, said, y in ends]


def _end(x: float, y: float) -> Markup:
    return el("circle", cx=x, cy=y, r=6, class_="terminal")


def _handle(name: str, said: str, pieces: Sequence[Markup]) -> Markup:
    """A terminal a lead is drawn from or to: by the pointer, or with Enter on one and then on the other."""
    return group(
        pieces, data_terminal=name, class_="end", tabindex="0", role="button", aria_label=f"lead from {said}",
        aria_pressed="false",
    )  # fmt: skip


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


def _terminal(terminal: Terminal, lone: bool) -> Markup:
    tone = "plus" if terminal.plus else "minus"
    sign = "+" if terminal.plus else "−"
    pieces = [
        el("rect", x=terminal.x - 8, y=terminal.y - 8, width=16.0, height=16.0, rx=3, class_=f"tag {tone}"),
        label(terminal.x, terminal.y + 5, sign, "lab", "middle", "on-tag"),
    ]
    if lone:
        pieces.append(el("circle", cx=terminal.x, cy=terminal.y, r=14, class_="lone"))
    return _handle(terminal.name, f"{terminal.name[:-1]} {sign}", pieces)


def _power(powers: Sequence[DriverPower], n: int, x: float, low: float, wrong: str) -> Markup:
    """What reaches a driver of what it takes, as a bar; what is wrong with it instead."""
    pieces: list[Markup] = []
    if n < len(powers):
        one = powers[n]
        words = f"{digits(one.power_w)} W" + (f" of {digits(one.takes_w)} W" if one.takes_w else "")
        pieces.append(label(x, low + 40, words, "lab", "middle", "paper-halo"))
        if one.share is not None:
            wide = 110.0
            full = wide * min(1.0, one.share)
            pieces.append(el("rect", x=x - wide / 2, y=low + 16, width=wide, height=7.0, class_="bar-room"))
            pieces.append(el("rect", x=x - wide / 2, y=low + 16, width=full, height=7.0, class_="bar-full"))
    if wrong:
        pieces.append(label(x, low + (58 if pieces else 22), wrong, "lab", "middle", "wrong"))
    return group(pieces)
