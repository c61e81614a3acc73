"""Rules on who drives what: speakers a plan leaves silent, new ones nothing drives, tweeters that would get the
bass.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at, within
from ohmack.core.figures.finding import Draft, Remedy, rule, set_to, stop, watch
from ohmack.core.loads.drivers import Drive
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("speaker-silent", "loads", PRACTICE)
def speaker_silent(results: Results) -> Iterator[Draft]:
    """A speaker that played plays no more, or a new one is driven by nothing."""
    silent: dict[str, list[Drive]] = {}
    for drive in results.drives:
        if drive.driven or drive.speaker.left_silent:
            continue
        if drive.source is not None:
            silent.setdefault(drive.source.name, []).append(drive)
        elif drive.driver is not None:
            yield stop(
                drive.driver.id, f"{drive.driver.name} in {drive.speaker.name}: nothing drives it",
                "No pair of the car reaches that place and no channel of an amplifier is wired to it.",
                Remedy("Choose its channel", path=at(drive.speaker)),
            )  # fmt: skip
    for source, drives in silent.items():
        names = listed([d.speaker.name for d in drives])
        yield stop(
            at(drives[0].speaker),
            f"{count(len(drives), 'speaker')} fall silent: {names}" if len(drives) > 1 else f"{names} falls silent",
            f"{source} drove {'them' if len(drives) > 1 else 'it'}; under this plan nothing does. Every pair that"
            " played needs a channel: wire them to the new amplifier, take one with more channels, or leave them"
            " silent on purpose.",
            Remedy(
                "Leave silent on purpose",
                tuple(set_to(at(d.speaker, lambda it: it.left_silent), True) for d in drives),
            ),
        )


@rule("tweeter-unprotected", "loads", PRACTICE)
def tweeter_unprotected(results: Results) -> Iterator[Draft]:
    """A tweeter gets the whole range: the bass in it kills it in a moment."""
    for drive in results.drives:
        yield from _may_be_one(drive)
        if not drive.tweeter or not drive.driven or drive.high_pass:
            continue
        changed = drive.driver is not None or drive.by_amplifier or drive.by_new_radio
        path = at(drive.driver) if drive.driver else at(drive.speaker, lambda it: it.own_capacitor)
        by = "the new amplifier" if drive.by_amplifier else "the new radio" if drive.by_new_radio else "its pair"
        known = (
            "no capacitor of its own"
            if drive.driver is not None or drive.speaker.own_capacitor.value is False
            else "nobody looked whether it has a capacitor"
        )
        draft = stop if changed else watch
        yield draft(
            path,
            f"{drive.speaker.name}: a tweeter without a high-pass",
            f"It gets the full range from {by}, and {known}. A capacitor, a crossover or a processor has to keep the"
            " bass out.",
            Remedy("Look at it", path=path),
        )


def _may_be_one(drive: Drive) -> Iterator[Draft]:
    """A speaker of the car gets another output, and nobody knows which band its old one carried."""
    channel, source = drive.channel, drive.source
    if channel is None or source is None or channel.band.value is not None:
        return
    if drive.driver is not None or drive.high_pass or not (drive.by_amplifier or drive.by_new_radio):
        return
    path = within(at(source, lambda it: it.channels), channel, lambda it: it.band)
    by = "the new amplifier" if drive.by_amplifier else "the new radio"
    yield watch(
        path,
        f"Not known: whether {drive.speaker.name} is a tweeter",
        f"{channel.name} may carry the treble alone; from {by} it gets the whole range, and a tweeter is dead in a"
        " moment. Look at it, or play it a low tone softly.",
        Remedy("Enter the band", path=path),
    )
