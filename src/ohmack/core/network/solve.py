"""Solving a power network: every voltage and every current of one state, exactly."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import NoOperatingPoint
from ohmack.core.network.model import PowerNetwork
from ohmack.core.physics.supply import Load, held_voltage_v, network_voltages_v
from ohmack.core.record import record

MANY = 6  # consumers from which on matrices are quicker than sums
APART_OHM = 1e-12  # consumers that share less than this do not know of each other


@record
class Ports:
    """The network as its consumers see it, everything else folded away."""

    open_v: tuple[float, ...]  # (n,) voltage at each consumer while nothing draws
    resistance_ohm: tuple[tuple[float, ...], ...]  # (n, n) what a current of k takes from the voltage at j
    at_rest_a: Mapping[str, float]  # by branch, its current while nothing draws; none named, none flows
    by_ampere: Mapping[str, tuple[tuple[int, float], ...]]  # by branch, what each consumer's current adds to it
    ohm: Mapping[str, float]  # by branch, its resistance in the state


@record
class Solution:
    """One solved state. What collapsed has no entry in `voltage_v` and draws nothing."""

    voltage_v: Mapping[str, float]  # at each consumer
    current_a: Mapping[str, float]  # of each consumer
    branch_a: Mapping[str, float]  # from start to end
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
        the folded network. Where every consumer's current has one way out and back, as in any car that can be
        drawn, what two consumers share is the sum over the branches both pass; else as `nodal_ports`.
    """
    if not all(consumer.way for consumer in network.consumers):
        return nodal_ports(network, emf_v, inner_ohm, warm)
    ohm = {b.id: b.resistance_ohm * (warm if b.warms else 1.0) for b in network.branches}
    passes: dict[str, list[tuple[int, float]]] = {}
    n = len(network.consumers)
    matrix = [[0.0] * n for _ in range(n)]
    for k, consumer in enumerate(network.consumers):
        for name in consumer.way:
            passes.setdefault(name, []).append((k, -1.0 if name in consumer.against else 1.0))
        if own_ohm := inner_ohm.get(consumer.cell_id, 0.0):
            for j, other in enumerate(network.consumers):
                matrix[j][k] += own_ohm if other.cell_id == consumer.cell_id else 0.0
    if n > MANY:
        along = np.zeros((n, len(passes)))
        for column, through in enumerate(passes.values()):
            for k, sign in through:
                along[k, column] = sign
        matrix = (np.array(matrix) + (along * [ohm[name] for name in passes]) @ along.T).tolist()
    else:
        for name, through in passes.items():
            for j, one in through:
                for k, other_sign in through:
                    matrix[j][k] += one * other_sign * ohm[name]
    open_v = tuple(emf_v[c.cell_id] for c in network.consumers)
    return Ports(open_v, tuple(map(tuple, matrix)), {}, {name: tuple(t) for name, t in passes.items()}, ohm)


def nodal_ports(
    network: PowerNetwork, emf_v: Mapping[str, float], inner_ohm: Mapping[str, float], warm: float = 1.0
) -> Ports:
    """Fold any network onto its consumers, loops and all.

    Parameters and returns as `ports`.

    Method: modified nodal analysis with every branch current an unknown, so that a resistance of zero is one too.
    Source: textbook circuit theory.
    """
    ground = network.cells[0].minus
    names = dict.fromkeys(
        [
            *(n for c in network.cells for n in (c.minus, c.plus)),
            *(n for b in network.branches for n in (b.start, b.end)),
        ]
    )
    row = {node: i for i, node in enumerate(n for n in names if n != ground)}
    first_branch, first_cell = len(row), len(row) + len(network.branches)
    size = first_cell + len(network.cells)
    matrix, right = np.zeros((size, size)), np.zeros((size, 1 + len(network.consumers)))
    ohm = {b.id: b.resistance_ohm * (warm if b.warms else 1.0) for b in network.branches}

    def tie(column: int, plus: str, minus: str) -> None:
        """A current that leaves `plus` and enters `minus`, and the voltage between them in its own row."""
        for node, sign in ((plus, 1.0), (minus, -1.0)):
            if node != ground:
                matrix[row[node], column] += sign
                matrix[column, row[node]] += sign

    for i, branch in enumerate(network.branches):
        tie(first_branch + i, branch.start, branch.end)
        matrix[first_branch + i, first_branch + i] = -ohm[branch.id]
    for i, cell in enumerate(network.cells):
        tie(first_cell + i, cell.plus, cell.minus)
        matrix[first_cell + i, first_cell + i] = -inner_ohm.get(cell.id, 0.0)
        right[first_cell + i, 0] = emf_v[cell.id]
    for k, consumer in enumerate(network.consumers):
        for node, sign in ((consumer.plus, -1.0), (consumer.minus, 1.0)):
            if node != ground:
                right[row[node], 1 + k] += sign
    answer = np.linalg.solve(matrix, right)

    def at(node: str) -> NDArray[np.float64]:
        return answer[row[node]] if node != ground else np.zeros(right.shape[1])

    between = [at(c.plus) - at(c.minus) for c in network.consumers]
    currents = {b.id: answer[first_branch + i] for i, b in enumerate(network.branches)}
    return Ports(
        tuple(float(b[0]) for b in between),
        tuple(tuple(float(-x) for x in b[1:]) for b in between),
        {n: float(c[0]) for n, c in currents.items()},
        {name: tuple(enumerate(map(float, c[1:]))) for name, c in currents.items()},
        ohm,
    )


def solve(network: PowerNetwork, folded: Ports, loads: Mapping[str, Load]) -> Solution:
    """All branch currents with every consumer drawing.

    Parameters:
        network: the network.
        folded: its ports in the state that is solved.
        loads: by consumer, what hangs there.

    Returns:
        the solution; consumers that share resistance collapse together unless some of them collapse already alone.
    """
    names = [c.id for c in network.consumers]
    current_a = [0.0] * len(names)
    volts: dict[str, float] = {}
    collapsed: dict[str, NoOperatingPoint] = {}
    for together in _groups(folded.resistance_ohm):
        able = []
        for k in together:
            try:
                alone_v = held_voltage_v(folded.open_v[k], folded.resistance_ohm[k][k], loads[names[k]])
                able.append(k)
            except NoOperatingPoint as error:
                collapsed[names[k]] = error
        try:
            found = (
                [alone_v]
                if len(together) == len(able) == 1
                else _voltages(folded, able, [loads[names[k]] for k in able])
            )
        except NoOperatingPoint as error:
            collapsed |= dict.fromkeys((names[k] for k in able), error)
            continue
        for k, volt_v in zip(able, found, strict=True):
            volts[names[k]] = volt_v
            current_a[k] = loads[names[k]].current_at(volt_v)
    branch_a = {
        b.id: folded.at_rest_a.get(b.id, 0.0) + sum(sign * current_a[k] for k, sign in folded.by_ampere.get(b.id, ()))
        for b in network.branches
    }
    return Solution(volts, dict(zip(names, current_a, strict=True)), branch_a, collapsed)


def node_voltages_v(
    network: PowerNetwork, folded: Ports, solution: Solution, emf_v: Mapping[str, float], inner_ohm: Mapping[str, float]
) -> dict[str, float]:
    """The voltage of every node, counted from the first battery's negative post.

    Parameters:
        network: the network.
        folded: its ports in the solved state.
        solution: its solution.
        emf_v: by battery, as in `ports` [v].
        inner_ohm: by battery, as in `ports` [ohm].

    Returns:
        by node [v]; found from branch to branch, from post to post of a battery.
    """
    steps: dict[str, list[tuple[str, float]]] = {}
    given_a = {cell.plus: 0.0 for cell in network.cells}
    for b in network.branches:
        given_a[b.start] = given_a.get(b.start, 0.0) + solution.branch_a[b.id]
        given_a[b.end] = given_a.get(b.end, 0.0) - solution.branch_a[b.id]
    drops = [(b.start, b.end, folded.ohm[b.id] * solution.branch_a[b.id]) for b in network.branches]
    drops += [(c.plus, c.minus, emf_v[c.id] - given_a[c.plus] * inner_ohm.get(c.id, 0.0)) for c in network.cells]
    for start, end, drop_v in drops:
        steps.setdefault(start, []).append((end, -drop_v))
        steps.setdefault(end, []).append((start, drop_v))
    found = {network.cells[0].minus: 0.0}
    todo = list(found)
    while todo:
        here = todo.pop()
        for node, rise_v in steps.get(here, ()):
            if node not in found:
                found[node] = found[here] + rise_v
                todo.append(node)
    return found


def _voltages(folded: Ports, who: Sequence[int], loads: Sequence[Load]) -> list[float]:
    if not who:
        return []
    matrix = np.array([[folded.resistance_ohm[j][k] for k in who] for j in who])
    return network_voltages_v([folded.open_v[k] for k in who], matrix, loads)


def _groups(resistance_ohm: Sequence[Sequence[float]]) -> list[list[int]]:
    """Consumers that share resistance, group by group."""
    left = set(range(len(resistance_ohm)))
    if left and all(abs(ohm) > APART_OHM for ohm in resistance_ohm[0]):
        return [sorted(left)]  # the usual car: all share a strap with the first
    groups = []
    while left:
        todo, group = [min(left)], []
        while todo:
            k = todo.pop()
            if k in left:
                left.discard(k)
                group.append(k)
                todo += [j for j in left if abs(resistance_ohm[k][j]) > APART_OHM]
        groups.append(sorted(group))
    return groups
