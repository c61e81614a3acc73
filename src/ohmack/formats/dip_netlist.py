"""The dip of a car as a SPICE netlist, for those who want to see it solved by another program."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ohmack.core.physics.dip import RATE_HZ, Circuit

Floats = NDArray[np.float64]
EDGE_S = 1e-5  # in which a step of a load happens


def dip_netlist(
    circuit: Circuit, power_w: Floats, beside_a: Floats, beside_v: Floats, title: str, ask_s: Sequence[float] = ()
) -> str:
    """The circuit of a dip with its load as it comes and goes.

    Parameters:
        circuit: what feeds the load.
        power_w: what it draws besides its idle current, a value a millisecond [w].
        beside_a: what others draw at the post, as long [a].
        beside_v: what they lose in pieces they share with it, as long [v].
        title: first line; line breaks become spaces.
        ask_s: moments whose volts are printed: at the amplifier, then at the post [s].

    Returns:
        the netlist: a battery that gives through one resistance and takes through another, an alternator that
        follows with one lag up to its limit, the car, what others draw, the loop, a capacitor, the load.
    """
    c = circuit
    seconds = len(power_w) / RATE_HZ
    apart = f"({c.rest_v!r} - V(post))"
    battery = f"V(post) < {c.rest_v!r} ? {apart}/{c.inner_ohm!r} : {apart}/{c.taking_ohm!r}"
    charge_a = (c.regulated_v - c.rest_v) / (c.taking_ohm if c.regulated_v > c.rest_v else c.inner_ohm)
    through = f"V(post,shared)/{c.loop_ohm!r}"
    wanted = f"min(max({c.car_a!r} + V(others) + {through} + {charge_a!r}, 0), {c.alternator_a!r})"
    lines = [
        f"* {' '.join(title.split())}",
        f"Bbattery 0 post I = {battery}",
        f"Icar post 0 {c.car_a!r}",
        f"Vothers others 0 {_steps(beside_a)}",
        "Bothers post 0 I = V(others)",
        f"Vlost lost 0 {_steps(beside_v)}",
        "Bshared shared amp V = V(lost)",
        f"Rloop post shared {c.loop_ohm!r}",
        f"Iidle amp 0 {c.idle_a!r}",
        f"Vmusic music 0 {_steps(power_w)}",
        "Bload amp 0 I = V(music)/V(amp)",
    ]
    if c.regulated_v > 0:
        # the lag is a farad behind a resistance of as many ohm as it has seconds
        lines += [f"Bwanted wanted 0 V = {wanted}", f"Rlag wanted given {max(c.lag_s, 1e-6)!r}", "Clag given 0 1",
                  "Balternator 0 post I = V(given)"]  # fmt: skip
    if c.capacitor is not None:
        lines += [f"Rown amp c {c.capacitor.series_ohm!r}", f"Ccap c 0 {c.capacitor.capacitance_f!r}"]
    start_v = c.regulated_v or c.rest_v
    lines.append(f".nodeset v(post)={start_v!r} v(amp)={start_v!r} v(shared)={start_v!r}")
    lines += [".options reltol=1e-6", ".control", "set numdgt=10", f"tran 0.0005 {seconds - 1e-4!r} 0 0.0005"]
    for n, moment in enumerate(ask_s):
        lines += [f"meas tran a{n} find v(amp) at={moment!r}", f"meas tran p{n} find v(post) at={moment!r}"]
        lines += [f"print a{n}", f"print p{n}"]
    return "\n".join([*lines, ".endc", ".end", ""])


def _steps(values: Floats) -> str:
    """A source that steps from value to value; what stays is said once."""
    changes = np.flatnonzero(np.diff(values)) + 1
    words = [f"0 {float(values[0])!r}"]
    for n in changes:
        at_s = n / RATE_HZ
        words += [f"{at_s - EDGE_S:.6f} {float(values[n - 1])!r}", f"{at_s:.6f} {float(values[n])!r}"]
    lines, row = [], "PWL("
    for word in words:
        if len(row) + len(word) > 110:
            lines.append(row)
            row = "+ "
        row += f"{word} "
    return "\n".join([*lines, f"{row.rstrip()})"])
