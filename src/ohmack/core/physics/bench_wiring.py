"""A wiring as it was laid by hand: leads from terminal to terminal, whatever network they make of the coils."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

import networkx as nx

from ohmack.core.errors import OutOfRange
from ohmack.core.physics.nodal import OPEN_OHM, Part, Solution, solve
from ohmack.core.physics.speaker_loads import Coil, Wiring

PLUS, MINUS = "+", "-"  # the output's own terminals; a coil's are its name with one of these
NOTHING = 1e-6  # a share of the output's voltage below which a coil takes nothing
Lead = tuple[str, str]
Edge = tuple[str, str, Wiring]


def terminals_of(coils: Iterable[Coil]) -> tuple[str, ...]:
    """Every terminal of an output and its coils, the output's own first."""
    return (PLUS, MINUS, *(f"{coil.name}{end}" for coil in coils for end in (PLUS, MINUS)))


@dataclass(frozen=True)
class BenchWiring:
    """Coils with leads between terminals; it answers as a `Wiring` does."""

    leads: tuple[Lead, ...]
    each: tuple[Coil, ...]
    kind: str = "bench"
    parts: tuple[Wiring, ...] = ()
    coil: None = None

    @cached_property
    def nets(self) -> tuple[frozenset[str], ...]:
        """The terminals that are one piece of wire, the output's plus first, then its minus; lone ones too."""
        graph: nx.Graph[str] = nx.Graph()
        graph.add_nodes_from(terminals_of(self.each))
        graph.add_edges_from(self.leads)
        found = [frozenset(net) for net in nx.connected_components(graph)]
        return tuple(sorted(found, key=lambda net: (PLUS not in net, MINUS not in net, *sorted(net))))

    def net_of(self, terminal: str) -> int:
        """Which net a terminal is on."""
        return next(n for n, net in enumerate(self.nets) if terminal in net)

    @cached_property
    def shorted(self) -> bool:
        """Whether the output's plus and minus are one piece of wire."""
        return MINUS in self.nets[0]

    @cached_property
    def opened(self) -> bool:
        """Whether no current leaves the output."""
        return not self.shorted and float(self.solution().input_ohm[0].real) >= OPEN_OHM / 1000

    def network(self, dc: bool = False) -> list[Part]:
        """The coils between their nets, those shorted by a lead left out."""
        ohms = {coil.name: coil.dc_resistance_ohm if dc else coil.impedance_ohm for coil in self.each}
        ends = {name: (self.net_of(f"{name}{PLUS}"), self.net_of(f"{name}{MINUS}")) for name in ohms}
        # a resistance nothing notices keeps both terminals of the output on the network, however little hangs there
        rest = Part("", str(self.net_of(PLUS)), str(self.net_of(MINUS)), OPEN_OHM)
        return [*(Part(name, str(a), str(b), ohms[name]) for name, (a, b) in ends.items() if a != b), rest]

    def solution(self, dc: bool = False) -> Solution:
        """The network with one volt at the output.

        Raises:
            OutOfRange: plus and minus are one piece of wire.
        """
        if self.shorted:
            raise OutOfRange("load", 0, "Ω", "above zero: a lead shorts the output")
        return solve(self.network(dc), str(self.net_of(PLUS)), str(self.net_of(MINUS)))

    def resistance_ohm(self, dc: bool = False) -> float:
        """Net load, or what an ohmmeter reads with `dc` [ohm]; 0 for a short, OPEN_OHM for nothing."""
        if self.shorted:
            return 0.0
        return OPEN_OHM if self.opened else float(self.solution(dc).input_ohm[0].real)

    def shares(self) -> dict[str, float]:
        """Share of the net power each coil takes, by coil name; none of it where nothing can flow."""
        if self.shorted or self.opened:
            return dict.fromkeys((coil.name for coil in self.each), 0.0)
        solution = self.solution()
        net_w = 1 / float(solution.input_ohm[0].real)
        return {
            coil.name: float(solution.power_w(coil.name)[0]) / net_w if coil.name in solution.volts else 0.0
            for coil in self.each
        }

    @cached_property
    def polarity(self) -> dict[str, int]:
        """By coil: 1 with the output, −1 turned round, 0 where it takes nothing."""
        if self.shorted or self.opened:
            return dict.fromkeys((coil.name for coil in self.each), 0)
        volts = {name: float(v[0].real) for name, v in self.solution().volts.items()}
        return {
            coil.name: 0 if abs(volts.get(coil.name, 0.0)) < NOTHING else 1 if volts[coil.name] > 0 else -1
            for coil in self.each
        }

    def bridged_over(self) -> tuple[str, ...]:
        """Coils with both terminals on one piece of wire."""
        return tuple(c.name for c in self.each if self.net_of(f"{c.name}{PLUS}") == self.net_of(f"{c.name}{MINUS}"))

    def key(self) -> str:
        """As kept in the design: `leads(+=A1+,A1-=B1+)`."""
        return f"leads({','.join(f'{a}={b}' for a, b in self.leads)})"

    def coils(self) -> tuple[Coil, ...]:
        """Every coil of the output, wired or not."""
        return self.each

    def part_of(self, names: frozenset[str]) -> BenchWiring | None:
        """Itself, for all of its coils; a piece of a wiring laid by hand is not told apart."""
        return self if names == {coil.name for coil in self.each} else None

    def words(self) -> str:
        """How it is called where nothing simpler can be said."""
        return "wired by hand"

    @cached_property
    def reduced(self) -> Wiring | None:
        """The series-parallel wiring it comes to, whichever way round its coils are; None for any other network, or
        where a coil takes no part.
        """
        if self.shorted or self.opened or 0 in self.polarity.values():
            return None
        coils = {coil.name: coil for coil in self.each}
        edges: list[Edge] = [
            (part.a, part.b, Wiring("coil", coil=coils[part.name])) for part in self.network() if part.name
        ]
        ends = {str(self.net_of(PLUS)), str(self.net_of(MINUS))}
        while len(edges) > 1:
            joined = _parallel(edges) or _series(edges, ends)
            if joined is None:
                return None
            edges = joined
        return edges[0][2]


def _parallel(edges: list[Edge]) -> list[Edge] | None:
    """The first pieces that lie beside each other as one."""
    for n, (a, b, first) in enumerate(edges):
        for k, (c, d, second) in enumerate(edges[n + 1 :], n + 1):
            if {a, b} == {c, d}:
                return [*edges[:n], (a, b, _joined("parallel", first, second)), *edges[n + 1 : k], *edges[k + 1 :]]
    return None


def _series(edges: list[Edge], ends: set[str]) -> list[Edge] | None:
    """The first two pieces that alone meet at a joint as one."""
    for node in sorted({end for a, b, _ in edges for end in (a, b)} - ends):
        at = [n for n, (a, b, _) in enumerate(edges) if node in (a, b)]
        if len(at) == 2:
            (a, b, first), (c, d, second) = edges[at[0]], edges[at[1]]
            outer = a if b == node else b, d if c == node else c
            rest = [edge for n, edge in enumerate(edges) if n not in at]
            return [(*outer, _joined("series", first, second)), *rest]
    return None


def _joined(kind: str, *pieces: Wiring) -> Wiring:
    flat = [part for piece in pieces for part in (piece.parts if piece.kind == kind else (piece,))]
    return Wiring(kind, tuple(flat))


def leads_of(key: str, coils: Sequence[Coil]) -> tuple[Lead, ...] | None:
    """The leads a design keeps.

    Parameters:
        key: as `BenchWiring.key` writes it.
        coils: what hangs on the output.

    Returns:
        pairs of terminals; None for another kind of text, or where it names a terminal that is not there.
    """
    if not (key.startswith("leads(") and key.endswith(")")):
        return None
    there = set(terminals_of(coils))
    pairs = [tuple(text.split("=")) for text in key[6:-1].split(",") if text]
    if any(len(pair) != 2 or not there.issuperset(pair) or pair[0] == pair[1] for pair in pairs):
        return None
    return tuple((pair[0], pair[1]) for pair in pairs)


def laid(wiring: Wiring) -> tuple[Lead, ...]:
    """The fewest leads that make a series-parallel wiring, each from one terminal on to the next.

    Parameters:
        wiring: of some coils.

    Returns:
        from the output's plus through every joint to its minus.

    >>> laid(Wiring("series", (Wiring("coil", coil=Coil("A", 4)), Wiring("coil", coil=Coil("B", 4)))))
    (('+', 'A+'), ('A-', 'B+'), ('B-', '-'))
    """
    first, last = _ends(wiring)
    found = [*_chain([PLUS, *first]), *_inner(wiring), *_chain([*last, MINUS])]
    return tuple(found)


def _chain(terminals: Sequence[str]) -> list[Lead]:
    return list(zip(terminals, terminals[1:], strict=False))


def _ends(piece: Wiring) -> tuple[list[str], list[str]]:
    """The coil terminals at both ends of a piece."""
    if piece.coil is not None:
        return [f"{piece.coil.name}{PLUS}"], [f"{piece.coil.name}{MINUS}"]
    if piece.kind == "series":
        return _ends(piece.parts[0])[0], _ends(piece.parts[-1])[1]
    both = [_ends(part) for part in piece.parts]
    return [end for first, _ in both for end in first], [end for _, last in both for end in last]


def _inner(piece: Wiring) -> list[Lead]:
    """The leads of the joints inside a piece."""
    found = [lead for part in piece.parts for lead in _inner(part)]
    if piece.kind == "series":
        for before, after in zip(piece.parts, piece.parts[1:], strict=False):
            found += _chain([*_ends(before)[1], *_ends(after)[0]])
    return found
