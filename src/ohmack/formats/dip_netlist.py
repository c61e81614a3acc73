"""The dip of a car as a SPICE netlist, for those who want to see it solved by another program."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ohmack.core.physics.dip import RATE_HZ, Circuit, SecondBattery

Floats = NDArray[np.float64]
EDGE_S = 1e-5  # in which a step of a load happens


def dip_netlist(
    circuit: Circuit, power_w: Floats, beside_a: Floats, beside_v: Floats, far_a: Floats, title: str,
    ask_s: Sequence[float] = (),
) -> str:  # fmt: skip
    """The circuit of a dip with its load as it comes and goes.

    Parameters:
        circuit: what feeds the load.
        power_w: what it draws besides its idle current, a value a millisecond [w].
        beside_a: what others draw at the post of its battery, as long [a].
        beside_v: what they lose in pieces they share with it, as long [v].
        far_a: what others draw at the post of the other battery, where there is one [a].
        title: first line; line breaks become spaces.
        ask_s: moments whose volts are printed: at the amplifier, then at the post [s].

    Returns:
        the netlist: batteries that give through one resistance and take through another, an alternator that
        follows with one lag up to its limit, the car, what others draw, the loop, a capacitor, the load.
    """
    c, second = circuit, circuit.second
    near, far = ("second", "post") if second is not None and second.feeds else ("post", "second")
    seconds = len(power_w) / RATE_HZ
    charge_a = (c.regulated_v - c.rest_v) / (c.taking_ohm if c.regulated_v > c.rest_v else c.inner_ohm)
    hangs_on = {near: f"V(others) + V({near},shared)/{c.loop_ohm!r}", far: "V(far)"}
    over = f" + V(post,second)/{second.join_ohm!r}" if second is not None else ""
    wanted = f"min(max({c.car_a!r} + {hangs_on['post']}{over} + {charge_a!r}, 0), {c.alternator_a!r})"
    lines = [
        f"* {' '.join(title.split())}",
        f"Bbattery 0 post I = {_battery('post', c)}",
        f"Icar post 0 {c.car_a!r}",
        f"Vothers others 0 {_steps(beside_a)}",
        f"Bothers {near} 0 I = V(others)",
        f"Vlost lost 0 {_steps(beside_v)}",
        "Bshared shared amp V = V(lost)",
        f"Rloop {near} shared {c.loop_ohm!r}",
        f"Iidle amp 0 {c.idle_a!r}",
        f"Vmusic music 0 {_steps(power_w)}",
        "Bload amp 0 I = V(music)/V(amp)",
    ]
    if second is not None:
        lines += [f"Bsecond 0 second I = {_battery('second', second)}", f"Rjoin post second {second.join_ohm!r}",
                  f"Vfar far 0 {_steps(far_a)}", f"Bfar {far} 0 I = V(far)"]  # fmt: skip
    if c.regulated_v > 0:
        # the lag is a farad behind a resistance of as many ohm as it has seconds
        lines += [f"Bwanted wanted 0 V = {wanted}", f"Rlag wanted given {max(c.lag_s, 1e-6)!r}", "Clag given 0 1",
                  "Balternator 0 post I = V(given)"]  # fmt: skip
    if c.capacitor is not None:
        lines += [f"Rown amp c {c.capacitor.series_ohm!r}", f"Ccap c 0 {c.capacitor.capacitance_f!r}"]
    start_v = c.regulated_v or c.rest_v
    nodes = ("post", "amp", "shared", *(("second",) if second is not None else ()))
    lines.append(f".nodeset {' '.join(f'v({node})={start_v!r}' for node in nodes)}")
    lines += [".options reltol=1e-6", ".control", "set numdgt=10", f"tran 0.0005 {seconds - 1e-4!r} 0 0.0005"]
    for n, moment in enumerate(ask_s):
        lines += [f"meas tran a{n} find v(amp) at={moment!r}", f"meas tran p{n} find v(post) at={moment!r}"]
        lines += [f"print a{n}", f"print p{n}"]
    return "\n".join([*lines, ".endc", ".end", ""])


def _battery(post: str, its: Circuit | SecondBattery) -> str:
    """The current a battery gives, by the volts of its post."""
    apart = f"({its.rest_v!r} - V({post}))"
    return f"V({post}) < {its.rest_v!r} ? {apart}/{its.inner_ohm!r} : {apart}/{its.taking_ohm!r}"


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
