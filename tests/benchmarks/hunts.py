"""Wire hunts over seeded truths: the finder against a technician's procedure, by the same minutes, beside what
information allows.
"""

from __future__ import annotations

from math import factorial, log2
from random import Random
from statistics import mean

from ohmack.core.document import Fact
from ohmack.core.document.facts import Position
from ohmack.core.document.harness import OPEN_OHM, Heard, Hunt, HuntReading, HuntWire, TestKind
from ohmack.core.document.vehicle import Speaker, Vehicle
from ohmack.core.harness.next_tests import NextTest
from ohmack.core.harness.wire_finder import find
from ohmack.core.reference import table
from ohmack.demo.jobs import demo_design

Truth = dict[str, tuple[str, bool]]  # wire -> (speaker, whether it is the plus)


def car(pairs: int) -> Vehicle:
    """A car with so many 4 ohm speakers an ohmmeter cannot tell apart."""
    speakers = tuple(
        Speaker(id=f"s{n}", name=f"Speaker {n}", position=Position(x_m=1, y_m=0), impedance_ohm=Fact[float](value=4.0))
        for n in range(pairs)
    )
    return demo_design(0).vehicle.model_copy(update={"speakers": speakers})


def truths(pairs: int, many: int) -> list[Truth]:
    """Ways the wires may be laid, the same in every run."""
    random, wires = Random(17), [f"w{n}" for n in range(2 * pairs)]
    return [
        {w: (f"s{n // 2}", n % 2 == 0) for n, w in enumerate(random.sample(wires, len(wires)))} for _ in range(many)
    ]


def shown(truth: Truth, test: NextTest, number: int) -> HuntReading:
    """What a test shows in a car wired so."""
    a, *clip = test.wires
    held = next((truth[b][0] for b in clip if truth[b][0] == truth[a][0]), None)
    heard, speaker, ohm = None, None, None
    if test.kind is TestKind.RESISTANCE:
        ohm = 3.5 if held else OPEN_OHM
    elif test.kind is TestKind.POP:
        heard, speaker = (Heard.OUT if truth[a][1] else Heard.IN) if held else Heard.NOTHING, held
    else:
        heard, speaker = None if held else Heard.NOTHING, held
    return HuntReading(
        id=f"r{number}", kind=test.kind, wire_a_id=a, wire_b_id=clip[0], bundled_ids=tuple(clip[1:]), value_ohm=ohm,
        heard=heard, speaker_id=speaker,
    )  # fmt: skip


def by_the_finder(pairs: int, truth: Truth, bundles: bool) -> tuple[int, float]:
    """(tests, minutes) of a hunt that follows what is proposed, to the last proof."""
    vehicle, minutes = car(pairs), 0.0
    hunt = Hunt(
        wires=tuple(HuntWire(id=f"w{n}", name=f"wire {n}") for n in range(2 * pairs)),
        speaker_ids=tuple(s.id for s in vehicle.speakers),
        bundles=bundles,
    )
    while (found := find(vehicle, hunt)).next_tests:
        test = found.next_tests[0]
        minutes += test.minutes
        hunt = hunt.model_copy(update={"readings": (*hunt.readings, shown(truth, test, len(hunt.readings)))})
    assert all(truth[g.plus] == (g.speaker_id, True) for g in found.certain)
    assert len(found.certain) == pairs
    return len(hunt.readings), minutes


def by_a_technician(pairs: int, truth: Truth) -> tuple[int, float]:
    """(tests, minutes) of ohms from each wire to the next until one answers, the last pair without, then a cell on
    each pair: which speaker, which way.
    """
    limits = table("harness", "hunt")
    left, ohms = sorted(truth), 0
    while len(left) > 2:
        one = left.pop(0)
        other = next(w for w in left if truth[w][0] == truth[one][0])
        ohms += min(left.index(other) + 1, len(left) - 1)
        left.remove(other)
    return ohms + pairs, ohms * float(limits["minutes_resistance"]) + pairs * float(limits["minutes_pop"])


def figures(pairs: int, many: int) -> list[tuple[str, float, float]]:
    """(name, mean tests, mean minutes) of every procedure, and the least number of tests information allows."""
    laid = truths(pairs, many)
    rows = []
    for name, runs in (
        ("a technician, computed", [by_a_technician(pairs, t) for t in laid]),
        ("one wire at a time", [by_the_finder(pairs, t, False) for t in laid]),
        ("several in one clip", [by_the_finder(pairs, t, True) for t in laid]),
    ):
        rows.append((f"hunt of {pairs} pairs, {name}", mean(r[0] for r in runs), mean(r[1] for r in runs)))
    bound = log2(factorial(2 * pairs)) / log2(2 * pairs + 1)
    return [*rows, (f"hunt of {pairs} pairs, bound of {log2(factorial(2 * pairs)):.1f} bits", bound, 0.0)]
