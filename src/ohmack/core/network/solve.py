"""Solving a power network: all node voltages and branch currents of one state, exactly."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import NoOperatingPoint
from ohmack.core.network.model import PowerNetwork
from ohmack.core.supply import Load, network_voltages_v

APART_OHM = 1e-12  # consumers that share less than this do not know of each other


@dataclass(frozen=True, slots=True)
class Ports:
    """The network as its consumers see it, everything else folded away. Shapes by n consumers and m unknowns."""

    open_v: NDArray[np.float64]  # (n,) voltage at each while nothing draws
    resistance_ohm: NDArray[np.float64]  # (n, n) what a current of k takes from the voltage at j
    at_rest: NDArray[np.float64]  # (m,) node voltages and branch currents while nothing draws
    by_ampere: NDArray[np.float64]  # (m, n) how they move with each consumer's current


@dataclass(frozen=True, slots=True)
class Solution:
    """One solved state. What collapsed has no entry in `voltage_v` and draws nothing."""

    voltage_v: Mapping[str, float]  # at each consumer
    current_a: Mapping[str, float]  # of each consumer
    branch_a: Mapping[str, float]  # from start to end
    node_v: Mapping[str, float]
    collapsed: Mapping[str, NoOperatingPoint] = field(default_factory=dict)


def ports(
    network: PowerNetwork, emf_v: Mapping[str, float], inner_ohm: Mapping[str, float], warm: float = 1.0
) -> Ports:
    """Fold a network onto its consumers.

    Parameters:
        network: the network.
        emf_v: by battery, the voltage it holds while nothing is drawn [v].
        inner_ohm: by battery, its own resistance; none named, none there [ohm].
        warm: resistance of a run over that at 20 °C.

    Returns:
        the folded network.

    Method: modified nodal analysis with every branch current an unknown, so that a resistance of zero is one too.
    Source: textbook circuit theory.
    """
    ground = network.cells[0].minus
    nodes = _nodes(network)
    row = {node: i for i, node in enumerate(n for n in nodes if n != ground)}
    first_branch, first_cell = len(row), len(row) + len(network.branches)
    size = first_cell + len(network.cells)
    matrix = np.zeros((size, size))
    right = np.zeros((size, 1 + len(network.consumers)))

    def tie(column: int, plus: str, minus: str) -> None:
        """A current that leaves `plus` and enters `minus`, and the voltage between them in its own row."""
        for node, sign in ((plus, 1.0), (minus, -1.0)):
            if node != ground:
                matrix[row[node], column] += sign
                matrix[column, row[node]] += sign

    for i, branch in enumerate(network.branches):
        tie(first_branch + i, branch.start, branch.end)
        matrix[first_branch + i, first_branch + i] = -branch.resistance_ohm * (warm if branch.warms else 1.0)
    for i, cell in enumerate(network.cells):
        tie(first_cell + i, cell.plus, cell.minus)
        matrix[first_cell + i, first_cell + i] = -inner_ohm.get(cell.id, 0.0)
        right[first_cell + i, 0] = emf_v[cell.id]
    for k, consumer in enumerate(network.consumers):
        for node, sign in ((consumer.plus, -1.0), (consumer.minus, 1.0)):
            if node != ground:
                right[row[node], 1 + k] += sign
    answer = np.asarray(np.linalg.solve(matrix, right), dtype=np.float64)

    def at(node: str) -> NDArray[np.float64]:
        return answer[row[node]] if node != ground else np.zeros(right.shape[1])

    between = np.array([at(c.plus) - at(c.minus) for c in network.consumers])
    rest, moved = np.asarray(answer[:, 0], dtype=np.float64), np.asarray(answer[:, 1:], dtype=np.float64)
    return Ports(between[:, 0], -between[:, 1:], rest, moved)


def _nodes(network: PowerNetwork) -> list[str]:
    """Every node once, in the order the network names them."""
    names = [name for b in network.branches for name in (b.start, b.end)]
    return list(dict.fromkeys([*(n for c in network.cells for n in (c.minus, c.plus)), *names]))


def solve(network: PowerNetwork, folded: Ports, loads: Mapping[str, Load]) -> Solution:
    """All node voltages and branch currents with every consumer drawing.

    Parameters:
        network: the network.
        folded: its ports in the state that is solved.
        loads: by consumer, what hangs there.

    Returns:
        the solution; consumers that share resistance collapse together unless some of them collapse already alone.
    """
    current_a = np.zeros(len(network.consumers))
    volts: dict[str, float] = {}
    collapsed: dict[str, NoOperatingPoint] = {}
    names = [c.id for c in network.consumers]
    for together in _groups(folded.resistance_ohm):
        able = []
        for k in together:
            try:
                _voltages(folded, [k], [loads[names[k]]])
                able.append(k)
            except NoOperatingPoint as error:
                collapsed[names[k]] = error
        try:
            found = _voltages(folded, able, [loads[names[k]] for k in able])
        except NoOperatingPoint as error:
            collapsed |= dict.fromkeys((names[k] for k in able), error)
            continue
        for k, volt_v in zip(able, found, strict=True):
            volts[names[k]] = volt_v
            current_a[k] = loads[names[k]].current_at(volt_v)
    state = folded.at_rest + folded.by_ampere @ current_a
    ground = network.cells[0].minus
    nodes = [n for n in _nodes(network) if n != ground]
    branch_a = {b.id: float(state[len(nodes) + i]) for i, b in enumerate(network.branches)}
    node_v = {ground: 0.0} | {node: float(state[i]) for i, node in enumerate(nodes)}
    return Solution(volts, {n: float(a) for n, a in zip(names, current_a, strict=True)}, branch_a, node_v, collapsed)


def _voltages(folded: Ports, who: Sequence[int], loads: Sequence[Load]) -> list[float]:
    if not who:
        return []
    pick = np.array(who)
    return network_voltages_v([float(v) for v in folded.open_v[pick]], folded.resistance_ohm[np.ix_(pick, pick)], loads)


def _groups(resistance_ohm: NDArray[np.float64]) -> list[list[int]]:
    """Consumers that share resistance, group by group."""
    left = set(range(len(resistance_ohm)))
    groups = []
    while left:
        todo, group = [min(left)], []
        while todo:
            k = todo.pop()
            if k in left:
                left.discard(k)
                group.append(k)
                todo += [j for j in left if abs(resistance_ohm[k, j]) > APART_OHM]
        groups.append(sorted(group))
    return groups
