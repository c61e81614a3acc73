"""What each pair reaches: which speakers, in parallel or series, agree with what the ohmmeter read at the plug."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Band, Mix, RadioChannel
from ohmack.core.document.handles import at_id
from ohmack.core.document.vehicle import Speaker, SpeakerPlace
from ohmack.core.errors import UnknownName
from ohmack.core.loads.driven import DC_HIGH, DC_LOW
from ohmack.core.loads.nominals import nominal_by_pair
from ohmack.core.physics.baseline import joined_ohm
from ohmack.core.record import record
from ohmack.core.reference import table

MOST_TOGETHER = 3  # speakers on one pair


@record
class Reach:
    """One thing a pair may lead to: speakers joined some way, what it would read, and whether the survey says so
    already.
    """

    speaker_ids: tuple[str, ...]
    words: str
    low_ohm: float
    high_ohm: float
    in_series: bool
    on_file: bool


@record
class Circuit:
    """One pair: what was read, what it may reach, and the verdict in a line."""

    channel: RadioChannel
    source_id: str
    read_ohm: float | None
    reaches: tuple[Reach, ...]
    verdict: str
    dead_end: bool

    @property
    def on_file(self) -> Reach | None:
        """What the survey says it reaches, where the reading agrees."""
        return next((r for r in self.reaches if r.on_file), None)


def _near(channel: RadioChannel, speakers: Sequence[Speaker]) -> list[Speaker]:
    """Speakers a pair may lead to: those on its side and its axle; a summed pair or the middle may lead to both
    sides.
    """
    side = channel.place.side if channel.place is not None and channel.mix is not Mix.SUMMED else ""
    return [s for s in speakers if not side or s.side in ("", side)]


def _carries(channel: RadioChannel, speaker: Speaker) -> bool:
    """Whether a pair of this band would be laid to such a place: high ranges up front and high, low ones not into a
    pillar.
    """
    band = channel.band.value
    if band in (Band.HIGH, Band.MID_HIGH):
        return speaker.place in (SpeakerPlace.PILLAR, SpeakerPlace.DASH)
    if band in (Band.LOW, Band.LOW_MID):
        return speaker.place not in (SpeakerPlace.PILLAR, SpeakerPlace.DASH)
    return True


OPEN = (0.0, 0.0)  # what stands for a speaker behind its capacitor: it reads open
Span = tuple[float, float]


def _span_ohm(speaker: Speaker) -> Span | None:
    """(lowest, highest) a speaker alone may read; OPEN behind its capacitor, None where it is not known."""
    if speaker.own_capacitor.value is True:
        return OPEN
    if read := speaker.dc_resistance_ohm.value:
        return 0.93 * read, 1.07 * read
    nominal = speaker.impedance_ohm.value
    return (DC_LOW * nominal, DC_HIGH * nominal) if nominal else None


def _range_ohm(spans: Sequence[Span | None], in_series: bool) -> Span | None:
    """(lowest, highest) a pair with these speakers may read; None where one is not known or a capacitor blocks it."""
    live = [span for span in spans if span is not OPEN]
    if not live or None in live or (in_series and len(live) < len(spans)):
        return None
    known = [span for span in live if span is not None]
    low = joined_ohm([span[0] for span in known], in_series)
    return low, joined_ohm([span[1] for span in known], in_series) + float(table("harness", "hunt")["lead_ohm"])


def _words(group: Sequence[Speaker], in_series: bool) -> str:
    names = " and ".join(s.name for s in group)
    return names if len(group) == 1 else f"{names}, in {'series' if in_series else 'parallel'}"


def _settled(design: Design) -> dict[str, str]:
    """Speakers whose own pair reads as it should, with that pair: no other pair is thought to lead to them."""
    found: dict[str, str] = {}
    for channel in design.vehicle.channels:
        own = [s for s in design.vehicle.speakers if s.channel_id == channel.id]
        read_ohm = channel.pair_resistance_ohm.value
        in_series = any(s.pairing == "series" and s.paired_with_id for s in own)
        span = _range_ohm([_span_ohm(s) for s in own], in_series) if own else None
        if read_ohm is not None and span is not None and span[0] <= read_ohm <= span[1]:
            found |= {s.id: channel.id for s in own}
    return found


def _reaches(design: Design, channel: RadioChannel, read_ohm: float, settled: dict[str, str]) -> tuple[Reach, ...]:
    near = [s for s in _near(channel, design.vehicle.speakers) if settled.get(s.id, channel.id) == channel.id]
    now = {s.id for s in design.vehicle.speakers if s.channel_id == channel.id}
    series_now = any(s.pairing == "series" and s.paired_with_id for s in design.vehicle.speakers if s.id in now)
    found = []
    spans = {s.id: _span_ohm(s) for s in near}
    for speaker in near:
        nominal = nominal_by_pair(design.vehicle, speaker) if speaker.channel_id == channel.id else None
        if nominal is not None:
            spans[speaker.id] = DC_LOW * nominal, DC_HIGH * nominal
    for size in range(1, MOST_TOGETHER + 1):
        for group in combinations(near, size):
            for in_series in (False, True) if size > 1 else (False,):
                span = _range_ohm([spans[s.id] for s in group], in_series)
                if span is None or not span[0] <= read_ohm <= span[1]:
                    continue
                ids = {s.id for s in group}
                same = ids == now and (size == 1 or in_series == series_now)
                found.append(
                    Reach(tuple(s.id for s in group), _words(group, in_series), span[0], span[1], in_series, same)
                )

    unlikely = {s.id for s in near if not _carries(channel, s)}
    elsewhere = {s.id for s in near if s.channel_id not in (None, channel.id)}

    def apart(reach: Reach) -> tuple[bool, int, int, int, int, float]:
        """On file first, then those the band suits, that no other pair claims, that change least, the fewest, the
        nearest.
        """
        ids = set(reach.speaker_ids)
        return (
            not reach.on_file,
            len(ids & unlikely),
            len(ids & elsewhere),
            len(now ^ ids),
            len(ids),
            abs(read_ohm - (reach.low_ohm + reach.high_ohm) / 2),
        )

    return tuple(sorted(found, key=apart))


def _verdict(
    channel: RadioChannel, read_ohm: float | None, reaches: tuple[Reach, ...], capacitor: bool
) -> tuple[str, bool]:
    if channel.reaches.value is False:
        return "the plug leads nowhere", True
    if read_ohm is None:
        return "not read yet", False
    if read_ohm >= float(table("harness", "hunt")["open_ohm"]):
        return (
            ("open: a tweeter behind its capacitor reads so", False)
            if capacitor
            else ("open: nothing is at the other end", True)
        )
    if not reaches:
        return "no speaker of the survey, alone or joined, reads that", False
    if reaches[0].on_file:
        others = len(reaches) - 1
        return ("as the survey says" if not others else "as the survey says; other ways would read so too"), False
    return f"more likely {reaches[0].words}", False


def speaker_circuits(design: Design) -> tuple[Circuit, ...]:
    """Every pair of the car with what it may reach.

    Parameters:
        design: the design.

    Returns:
        one circuit a channel, in the order of the sources.

    Source: 75 to 105 % of nominal, common practice; parallel and series by circuit theory.
    """
    circuits, settled = [], _settled(design)
    for source in design.vehicle.sources:
        for channel in source.channels:
            read_ohm = channel.pair_resistance_ohm.value
            capacitor = any(
                s.own_capacitor.value is True for s in design.vehicle.speakers if s.channel_id == channel.id
            )
            known = read_ohm is not None and channel.reaches.value is not False
            reaches = _reaches(design, channel, read_ohm, settled) if known and read_ohm is not None else ()
            verdict, dead = _verdict(channel, read_ohm, reaches, capacitor)
            circuits.append(Circuit(channel, source.id, read_ohm, reaches, verdict, dead))
    return tuple(circuits)


def take_reach(design: Design, channel_id: str, speaker_ids: Sequence[str]) -> tuple[Edit, ...]:
    """Edits that put into the survey what a pair reaches, so that its load follows.

    Parameters:
        design: the design.
        channel_id: the pair.
        speaker_ids: the speakers it reaches; one of the circuit's reaches.

    Returns:
        the edits; speakers that hung on the pair before and are not among them hang on nothing.

    Raises:
        UnknownName: no such pair, or it cannot reach those.
    """
    circuit = next((c for c in speaker_circuits(design) if c.channel.id == channel_id), None)
    if circuit is None:
        raise UnknownName("channel", channel_id)
    wanted = tuple(speaker_ids)
    reach = next((r for r in circuit.reaches if r.speaker_ids == wanted), None)
    if reach is None:
        raise UnknownName("reach of this pair", ", ".join(wanted), "; ".join(r.words for r in circuit.reaches))
    edits: list[Edit] = []

    def put(speaker_id: str, **values: Any) -> None:
        path = at_id(Speaker, speaker_id)
        edits.extend(Edit(path=f"{path}/{name}", value=value) for name, value in values.items())

    for speaker in design.vehicle.speakers:
        if speaker.channel_id == channel_id and speaker.id not in wanted:
            put(speaker.id, channel_id=None, paired_with_id=None)
    for number, speaker_id in enumerate(wanted):
        partner = wanted[number - 1] if number else (wanted[1] if len(wanted) > 1 else None)
        put(
            speaker_id,
            channel_id=channel_id,
            paired_with_id=partner,
            pairing="series" if reach.in_series else "parallel",
        )
    return tuple(edits)
