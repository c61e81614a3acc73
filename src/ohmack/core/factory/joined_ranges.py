"""Ranges the works kept apart, high and low of one place, that a new radio drives by one output."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ohmack.core.factory.outputs import ChannelLoad
from ohmack.core.loads.drivers import Drive
from ohmack.core.record import record
from ohmack.core.wording import amount, listed


@record
class JoinedRanges:
    """Pairs that end on one output: their names, what that makes in words, whether it will not do."""

    name: str
    words: str
    wrong: bool


def joined_ranges(loads: Sequence[ChannelLoad], drives: Sequence[Drive]) -> Iterator[JoinedRanges]:
    """What becomes of every group of pairs that ends on one output.

    Parameters:
        loads: what each output drives.
        drives: every speaker with what drives it.

    Returns:
        one entry a group: the load against what is permitted, and tweeters that would get the bass. Source: circuit
        theory; common practice for the tweeters.
    """
    bare = {d.speaker.id for d in drives if d.tweeter and d.by_new_radio and not d.high_pass}
    for row in loads:
        if len(row.group) < 2:
            continue
        load_ohm, lowest_ohm = row.load.value, row.lowest.value
        if load_ohm is None or lowest_ohm is None:
            yield JoinedRanges(row.name, "the load is not known: read or enter their ohms.", True)
            continue
        tweeters = [s.name for s in row.speakers if s.id in bare]
        words = f"{amount(load_ohm, 'ohm')} together, {amount(lowest_ohm, 'ohm')} or more is wanted."
        bass = f" {listed(tweeters)} would get the bass: a capacitor in its line first." if tweeters else ""
        yield JoinedRanges(row.name, words + bass, row.overloads or bool(tweeters))
