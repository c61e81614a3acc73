"""Which test of a wire hunt comes next: what each outcome is worth, alone and with several wires in one clip."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ohmack.core.document.harness import Heard, Hunt, HuntReading, TestKind
from ohmack.core.harness.hunt_targets import Target
from ohmack.core.physics.labelled_matching import Floats, pairs_of
from ohmack.core.record import record
from ohmack.core.reference import table

LEAST_BITS = 1e-6
UNLIKELY = 0.3  # wires that are rather no pair: a cell or a source on them is mostly a walk for nothing,
UNLIKELY_WORTH = 0.5  # and an ohm reading first leaves more for the walk to show
MOST_PROPOSED = 5
MOST_QUEUED = 8  # tests kept ready for a phone without a connection


@record
class NextTest:
    """A test worth doing: what it decides in bits, the minutes it takes. For a pop test the plus is on the first wire;
    from the second on they sit in one clip.
    """

    kind: TestKind
    wires: tuple[str, ...]
    bits: float
    minutes: float
    unlikely: bool = False  # most likely nothing sounds or moves

    @property
    def worth(self) -> float:
        """Bits a minute, less where it is mostly a walk for nothing."""
        return self.bits / self.minutes * (UNLIKELY_WORTH if self.unlikely else 1.0)


@record
class Way:
    """One way the speakers may be, with the share and the odds of every pair under it."""

    targets: tuple[Target, ...]
    odds: Floats  # [speaker, pair, orientation], adding up to what this way is worth of the whole


def minutes_of(kind: TestKind, wires: int) -> float:
    """How long a test takes.

    Parameters:
        kind: the test.
        wires: how many wires it is on; with more than two some sit in one clip.

    Returns:
        minutes. Source: common practice.
    """
    limits = table("harness", "hunt")
    clip = float(limits["minutes_bundle"]) if wires > 2 else 0.0
    return float(limits[f"minutes_{kind.name.lower()}"]) + clip


def tests_worth_doing(
    hunt: Hunt, ways: Sequence[Way], grounds: Floats, others: Floats, grounds_known: bool
) -> tuple[NextTest, ...]:
    """Every kind of test on every wire that still decides something, the one that decides most a minute first.

    Parameters:
        hunt: the hunt.
        ways: every way the speakers may be, with the odds.
        grounds: [wire] odds that it is a ground.
        others: [wire] odds that it leads elsewhere.
        grounds_known: whether every ground is known; two of them read as one wire, so they are looked for first.

    Returns:
        the tests. An outcome follows from the assignment, so a test's bits are the entropy of its outcome. Source:
        Shannon; the minutes are common practice.
    """
    found = []
    if hunt.grounds:
        for wire, share in zip(hunt.wires, grounds, strict=True):
            bits = _entropy(np.array([[share], [1 - share]]))[0]
            if bits > LEAST_BITS:
                found.append(NextTest(TestKind.BODY, (wire.id,), float(bits), minutes_of(TestKind.BODY, 1)))
    if hunt.grounds <= 1 or grounds_known:
        found += _on_pairs(hunt, ways, others)
    return tuple(sorted(found, key=lambda t: (-t.worth, len(t.wires), t.kind, t.wires)))


def proofs(
    hunt: Hunt, readings: Sequence[HuntReading], pairs: Sequence[tuple[Target, tuple[str, str]]]
) -> tuple[NextTest, ...]:
    """Tests that prove pairs nothing was read on: found by elimination alone, one false reading may have made them.

    Parameters:
        hunt: the hunt.
        readings: those that count.
        pairs: the speakers whose pairs are certain, with their wires.

    Returns:
        an ohm reading across each such pair, a trial where a capacitor blocks it; none for what is silent. Source:
        common practice.
    """
    limits = table("harness", "hunt")
    shown = {(r.wire_a_id, r.speaker_id) for r in readings if r.speaker_id is not None}
    across = {
        frozenset((r.wire_a_id, *r.clip))
        for r in readings
        if len(r.clip) == 1 and r.heard is not Heard.NOTHING and not (r.value_ohm or 0.0) >= limits["open_ohm"]
    }
    found = []
    for target, (one, other) in pairs:
        named = (one, target.id) in shown and (other, target.id) in shown
        if target.silent or named or frozenset((one, other)) in across:
            continue
        kind = TestKind.TRIAL if target.reads_open else TestKind.RESISTANCE
        found.append(NextTest(kind, (one, other), 0.0, minutes_of(kind, 2)))
    return tuple(found)


def queue_of(tests: Sequence[NextTest]) -> tuple[NextTest, ...]:
    """The best test of each further wire, to go on with before the answer to the first is known.

    Parameters:
        tests: the tests, the best first.

    Returns:
        at most MOST_QUEUED tests, each on another first wire, none on the very wires of one before.
    """
    queue: list[NextTest] = []
    for test in tests:
        taken = {t.wires[0] for t in queue} | {t.wires[1] for t in queue if len(t.wires) == 2}
        if test.wires[0] not in taken and not (len(test.wires) == 2 and test.wires[1] in taken):
            queue.append(test)
    return tuple(queue[:MOST_QUEUED])


def _entropy(shares: Floats) -> Floats:
    """[case] bits of the outcomes of each case; shares is [outcome, case] and adds up to one down each column."""
    safe = np.where(shares > 1e-12, shares, 1.0)
    return np.asarray(-(shares * np.log2(safe)).sum(axis=0))


def _by_partner(hunt: Hunt, ways: Sequence[Way]) -> Iterator[tuple[int, list[int], Floats, Floats, Floats, Floats]]:
    """(wire, its partners, ohms, sounds, moves, harm): the shares of what each partner would show with this wire.

    ohms is [class of speakers an ohmmeter cannot tell apart, partner], sounds [speaker, partner], moves [speaker by
    direction, partner], harm [partner] that of a cell on a tweeter.
    """
    pairs = pairs_of(len(hunt.wires))
    number = {pair: n for n, pair in enumerate(pairs)}
    spans = sorted({(t.low_ohm, t.high_ohm) for way in ways for t in way.targets if not t.reads_open})
    of_span = dict(zip(spans, _classes(spans), strict=True))
    speakers, classes = len(ways[0].targets), 1 + max(of_span.values(), default=0)
    ohms, sounds = np.zeros((classes, len(pairs))), np.zeros((speakers, len(pairs)))
    moves, harm = np.zeros((2, speakers, len(pairs))), np.zeros(len(pairs))
    for way in ways:
        for s, target in enumerate(way.targets):
            plain = way.odds[s].sum(axis=1)
            if not target.reads_open:
                ohms[of_span[target.low_ohm, target.high_ohm]] += plain
            if not target.silent:
                sounds[s] += plain
            if target.may_pop:
                moves[:, s] += way.odds[s].T
            elif target.fragile and not target.silent:
                harm += plain
    for a in range(len(hunt.wires)):
        partners = [b for b in range(len(hunt.wires)) if b != a]
        at = [number[min(a, b), max(a, b)] for b in partners]
        turned = np.array([a > b for b in partners])
        ahead, back = moves[0][:, at], moves[1][:, at]
        directed = np.concatenate([np.where(turned, back, ahead), np.where(turned, ahead, back)])
        yield a, partners, ohms[:, at], sounds[:, at], directed, harm[at]


def _classes(spans: Sequence[tuple[float, float]]) -> list[int]:
    """Ranges an ohmmeter cannot tell apart share a class."""
    found, number, reach = [], -1, -1.0
    for low, high in spans:
        if low > reach:
            number += 1
        reach = max(reach, high)
        found.append(number)
    return found


def _on_pairs(hunt: Hunt, ways: Sequence[Way], others: Floats) -> Iterator[NextTest]:
    loose = {*hunt.touching_ids, *hunt.to_body_ids}
    for a, partners, ohms, sounds, moves, harm in _by_partner(hunt, ways):
        order = np.argsort(-ohms.sum(axis=0) - sounds.sum(axis=0), kind="stable")
        # what may lead elsewhere may be live: it never goes into a clip; what touches tells nothing in one
        fit = [k for k in order if others[partners[k]] < LEAST_BITS and hunt.wires[partners[k]].id not in loose]
        may_bundle = hunt.bundles and others[a] < LEAST_BITS and hunt.wires[a].id not in loose
        for kind, shares in ((TestKind.RESISTANCE, ohms), (TestKind.TRIAL, sounds), (TestKind.POP, moves)):
            for k, bits in enumerate(_entropy(_with_rest(shares))):
                if bits > LEAST_BITS and partners[k] > a and not (kind is TestKind.POP and harm[k] > 0):
                    walk = kind is not TestKind.RESISTANCE and shares[:, k].sum() < UNLIKELY
                    yield NextTest(
                        kind, (hunt.wires[a].id, hunt.wires[partners[k]].id), float(bits), minutes_of(kind, 2), walk
                    )
            if not may_bundle or len(fit) < 2 or (kind is TestKind.POP and harm[fit].sum() > 0):
                continue
            bits_of = _entropy(_with_rest(np.cumsum(shares[:, fit], axis=1)))
            # all in the clip for what is heard or seen, so that something is; a part of them for the ohmmeter
            whole = kind is not TestKind.RESISTANCE
            best = len(fit) - 1 if whole else int(np.argmax(bits_of[1:] + 1e-9 * np.arange(len(fit) - 1))) + 1
            if bits_of[best] > LEAST_BITS:
                clip = sorted(partners[k] for k in fit[: best + 1])
                bundle = tuple(hunt.wires[w].id for w in (a, *clip))
                yield NextTest(kind, bundle, float(bits_of[best]), minutes_of(kind, len(bundle)))


def _with_rest(shares: Floats) -> Floats:
    """The outcomes with the one that nothing shows."""
    rest = np.clip(1 - shares.sum(axis=0, keepdims=True), 0, None)
    return np.concatenate([shares, rest])
