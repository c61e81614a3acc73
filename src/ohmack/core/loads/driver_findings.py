"""Rules on who drives what: speakers a plan leaves silent, new ones nothing drives, tweeters that would get the
bass.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Basis, Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Tier
from ohmack.core.document.handles import at, at_the, within
from ohmack.core.document.ids import free_id
from ohmack.core.document.interventions import factory_amplifier, new_radio
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver, HeadUnit, Part
from ohmack.core.figures.finding import Draft, Remedy, adding, find_part, note, rule, set_to, stop, watch
from ohmack.core.figures.later import fit_now
from ohmack.core.loads.corners import corner_of, joined_in_corners
from ohmack.core.loads.crossover_nets import net_between
from ohmack.core.loads.driven import own_tweeter
from ohmack.core.loads.drivers import Drive, net_of
from ohmack.core.loads.line_parts import BEARS, in_line_with, tweeter_hz, usual_hz
from ohmack.core.physics.filters import corner_hz, nearest_preferred, series_capacitor_uf
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count, listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("speaker-silent", "loads", PRACTICE)
def speaker_silent(results: Results) -> Iterator[Draft]:
    """A speaker that played plays no more, or a new one is driven by nothing."""
    silent: dict[str, list[Drive]] = {}
    new: dict[str, list[Drive]] = {}
    for drive in (d for d in results.drives if not d.driven):
        if drive.driver is not None:  # nobody buys a speaker to leave it silent
            new.setdefault(drive.driver.id, []).append(drive)
        elif drive.source is not None and not drive.speaker.left_silent:
            silent.setdefault(drive.source.name, []).append(drive)
    for drives in new.values():
        yield _new_and_silent(results, drives)
    for source, drives in silent.items():
        names, it = listed([d.speaker.name for d in drives]), "them" if len(drives) > 1 else "it"
        title = f"{count(len(drives), 'speaker')} fall silent: {names}" if len(drives) > 1 else f"{names} falls silent"
        why = (
            f"{source} drove {it}; under this plan nothing does. Every pair that played needs a channel: wire them to"
            " the new amplifier, take one with more channels, or leave them silent on purpose."
        )
        if _never_played(results.design, drives[0]):
            if not results.design.parts:
                continue  # nothing is planned for a car that has nothing
            title = f"{names}: nothing drives {it}"
            why = f"The car has no radio. Lead a pair of a new one or of an amplifier there, or leave {it} silent."
        silenced = tuple(set_to(at(d.speaker, lambda it: it.left_silent), True) for d in drives)
        remedy = _driven_anew(results.design) or Remedy("Leave silent on purpose", silenced)
        yield stop(at(drives[0].speaker), title, why, remedy)


def _driven_anew(design: Design) -> Remedy | None:
    """What lets a plug-in amplifier drive every pair of the old one, where channels are short the high and the low
    pair of a corner on one; None where it cannot.
    """
    amplifier, old = next((a for a in design.parts_of(Amplifier) if a.plugs_in), None), factory_amplifier(design)
    if amplifier is None or old is None:
        return None
    heard = [s for s in design.vehicle.speakers if not s.left_silent]
    pairs = [pair for c in old.channels if (pair := [s.id for s in heard if s.channel_id == c.id])]
    laid = {link.to_id: link for link in design.links_of(SpeakerLink)}
    groups = joined_in_corners(design, pairs, amplifier.channels)
    if len(groups) > amplifier.channels or any(laid[n].from_id != amplifier.id for g in groups for n in g if n in laid):
        return None
    taken = design.taken_ids()
    edits = []
    for channel, group in enumerate(groups, start=1):
        for name in group:
            if name in laid:
                edits.append(set_to(at(laid[name], lambda it: it.channel), channel))
                continue
            link: dict[str, object] = {"id": free_id(f"speaker-{name}", taken), "kind": "speaker"}
            link |= {"from_id": amplifier.id, "to_id": name, "channel": channel, "factory_wire": True}
            edits.append(adding(at_the(Design, lambda it: it.links), link))
    label = "Join the pairs of a corner" if len(groups) < len(pairs) else f"Wire all of them to {amplifier.name}"
    return Remedy(label, tuple(edits))


def _never_played(design: Design, drive: Drive) -> bool:
    """Whether a place hangs on the radio of a car that has none."""
    return drive.source is design.vehicle.radio and design.vehicle.radio.tier.value is Tier.NONE


@rule("speakers-unseen", "loads", PRACTICE)
def speakers_unseen(results: Results) -> Iterator[Draft]:
    """A radio goes into a car that had none, onto speakers nobody has looked for."""
    if new_radio(results.design) is None:
        return
    unseen = [d.speaker for d in results.drives if _never_played(results.design, d) and _is_unseen(d)]
    if unseen:
        first, names = unseen[0], listed([speaker.name for speaker in unseen])
        yield stop(
            first.id,
            f"Nobody has seen {'a speaker' if len(unseen) == 1 else 'speakers'}: {names}",
            "The car never had a radio, so it may have none, and no wires to them. Enter the ohms each reads at the end"
            " of its wires, choose new ones for these places, or take off the file what is not there.",
            Remedy("There are none", tuple(Edit(op="remove", path=at(speaker)) for speaker in unseen)),
        )


@rule("radio-alone", "loads", PRACTICE)
def radio_alone(results: Results) -> Iterator[Draft]:
    """A radio goes in, and no speaker is on file: bass alone is no music."""
    unit = new_radio(results.design)
    if unit is not None and not results.drives:
        yield stop(
            unit.id,
            f"{unit.name} plays into nothing: no speaker is on file",
            "Choose new speakers, or add those the car has to its survey.",
            find_part("Find speakers", "driver"),
        )


def _is_unseen(drive: Drive) -> bool:
    """Whether the new radio plays a speaker of the car that is there by nothing but the pattern of such cars."""
    ohm, coil = drive.speaker.impedance_ohm, drive.speaker.dc_resistance_ohm
    known = ohm.basis is not Basis.ASSUMED or ohm.who or coil.value is not None
    return drive.by_new_radio and drive.driver is None and not known and not drive.speaker.new_place


def _new_and_silent(results: Results, drives: list[Drive]) -> Draft:
    """A new speaker that nothing drives, in every place it goes into."""
    design = results.design
    first, source = drives[0], drives[0].source
    assert first.driver is not None
    if _never_played(design, first):
        why = "The car has no radio, and no channel of an amplifier is wired to it."
    elif source is not None:
        why = f"{source.name} drove that place; under this plan nothing does."
    else:
        why = "No pair of the car reaches that place and no channel of an amplifier is wired to it."
    names, it = listed([d.speaker.name for d in drives]), "it" if len(drives) == 1 else "them"
    return stop(
        first.driver.id, f"{first.driver.name} in {names}: nothing drives {it}", why,
        fit_now(results, "radio") or find_part("Find a radio", "radio")
        if _never_played(design, first) and not any(design.parts_of(HeadUnit))
        else Remedy("Choose its channel", path=at(first.speaker)),
    )  # fmt: skip


@rule("tweeter-unprotected", "loads", PRACTICE)
def tweeter_unprotected(results: Results) -> Iterator[Draft]:
    """A tweeter gets the whole range, or a setting alone keeps it from it: the bass in it kills it in a moment."""
    held: dict[tuple[str, float | None], list[Drive]] = {}  # by a setting alone, of some nominal impedance
    told: set[str] = set()
    for drive in results.drives:
        yield from _may_be_one(drive)
        if not drive.tweeter or not drive.driven:
            continue
        if drive.high_pass:
            yield from _too_low(results, drive)
            continue
        if setting := _set_high(results, drive):
            held.setdefault((setting, drive.nominal_ohm), []).append(drive)
            continue
        changed = drive.driver is not None or drive.by_amplifier or drive.by_new_radio
        path = at(drive.driver) if drive.driver else at(drive.speaker, lambda it: it.own_capacitor)
        if path in told:
            continue
        told.add(path)
        others = _alike(results, drive)
        by = "the new amplifier" if drive.by_amplifier else "the new radio" if drive.by_new_radio else "its pair"
        known = (
            "no capacitor of its own"
            if drive.driver is not None or drive.speaker.own_capacitor.value is False
            else "nobody looked whether it has a capacitor (behind one it reads open)"
        )
        draft = stop if changed else watch
        unseen = drive.driver is None and drive.speaker.own_capacitor.value is None
        yield draft(
            path,
            f"{listed([drive.speaker.name, *(d.speaker.name.lower() for d in others)])}: a tweeter without a high-pass",
            f"{'Each' if others else 'It'} gets the full range from {by}, and {known}. A capacitor, a crossover or a"
            " processor has to keep the bass out.",
            (Remedy("Enter what it has", path=path) if unseen else None)
            or net_between(results, drive.speaker.id)
            or _own_capacitor([drive, *others])
            or Remedy("Look at it", path=path),
        )
    yield from (_by_setting(drives, setting) for (setting, _), drives in held.items())


OCTAVE = 2.0  # a tweeter is crossed an octave above its resonance, common practice


@rule("tweeter-resonance", "loads", PRACTICE)
def tweeter_resonance(results: Results) -> Iterator[Draft]:
    """What keeps the bass from a tweeter begins less than an octave above its resonance, where its cone moves most."""
    for drive in results.drives:
        fs_hz = drive.driver.fs_hz if drive.tweeter and drive.driven and drive.driver is not None else None
        corner = _passes_from(results, drive) if fs_hz is not None else None
        if fs_hz is None or corner is None or corner[0] >= OCTAVE * fs_hz:
            continue
        hz, part = corner
        yield watch(
            f"{part.id}/{drive.speaker.id}",
            f"{part.name} passes from {trimmed(round(hz))} Hz; {drive.speaker.name.lower()} resonates at"
            f" {trimmed(round(fs_hz))} Hz",
            f"Wanted is an octave above it, {trimmed(round(OCTAVE * fs_hz))} Hz: nearer, its cone moves most where it"
            " is driven still, and it sounds sharp and dies early.",
            Remedy("Look at the part", path=at(part)),
        )


def _passes_from(results: Results, drive: Drive) -> tuple[float, Part] | None:
    """(from where a net or a capacitor in line passes a tweeter what it plays [hz], that part)."""
    if (net := net_of(results.design, drive.speaker.id)) is not None:
        return net.crossover_hz, net
    ohm = drive.nominal_ohm
    capacitor = in_line_with(results.design, drive.speaker, ohm, pair=False).capacitor if ohm is not None else None
    if capacitor is None or ohm is None or _set_high(results, drive):
        return None  # one under a filter is there for when that forgets
    return corner_hz(ohm, capacitor.capacitance_uf), capacitor


def _too_low(results: Results, drive: Drive) -> Iterator[Draft]:
    """What is planned in line with a tweeter lets more bass through than it bears."""
    design, least_hz = results.design, BEARS * tweeter_hz()
    if (net := net_of(design, drive.speaker.id)) is not None:
        if net.crossover_hz < least_hz:
            yield _lets_through(drive, net, net.crossover_hz, Remedy("Look at the part", path=at(net)))
        return
    ohm = drive.nominal_ohm
    if not drive.by_amplifier or ohm is None:
        return  # one on a pair of the car is judged with what else hangs there
    capacitor = in_line_with(design, drive.speaker, ohm, pair=False).capacitor
    if capacitor is None:
        return
    corner_at_hz = corner_hz(ohm, capacitor.capacitance_uf)
    if corner_at_hz < least_hz and not _set_high(results, drive):
        sold_uf = nearest_preferred(series_capacitor_uf(ohm, tweeter_hz()))
        remedy = Remedy(
            f"Take {trimmed(sold_uf)} µF",
            (
                set_to(at(capacitor, lambda it: it.capacitance_uf), sold_uf),
                set_to(at(capacitor, lambda it: it.name), f"Bipolar capacitor {trimmed(sold_uf)} µF"),
            ),
        )
        yield _lets_through(drive, capacitor, corner_at_hz, remedy)


def _lets_through(drive: Drive, part: Part, corner_at_hz: float, remedy: Remedy) -> Draft:
    return stop(
        f"{part.id}/{drive.speaker.id}",
        f"{part.name} lets {trimmed(round(corner_at_hz))} Hz through to {drive.speaker.name.lower()}",
        f"A tweeter is high-passed at about {trimmed(tweeter_hz())} Hz, none below {trimmed(BEARS * tweeter_hz())} Hz:"
        " the bass in it kills it in a moment.",
        remedy,
    )


def _set_high(results: Results, drive: Drive) -> str:
    """The high-pass a processor or the amplifier is set to for a tweeter, in words; empty where none is high enough."""
    load = next((one for one in results.loads if any(k.to_id == drive.speaker.id for k in one.links)), None)
    entry = results.crossover_of(load.scope) if load is not None else None
    usual_at_hz = usual_hz(results.design, drive.speaker.id)
    if load is None or entry is None or usual_at_hz is None:
        return ""
    least_hz = BEARS * usual_at_hz
    in_source = max((hz for high, hz, _, _ in entry.in_source if high), default=0.0)
    if in_source >= least_hz and entry.line is not None:
        source = results.design.part(entry.line.from_id)
        return f"{in_source:.0f} Hz in {source.name if source is not None else 'the radio'}"
    own_hz = entry.high_pass.value if entry.high_pass is not None else None
    low_hz, high_hz = load.amplifier.high_pass_low_hz, load.amplifier.high_pass_high_hz
    if own_hz is None or low_hz is None or high_hz is None or own_hz < least_hz or not low_hz <= own_hz <= high_hz:
        return ""
    return f"{own_hz:.0f} Hz in {load.amplifier.name}"


def _by_setting(drives: list[Drive], setting: str) -> Draft:
    """Equal tweeters on channels of their own, with nothing in line: what to put there, an octave below the filter."""
    remedy = _own_capacitor(drives, tweeter_hz() / 2) or Remedy("Look at it", path=at(drives[0].speaker))
    return note(
        at(drives[0].speaker),
        f"{listed([d.speaker.name for d in drives])}: a setting alone keeps the bass from the tweeter"
        f"{'s' if len(drives) > 1 else ''}",
        f"High-pass {setting}. While it starts, or once it forgets, the whole range comes through, and a tweeter is"
        " dead in a moment. Many put a capacitor in line, an octave below the filter.",
        remedy,
    )


def _alike(results: Results, drive: Drive) -> list[Drive]:
    """The others of a tweeter's part that want the same as it."""
    others = (d for d in results.drives if d.driver is not None and d.driver is drive.driver and d.driven)
    return [d for d in others if d is not drive and not d.high_pass and not _set_high(results, d)]


def _own_capacitor(drives: list[Drive], corner_at_hz: float | None = None) -> Remedy | None:
    """A capacitor in line with each of some equal tweeters; by default for where tweeters are high-passed."""
    drive = drives[0]
    if not drive.nominal_ohm:
        return None
    sold_uf = nearest_preferred(series_capacitor_uf(drive.nominal_ohm, corner_at_hz or tweeter_hz()))
    name = f"Bipolar capacitor {trimmed(sold_uf)} µF"
    part = {"id": f"guard-{drive.speaker.id}"[:40], "kind": "series capacitor", "name": name,
            "capacitance_uf": sold_uf, "at_ids": [d.speaker.id for d in drives]}  # fmt: skip
    return Remedy(f"Put {trimmed(sold_uf)} µF in line", (adding(at_the(Design, lambda it: it.parts), part),))


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


@rule("woofer-alone", "loads", PRACTICE)
def woofer_alone(results: Results) -> Iterator[Draft]:
    """A woofer plays in a corner of the car where nothing plays the treble."""
    design = results.design
    alone: dict[str, list[Drive]] = {}
    for drive in (d for d in results.drives if d.driven and _woofer(d)):
        corner = corner_of(design, drive.speaker.id)
        beside = (d for d in results.drives if d is not drive and d.driven and not _woofer(d))
        if all(corner_of(design, d.speaker.id) is not corner for d in beside) and drive.driver is not None:
            alone.setdefault(drive.driver.id, []).append(drive)
    for name, drives in alone.items():
        driver = drives[0].driver
        assert driver is not None
        yield watch(
            name,
            f"{driver.name} alone in {listed([d.speaker.name.lower() for d in drives])}: nothing plays the treble",
            "A woofer of a component set falls off in the kilohertz, where words are understood. It wants a tweeter"
            " and a crossover beside it; or take a coaxial speaker.",
            Remedy("Find a tweeter", sheet="find", query="kind=driver&words=tweeter"),
        )


def _woofer(drive: Drive) -> bool:
    return isinstance(drive.driver, Driver) and drive.driver.role == "woofer"


@rule("treble-alone", "loads", PRACTICE)
def treble_alone(results: Results) -> Iterator[Draft]:
    """A tweeter sits where the middle was played, and nothing else plays it at that corner."""
    design = results.design
    for drive in results.drives:
        new, speaker = drive.driver, drive.speaker
        own = speaker.new_place or own_tweeter(speaker, drive.channel)
        if not isinstance(new, Driver) or new.role != "tweeter" or own:
            continue
        corner = corner_of(design, speaker.id)
        others = (d for d in results.drives if d.driven and not d.tweeter and d.speaker is not speaker)
        if not any(corner_of(design, other.speaker.id) is corner for other in others):
            yield stop(
                f"{new.id}/{speaker.id}",
                f"{new.name} in {speaker.name}: nothing plays the middle there",
                "A tweeter begins at some kilohertz; voices come from what sat there before. Put that back, or a"
                " speaker for the whole range, and the tweeter beside it.",
                find_part("Find a speaker for it", "driver", new.id),
            )
