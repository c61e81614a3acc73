"""Any network of impedances by nodal analysis, at as many frequencies as are asked for: what each part sees."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import OutOfRange, require
from ohmack.core.record import record

Complexes = NDArray[np.complex128]
OPEN_OHM = 1e12  # what an open part is taken as
SHORT_OHM = 1e-9


@record
class Part:
    """One part between two nodes; its impedance is a number or one value a frequency, in ohm."""

    name: str
    a: str
    b: str
    impedance_ohm: complex | Complexes


@record
class Solution:
    """A solved network: volts across and current through each part, at each frequency, and what the source sees."""

    volts: dict[str, Complexes]
    current_a: dict[str, Complexes]
    input_ohm: Complexes

    def power_w(self, name: str) -> NDArray[np.float64]:
        """Real power in a part [w], volts taken as rms."""
        found: NDArray[np.float64] = np.real(self.volts[name] * np.conj(self.current_a[name]))
        return found


def solve(parts: Sequence[Part], plus: str, minus: str, volts: float = 1.0) -> Solution:
    """What a source between two nodes does in a network.

    Parameters:
        parts: impedances between named nodes, each name once.
        plus: node the source's plus is on.
        minus: node its minus is on.
        volts: of the source, rms [v].

    Returns:
        volts, currents and the input impedance, [frequency] each; one value where no impedance has several.

    Raises:
        OutOfRange: no part, both ends of the source on one node, or a node of it on no part.

    Method: nodal admittances, both ends of the source fixed. Source: textbook circuit theory.
    """
    require("parts", len(parts), "parts")
    nodes = sorted({node for part in parts for node in (part.a, part.b)})
    if plus == minus or not {plus, minus} <= set(nodes):
        raise OutOfRange("source", 0, "", "on two nodes of the network")
    rows = np.broadcast_arrays(*(np.atleast_1d(np.asarray(part.impedance_ohm, dtype=complex)) for part in parts))
    size, at = len(rows[0]), {name: n for n, name in enumerate(nodes)}
    admittance = np.zeros((size, len(nodes), len(nodes)), dtype=complex)
    for part, impedance in zip(parts, rows, strict=True):
        a, b = at[part.a], at[part.b]
        if a == b:
            continue
        y = 1 / impedance
        admittance[:, a, a] += y
        admittance[:, b, b] += y
        admittance[:, a, b] -= y
        admittance[:, b, a] -= y
    free = [n for name, n in at.items() if name not in (plus, minus)]
    potential = np.zeros((size, len(nodes)), dtype=complex)
    potential[:, at[plus]] = volts
    if free:
        rest = 1e-15 * np.eye(len(free))  # a node that hangs on nothing stays at rest
        inner = admittance[:, free][:, :, free] + rest
        potential[:, free] = np.linalg.solve(inner, -admittance[:, free, at[plus], None] * volts)[:, :, 0]
    across = {part.name: potential[:, at[part.a]] - potential[:, at[part.b]] for part in parts}
    through = {part.name: across[part.name] / row for part, row in zip(parts, rows, strict=True)}
    drawn = np.einsum("fn,fn->f", admittance[:, at[plus]], potential)
    return Solution(across, through, volts / drawn)


def resistance_ohm(parts: Sequence[Part], a: str, b: str) -> float:
    """What an ohmmeter reads between two nodes of a network.

    Parameters:
        parts: resistances between named nodes.
        a: one probe.
        b: the other.

    Returns:
        resistance [ohm].

    Raises:
        OutOfRange: as for `solve`.

    Source: textbook circuit theory.
    """
    return float(np.real(solve(parts, a, b).input_ohm[0]))
