"""The power network of a design as a SPICE netlist, for those who want to see it solved by another program."""

from __future__ import annotations

from ohmack.core.network.states import State
from ohmack.core.supply.study import Study


def netlist(study: Study, state: State, title: str = "Power network") -> str:
    """One solved state as a netlist that prints the voltage at every consumer, in the order of the network's consumers.

    Parameters:
        study: the study whose network is written.
        state: one of the states it has solved.
        title: first line; line breaks become spaces.

    Returns:
        the netlist; empty where nothing is solved. Started at the unloaded voltages, so that the high solution is
        found.
    """
    network, condition = study.network, study.conditions.get(state)
    if network is None or condition is None:
        return ""
    numbers = {network.cells[0].minus: "0"}
    for name in [n for c in network.cells for n in (c.minus, c.plus)] + [
        n for b in network.branches for n in (b.start, b.end)
    ]:
        numbers.setdefault(name, str(len(numbers)))
    lines = [f"* {' '.join(title.split())}: {state.value}"]
    start: list[str] = []
    for i, cell in enumerate(network.cells):
        inner_ohm = condition.inner_ohm.get(cell.id, 0.0)
        top = f"e{i}" if inner_ohm else numbers[cell.plus]
        lines.append(f"* {cell.id}")
        lines.append(f"Vcell{i} {top} {numbers[cell.minus]} {condition.emf_v[cell.id]!r}")
        if inner_ohm:
            lines.append(f"Rcell{i} {top} {numbers[cell.plus]} {inner_ohm!r}")
    for i, branch in enumerate(network.branches):
        ohm = branch.resistance_ohm * (condition.warm if branch.warms else 1.0)
        ends = f"{numbers[branch.start]} {numbers[branch.end]}"
        lines.append(f"* {branch.term.name}")
        lines.append(f"Rbranch{i} {ends} {ohm!r}" if ohm else f"Vbranch{i} {ends} 0")
    highest_v = max(condition.emf_v.values())
    for k, consumer in enumerate(network.consumers):
        load, (a, b) = condition.loads[consumer.id], (numbers[consumer.plus], numbers[consumer.minus])
        natural = f"{load.power_w!r}/V({a},{b})+{load.conductance_s!r}*V({a},{b})+{load.current_a!r}"
        drawn = f"max({natural},{load.at_least_a!r})" if load.at_least_a else natural
        lines.append(f"* {consumer.id}")
        lines.append(f"Bload{k} {a} {b} I={drawn}")
        start.append(f"v({a})={highest_v!r}")
    lines.append(f".nodeset {' '.join(start)}")
    lines += [".options reltol=1e-9 abstol=1e-12 vntol=1e-12", ".control", "set numdgt=12", "op"]
    lines += [f"print v({numbers[c.plus]},{numbers[c.minus]})" for c in network.consumers]
    return "\n".join([*lines, ".endc", ".end", ""])
