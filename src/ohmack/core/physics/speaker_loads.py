"""Speaker loads: every series-parallel wiring of a set of voice coils, its load and its share of power."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from math import exp, isclose, log
from re import findall

from ohmack.core.errors import OutOfRange, require
from ohmack.core.record import record

Shape = tuple[object, ...] | str  # "coil", ("series", shapes...) or ("parallel", shapes...)


@record
class Coil:
    """One voice coil: its name, nominal impedance, DC resistance (0 where unknown) and the power it takes."""

    name: str
    impedance_ohm: float
    dc_resistance_ohm: float = 0.0
    power_w: float | None = None


@record
class Wiring:
    """A series-parallel network of coils."""

    kind: str  # coil, series, parallel
    parts: tuple[Wiring, ...] = ()
    coil: Coil | None = None

    def resistance_ohm(self, dc: bool = False) -> float:
        """Net load of the network.

        Parameters:
            dc: True for what an ohmmeter reads, False for nominal impedance.

        Returns:
            resistance [ohm].
        """
        if self.coil is not None:
            return self.coil.dc_resistance_ohm if dc else self.coil.impedance_ohm
        values = [part.resistance_ohm(dc) for part in self.parts]
        return sum(values) if self.kind == "series" else 1 / sum(1 / value for value in values)

    def shares(self) -> dict[str, float]:
        """Share of the net power each coil takes, by coil name; they sum to 1."""
        if self.coil is not None:
            return {self.coil.name: 1.0}
        net = self.resistance_ohm()
        result: dict[str, float] = {}
        for part in self.parts:
            own = part.resistance_ohm()
            share = own / net if self.kind == "series" else net / own
            result |= {name: share * inner for name, inner in part.shares().items()}
        return result

    def part_of(self, names: frozenset[str]) -> Wiring | None:
        """The piece of the network that holds exactly these coils; None where they are spread over it."""
        if {coil.name for coil in self.coils()} == names:
            return self
        found = (part.part_of(names) for part in self.parts)
        return next((piece for piece in found if piece is not None), None)

    def key(self) -> str:
        """A stable name of the wiring, as kept in the design: `parallel(a,series(b,c))`."""
        if self.coil is not None:
            return self.coil.name
        return f"{self.kind}({','.join(part.key() for part in self.parts)})"

    def coils(self) -> tuple[Coil, ...]:
        """The coils in the order they are drawn."""
        if self.coil is not None:
            return (self.coil,)
        return tuple(coil for part in self.parts for coil in part.coils())

    def words(self) -> str:
        """The wiring as it is said: `both coils in parallel`, `2 in series, then those in parallel`."""
        if self.coil is not None:
            return "single coil"
        if all(part.kind == "coil" for part in self.parts):
            count = {2: "both coils", 3: "three coils", 4: "four coils"}.get(
                len(self.parts), f"{len(self.parts)} coils"
            )
            return f"{count} in {self.kind}"
        inner = " + ".join(part.words() for part in self.parts)
        return f"({inner}) in {self.kind}"


def structure_of(key: str, kinds: Mapping[str, str]) -> str:
    """A wiring's key with every coil as its kind and the parts of every joint in order.

    Parameters:
        key: as `Wiring.key` writes it.
        kinds: what each coil is, by name; coils of one kind are interchangeable.

    Returns:
        a text that is the same for wirings no meter tells apart; "" for a key that cannot be read or names a coil that
        is not there.

    >>> structure_of("parallel(b,series(a,c))", dict.fromkeys("abc", "4")) == structure_of("parallel(series(b,c),a)",
    ... dict.fromkeys("abc", "4"))
    True
    """
    tokens = findall(r"series\(|parallel\(|[^(),]+|[(),]", key)
    stack: list[list[str]] = [[]]
    joints: list[str] = []
    for token in tokens:
        if token in ("series(", "parallel("):
            joints.append(token)
            stack.append([])
        elif token == ")" and joints:
            inner = sorted(stack.pop())
            stack[-1].append(f"{joints.pop()}{','.join(inner)})")
        elif token in kinds:
            stack[-1].append(kinds[token])
        elif token != ",":
            return ""
    return stack[0][0] if len(stack) == 1 == len(stack[0]) else ""


def _set_partitions(items: tuple[int, ...]) -> Iterator[list[tuple[int, ...]]]:
    if not items:
        yield []
        return
    first, rest = items[0], items[1:]
    for mask in range(2 ** len(rest)):
        block = (first, *(rest[i] for i in range(len(rest)) if mask >> i & 1))
        left = tuple(rest[i] for i in range(len(rest)) if not mask >> i & 1)
        for others in _set_partitions(left):
            yield [block, *others]


def wirings(coils: Sequence[Coil], most: int = 6) -> tuple[Wiring, ...]:
    """Every series-parallel network that uses each coil once; coils equal in every value are interchangeable.

    Parameters:
        coils: the coils to connect.
        most: refuse more coils than this, the number of networks explodes.

    Returns:
        networks, lowest load first.

    Raises:
        OutOfRange: no coil, more than `most`, or an impedance that is not above zero.

    Source: recursive enumeration; counts for equal coils are OEIS A000084.
    """
    if not 1 <= len(coils) <= most:
        raise OutOfRange("coils", len(coils), "coils", f"1 to {most}")
    for coil in coils:
        require("impedance_ohm", coil.impedance_ohm, "Ω")
    seen = [repr((coil.impedance_ohm, coil.dc_resistance_ohm)) for coil in coils]  # the order of parts in a key
    kinds = [repr((coil.impedance_ohm, coil.dc_resistance_ohm, coil.power_w)) for coil in coils]

    @cache
    def build(items: tuple[int, ...], top: str) -> tuple[tuple[str, str, Wiring], ...]:
        """Networks over the items whose topmost joint is `top`: sorting text, text that tells them apart, network."""
        if len(items) == 1:
            return ((seen[items[0]], kinds[items[0]], Wiring("coil", coil=coils[items[0]])),)
        inner = "parallel" if top == "series" else "series"
        found: dict[str, tuple[str, str, Wiring]] = {}
        for blocks in _set_partitions(items):
            if len(blocks) < 2:
                continue
            combos: list[list[tuple[str, str, Wiring]]] = [[]]
            for block in blocks:
                combos = [[*combo, choice] for combo in combos for choice in build(block, inner)]
            for combo in combos:
                combo.sort(key=lambda made: made[0])
                order = f"{top}[{'|'.join(made[0] for made in combo)}]"
                text = f"{top}[{'|'.join(sorted(made[1] for made in combo))}]"
                found.setdefault(text, (order, text, Wiring(top, tuple(made[2] for made in combo))))
        return tuple(found.values())

    everything = tuple(range(len(coils)))
    tops = ("series",) if len(coils) == 1 else ("series", "parallel")
    networks = [wiring for top in tops for _, _, wiring in build(everything, top)]
    return tuple(sorted(networks, key=lambda w: (w.resistance_ohm(), w.key())))


def rated_power_w(ratings: Sequence[tuple[float, float]], load_ohm: float) -> float:
    """What a channel gives into a load.

    Parameters:
        ratings: rows (load [ohm], power [w]) of the rating table.
        load_ohm: wired load [ohm].

    Returns:
        power [w].

    Raises:
        OutOfRange: no ratings, or a load below the lowest rated one: never extrapolated.

    Formula: straight in log power over log load between rows; above the last row constant voltage, half the
    power per doubling. Source: common practice.
    """
    rows = sorted(ratings)
    if not rows:
        raise OutOfRange("ratings", 0, "rows", "at least one row")
    require("load_ohm", load_ohm, "Ω")
    if load_ohm < rows[0][0] * (1 - 1e-9):
        raise OutOfRange("load_ohm", load_ohm, "Ω", f"{rows[0][0]:g} Ω and up, the lowest rated load")
    rated_w = next((power_w for ohm, power_w in rows if isclose(load_ohm, ohm, rel_tol=1e-9)), None)
    if rated_w is not None:
        return rated_w  # to the last digit: a limit that is just met is met
    for (low_ohm, low_w), (high_ohm, high_w) in zip(rows, rows[1:], strict=False):
        if load_ohm <= high_ohm:
            position = log(load_ohm / low_ohm) / log(high_ohm / low_ohm)
            return exp(log(low_w) + position * log(high_w / low_w))
    last_ohm, last_w = rows[-1]
    return last_w * last_ohm / load_ohm


RATED_INTO_OHM = 4.0  # the load radios are rated into, common practice


def power_voltage_v(power_w: float, load_ohm: float) -> float:
    """Voltage of a power into a load.

    Parameters:
        power_w: power [w].
        load_ohm: nominal load [ohm].

    Returns:
        voltage, rms [v].

    Raises:
        OutOfRange: power or load not above zero.

    Formula: sqrt(P Z). Source: textbook circuit theory.

    >>> power_voltage_v(100, 4)
    20.0
    """
    require("power_w", power_w, "W")
    require("load_ohm", load_ohm, "Ω")
    return float((power_w * load_ohm) ** 0.5)
