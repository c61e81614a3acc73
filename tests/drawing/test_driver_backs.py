"""Drivers from behind: every coil's two ends lie on the wires that its wiring says."""

from __future__ import annotations

import re

import pytest

from core.test_spreads import subs_on_four
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.bench_wiring import MINUS, PLUS
from ohmack.core.physics.nodal import Part, resistance_ohm
from ohmack.drawing.driver_backs import SIDE, _nets, bench_wiring, can_be_drawn, draw_backs


@pytest.mark.parametrize(("many", "ohms"), [(1, (4.0, 4.0)), (2, (4.0, 2.0)), (3, (4.0,)), (4, (2.0, 2.0))])
def test_the_wires_drawn_are_the_network_that_was_computed(estate: Design, many: int, ohms: tuple[float, ...]) -> None:
    """Terminal by terminal: what the picture joins has the load the wiring has, every option of it."""
    load = evaluate(subs_on_four(estate, many, *ohms)).results.loads[0]
    centres = [100.0 * (n + 1) for n in range(many)]
    for option in load.options:
        assert can_be_drawn(load, option)
        ends: dict[tuple[float, bool], str] = {}
        for n, net in enumerate(_nets(bench_wiring(option), load.driven, centres, 0.0)):
            name = PLUS if PLUS in net.output else MINUS if MINUS in net.output else str(n)
            ends |= {(t.x, t.plus): name for t in (*net.plus, *net.minus)}
        parts = []
        for driven, centre in zip(load.driven, centres, strict=True):
            for k, coil in enumerate(driven.coils):
                x = centre + (SIDE * (2 * k - 1) if len(driven.coils) > 1 else 0.0)
                parts.append(Part(coil.name, ends[x, True], ends[x, False], coil.impedance_ohm))
        assert resistance_ohm(parts, PLUS, MINUS) == pytest.approx(option.load_ohm)


def test_every_terminal_is_drawn_with_a_wire_on_it(estate: Design) -> None:
    """Tags of both signs a coil, and each at the end of some wire."""
    load = evaluate(subs_on_four(estate, 3, 4.0, 4.0)).results.loads[0]
    for option in load.ranked[:8]:
        drawn = str(draw_backs(load, option))
        tags = re.findall(
            r'<rect x="([\d.]+)" y="([\d.]+)" width="16" height="16" rx="3" class="tag (plus|minus)"', drawn
        )
        assert len(tags) == 12
        wires = " ".join(re.findall(r' d="([^"]+)"', drawn))
        for x, y, _ in tags:
            here_x, here_y = float(x) + 8, float(y) + 8
            touched = re.search(rf"{here_x:.1f} {here_y:.1f}|M{here_x:.1f} [\d.]+V{here_y:.1f}", wires)
            assert touched, (option.words, here_x, here_y)


def test_many_coils_are_left_to_the_circuit(estate: Design) -> None:
    quad = apply_edits(estate, [Edit(path="parts/sub/coils", value=[{"impedance_ohm": 4.0}] * 4)])
    load = evaluate(quad).results.loads[0]
    assert not can_be_drawn(load, load.chosen)
