"""Rules on pads before speakers and on tweeters against their woofers: where they are, what they stand, how loud."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.small_parts import SpeakerPad
from ohmack.core.figures.finding import Draft, Remedy, find_part, rule, stop, watch
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.wording import amount, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

FAR_OHM = 1.25  # a pad made for a load this many times another one takes another level off, common practice
STANDS_OUT_DB = 3.0  # a tweeter this far over or under its woofer is heard at once, common practice


@rule("speaker-pad", "loads", PHYSICS)
def speaker_pad(results: Results) -> Iterator[Draft]:
    """A pad is before nothing, made for another load, or gets more than its resistors take."""
    speakers = {speaker.id: speaker for speaker in results.design.vehicle.speakers}
    for pad in results.design.parts_of(SpeakerPad):
        look = Remedy("Look at the part", path=at(pad))
        if not pad.at_ids:
            yield stop(
                pad.id,
                f"{pad.name} is before no speaker",
                "It goes into the lead of one speaker: say which.",
                Remedy("Say where", path=at(pad)),
            )
        for name in pad.at_ids:
            load, level = (results.book.figures.get(f"{pad.id}/{name}/{what}") for what in ("load_ohm", "level_db"))
            if load is None or level is None or load.value is None:
                continue
            ohm = load.inputs[2].value
            if not 1 / FAR_OHM <= ohm / pad.made_for_ohm <= FAR_OHM:
                yield watch(
                    f"{pad.id}/{name}",
                    f"{pad.name} is made for {trimmed(pad.made_for_ohm)} Ω, {speakers[name].name.lower()} has"
                    f" {trimmed(ohm)} Ω",
                    f"It takes {amount(-level.value, 'db')} off there, not {amount(pad.takes_off_db, 'db')}, and the"
                    f" load becomes {trimmed(round(load.value, 2))} Ω.",
                    look,
                )
        judged = results.book.figures.get(f"{pad.id}/in_line_ohm") is not None  # another may be before the same speaker
        for output in results.loads if judged else ():
            if any(name in {driven.id for driven in output.driven} for name in pad.at_ids) and (
                output.match.value is not None and output.match.value > 100 * results.design.policy.match_high
            ):
                series, across = (
                    results.say(results.book.figures[f"{pad.id}/{name}_ohm"].value, "ohm")
                    for name in ("in_line", "across")
                )
                yield watch(
                    f"{pad.id}/{output.scope}",
                    f"{output.channel_name} gives more than {pad.name} and its speaker take",
                    f"{results.say(output.power.value or 0, 'w')} against"
                    f" {results.say(output.allowed_w or 0, 'w')}. Its resistors ({series} in line, {across} across)"
                    f" take {amount(pad.rated_w, 'w')} each and get hot enough to burn.",
                    look,
                )


@rule("tweeter-level", "loads", PRACTICE)
def tweeter_level(results: Results) -> Iterator[Draft]:
    """A tweeter stands out over its woofer, or is not heard beside it."""
    for entry in results.crossed:
        level_db = entry.level.value if entry.level is not None else None
        if level_db is None or abs(level_db) <= STANDS_OUT_DB:
            continue
        about = f"{entry.net.id}/{entry.tweeter.id}"
        if level_db > 0:
            yield watch(
                about,
                f"{entry.tweeter.name} plays {amount(level_db, 'db')} over {entry.woofer.name.lower()}",
                f"At one voltage, by their makers' sensitivities; the net takes"
                f" {amount(entry.net.tweeter_pad_db, 'db')} off. A pad of {level_db:.0f} dB before the tweeter, or a"
                " higher tap of the net, evens it. Off the axis a tweeter is quieter: listen first.",
                find_part("Find a pad", "speaker pad"),
            )
        else:
            yield watch(
                about,
                f"{entry.tweeter.name} plays {amount(-level_db, 'db')} under {entry.woofer.name.lower()}",
                f"At one voltage, by their makers' sensitivities; the net takes"
                f" {amount(entry.net.tweeter_pad_db, 'db')} off. Take less off, or nothing.",
                Remedy("Look at the part", path=at(entry.pad or entry.net)),
            )
