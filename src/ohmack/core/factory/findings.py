"""Rules on the factory system: what a tap gets from it, what its channels drive, what an earlier owner left."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ohmack.core.document import Basis
from ohmack.core.document.factory import Level, Module, Radio, Tier
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.interventions import new_radio, radio_there
from ohmack.core.document.links import FeedLink, GroundLink, RemoteLink, TapLink
from ohmack.core.document.parts import Converter, HeadUnit
from ohmack.core.document.small_parts import LoadResistor
from ohmack.core.document.vehicle import Supply, Vehicle
from ohmack.core.factory.earlier_work import work_range_min
from ohmack.core.factory.outputs import ChannelLoad
from ohmack.core.factory.pickup_places import LINE_OUTPUT
from ohmack.core.factory.usual_modules import modules_for, unsaid_amplifier
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, set_to, stop, watch
from ohmack.core.figures.later import fit_now
from ohmack.core.loads.crossover_nets import net_between
from ohmack.core.loads.drivers import Drive
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.wording import amount, digits, listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("factory-system", "survey", PRACTICE)
def factory_system(results: Results) -> Iterator[Draft]:
    """The signal is taken where this factory system has none that is fit for it."""
    vehicle = results.design.vehicle
    tier, path = radio_there(results.design).tier.value, at_the(Radio, lambda it: it.tier)
    for tap in results.design.links_of(TapLink):
        source = vehicle.source_of(tap.from_ids[0])
        if isinstance(source, Module):
            yield from _after_amplifier(results, source)
        elif new_radio(results.design) is not None:
            continue  # its own outputs are there to be tapped
        elif tier is Tier.RING:
            yield stop(
                path,
                "No analogue signal at this radio",
                "The audio goes over a digital or optical ring; the pickup at the radio has nothing to pick up.",
                Remedy("Check the fact", path=path),
            )
        elif tier is Tier.NONE:
            yield stop(
                path,
                "There is no radio to take a signal from",
                "A source has to be added first: a radio, or a player with a volume of its own.",
                fit_now(results, "radio") or find_part("Find a radio", "radio"),
            )
        elif tier is Tier.AMPLIFIED and not any(results.design.parts_of(HeadUnit)):
            fixed = [m for m in vehicle.modules if m.amplifies and m.level.value is Level.FIXED]
            if fixed:
                yield stop(
                    path,
                    "Fixed level before the factory amplifier",
                    "The volume is made in the amplifier: what is tapped before it never gets quieter. "
                    "Pick up after it.",
                    Remedy("Look at the amplifier", path=at(fixed[0])),
                )
            else:
                yield from _before_the_amplifier(vehicle.radio)


def _before_the_amplifier(radio: Radio) -> Iterator[Draft]:
    """What is not measured of the outputs a works amplifier hears."""
    volts, at_volts = radio.source_voltage_v, at_the(Radio, lambda it: it.source_voltage_v)
    guessed = volts.basis is Basis.ASSUMED
    unread = [
        (words, path)
        for words, path, known in (
            ("level", at_volts, not guessed),
            ("how low they reach", at_the(Radio, lambda it: it.tap_low_hz), radio.tap_low_hz.value is not None),
        )
        if not known
    ]
    if unread:
        high = guessed and volts.value is not None and volts.value > LINE_OUTPUT["high"]
        yield watch(
            at_the(Radio, lambda it: it.tier),
            "The radio feeds a factory amplifier",
            "Its outputs may be line level, band-split or equalised. Not measured at the tap:"
            f" {listed([words for words, _ in unread])}. Or pick up after the amplifier, where up to 40 V are found.",
            Remedy("Take them as lines until then", (set_to(at_volts, LINE_OUTPUT),))
            if high
            else Remedy("Measure the tap", path=unread[0][1]),
        )


@rule("system-unsaid", "survey", PRACTICE)
def system_unsaid(results: Results) -> Iterator[Draft]:
    """A factory system is found out, and what it plays through is not on file."""
    design = results.design
    kind, tier = unsaid_amplifier(design.vehicle), design.vehicle.radio.tier.value
    if kind is not None and tier is not None:
        laid = modules_for(design, tier)
        yield watch(
            at_the(Radio, lambda it: it.tier),
            f"{tier.value[0].upper()}{tier.value[1:]}: its {kind.value} is not on file",
            "Such a system plays through it, and nobody said yet where it is or that there is none. Until then the "
            "pairs are taken as the radio's own, and what could be done with it is not judged.",
            Remedy("Put in what such a system has", laid) if laid else Remedy("Say what is in it", sheet="factory"),
        )


@rule("spare-input", "plan", PRACTICE)
def spare_input(results: Results) -> Iterator[Draft]:
    """A screen is to play through the factory radio, and nobody knows by which input."""
    design = results.design
    radio = design.vehicle.radio
    unit = next(design.parts_of(HeadUnit), None)
    path = at_the(Radio, lambda it: it.spare_input)
    if not design.radio_hidden or unit is None:
        return
    if radio.spare_input.value is None:
        yield stop(
            path,
            f"Not known: whether {radio.name} has an input for {unit.name}",
            "Everything plays through it: an AUX, changer or tape input that is on with the key. Without one this way"
            " cannot be gone.",
            Remedy("Enter it", path=path),
        )
    elif radio.spare_input.value is False:
        yield stop(
            path,
            f"{radio.name} has no input for {unit.name}",
            "Nothing the screen plays would be heard. Take another way.",
            Remedy("See the ways", sheet="strategies"),
        )


@rule("hidden-room", "plan", PRACTICE)
def hidden_room(results: Results) -> Iterator[Draft]:
    """The factory radio goes on working out of sight, and nothing on file says where."""
    radio = results.design.vehicle.radio
    if results.design.radio_hidden and any(results.design.new_parts_of(HeadUnit)):
        yield note(
            at_the(Radio, lambda it: it.tier),
            f"Not judged: where {radio.name} goes",
            "Hold it to the place before the dash is closed: room for its body and plugs, air over it, a fastening that"
            " does not rattle, and the extension loom long enough.",
        )


def _after_amplifier(results: Results, module: Module) -> Iterator[Draft]:
    base = at(module)
    if module.fitted.value is False:
        yield stop(
            module.id,
            f"{module.name} is not fitted",
            "A premium option named on paper may be absent. Pick the signal up elsewhere.",
            Remedy("Look at it", path=base),
        )
        return
    if module.band_split.value is False and module.pairs_split:
        part = next(c for c in module.channels if c.band.value and not c.band.value.has_bass)
        yield watch(
            module.id,
            f"{module.name}: its pairs split the bands, its note says it does not",
            f"{part.name} carries the {part.band.value}. Measure the band at each pair, then set the note right:"
            " one of the two is wrong.",
            Remedy("Set the note right", path=at(module, lambda it: it.band_split)),
        )
    if module.load_sensing.value and not _resistors_stand_in(results, module):
        yield watch(
            module.id,
            f"{module.name} senses its load",
            "Take its speakers away and it mutes or reports a fault: leave them on, or put load resistors in.",
            Remedy("Look at it", path=base),
        )
    if module.equalised.value:
        yield watch(
            module.id,
            f"{module.name} equalises its outputs",
            "Its bass falls as the volume rises: read 50 Hz and 1 kHz at several steps, or use a converter that"
            " restores bass.",
            Remedy("Look at it", path=base),
        )
    yield from _not_known(results, module)


def _not_known(results: Results, module: Module) -> Iterator[Draft]:
    """What nobody looked at in an amplifier whose outputs are picked up: each would be said if it were so."""
    asked = [
        ("is really fitted", module.fitted, at(module, lambda it: it.fitted), True),
        ("splits the bands", module.band_split, at(module, lambda it: it.band_split), len(module.channels) > 1),
        ("equalises", module.equalised, at(module, lambda it: it.equalised), True),
        ("senses its load", module.load_sensing, at(module, lambda it: it.load_sensing),
         not _resistors_stand_in(results, module)),
    ]  # fmt: skip
    unseen = [(words, path) for words, fact, path, asks in asked if asks and fact.value is None]
    if unseen:
        yield watch(
            module.id,
            f"Not known of {module.name}: whether it {listed([words for words, _ in unseen])}",
            "What is picked up there depends on it. Read each pair at several volume steps, with its speakers on and"
            " off.",
            Remedy("Enter it", path=unseen[0][1]),
        )


def _resistors_stand_in(results: Results, module: Module) -> bool:
    """Whether every output of a module that lost its speakers has a load resistor in their place."""
    design = results.design
    held = {name for part in design.parts_of(LoadResistor) for name in part.at_ids}
    left = {drive.channel.id for drive in results.drives if drive.channel is not None and not drive.by_amplifier}
    lost = [channel.id for channel in module.channels if channel.id not in left]
    return bool(lost) and all(name in held for name in lost)


@rule("tap-channels", "survey", PRACTICE)
def tap_channels(results: Results) -> Iterator[Draft]:
    """The tapped channels do not carry what is wanted of them."""
    vehicle = results.design.vehicle
    for tap in results.design.links_of(TapLink):
        channels = [c for c in vehicle.channels if c.id in tap.from_ids]
        converter = next((c for c in results.design.parts_of(Converter) if c.id == tap.to_id), None)
        if converter is not None and len(channels) > converter.input_pairs:
            yield stop(
                tap.id, f"{len(channels)} pairs into {converter.name}, which takes {converter.input_pairs}",
                "Two pairs on one input load each other. Take fewer, or a converter or processor with more inputs.",
                Remedy("Choose other channels", sheet="plan"),
            )  # fmt: skip
        bands = [c.band.value for c in channels if c.band.value is not None]
        deaf = [c.name for c in channels if c.band.value is not None and not c.band.value.has_bass]
        if bands and len(deaf) == len(channels):
            yield stop(
                tap.id,
                f"No bass on {listed(deaf)}",
                "These pairs carry the upper bands only; a subwoofer hears nothing of it. Take the low or full-range"
                " pairs.",
                Remedy("Choose other channels", sheet="plan"),
            )
        if len({vehicle.source_of(c.id).id for c in channels}) > 1:
            yield stop(
                tap.id,
                "One pickup from two different boxes",
                "Levels and phase differ between the radio's and the amplifier's outputs. Take all pairs from one.",
                Remedy("Choose other channels", sheet="plan"),
            )
        for channel in channels:
            if channel.reaches.value is False:
                yield note(
                    tap.id,
                    f"{channel.name} leads to no speaker",
                    "For a pickup that is harmless, as long as the radio plays into it without a load.",
                )


def _parted(results: Results, row: ChannelLoad) -> Remedy | None:
    """A crossover net, where a tweeter hangs on the output with others and nothing parts them."""
    return next((net for s in row.speakers if (net := net_between(results, s.id)) is not None), None)


def _lighter(drives: Sequence[Drive], row: ChannelLoad, lowest_ohm: float, assumed: bool) -> Remedy:
    """What takes load off an output: two speakers in series where that is enough, else what it permits, else others."""
    if row.in_series_ohm is not None and row.in_series_ohm >= lowest_ohm:
        one, other = row.speakers
        return Remedy(
            f"Wire the two in series: {trimmed(round(row.in_series_ohm, 2))} Ω",
            (
                set_to(at(one, lambda it: it.paired_with_id), other.id),
                set_to(at(one, lambda it: it.pairing), "series"),
            ),
        )
    if assumed:
        return Remedy("Enter what it permits", path=at(row.source, lambda it: it.lowest_load_ohm))
    new = next((drive.driver for drive in drives if drive.speaker in row.speakers and drive.driver is not None), None)
    return find_part("Find other speakers", "driver", new.id if new is not None else "")


@rule("channel-load", "loads", PHYSICS)
def channel_load(results: Results) -> Iterator[Draft]:
    """An output drives less than it may, or clearly less than it did."""
    for row in results.channel_loads:
        now, lowest, was = row.load.value, row.lowest.value, row.was.value if row.was else None
        if now is None or lowest is None:
            continue
        change_db = row.change.value if row.change and row.change.value is not None else 0.0
        if row.overloads:
            assumed = row.lowest.basis is Basis.ASSUMED
            draft = stop if row.new else watch  # as the car came it plays; still nobody knows why it may
            yield draft(
                row.channel.id,
                f"{trimmed(round(now, 2))} Ω on {row.name}, which wants {trimmed(round(lowest, 2))} Ω",
                "The output stage overheats, trips or clips. Wire the pair in series, or choose drivers of higher"
                " impedance."
                + (
                    " Nearly every radio wants 4 Ω; enter what this one permits if its papers say less."
                    if assumed
                    else ""
                ),
                _parted(results, row) or _lighter(results.drives, row, lowest, assumed),
            )
        elif row.new and was is not None and now < was * 0.9:
            yield watch(
                row.channel.id,
                f"{row.name}: {trimmed(round(now, 2))} Ω where {trimmed(round(was, 2))} Ω was",
                f"{was / now - 1:.0%} more current from the same voltage, {amount(change_db, 'db')} more power. The"
                " channel runs warmer.",
            )
        elif row.new and was is not None and now > was * 1.1:
            yield note(
                row.channel.id,
                f"{row.name}: {trimmed(round(now, 2))} Ω where {trimmed(round(was, 2))} Ω was",
                f"{amount(-change_db, 'db')} less power from the same voltage; a more sensitive driver makes up"
                " for it.",
            )


@rule("pair-reading", "survey", PRACTICE)
def pair_reading(results: Results) -> Iterator[Draft]:
    """A speaker pair does not read what its speakers should."""
    led_elsewhere = {
        c.channel.id for c in results.circuits if c.reaches and c.on_file is None
    }  # the harness speaks of those
    for pair in results.baseline.pairs:
        if pair.good is False and pair.read_ohm is not None and pair.channel.id not in led_elsewhere:
            wanted = (
                f"; {digits(pair.should_read_ohm[0])} to {digits(pair.should_read_ohm[1])} Ω would fit"
                if pair.should_read_ohm
                else ""
            )
            yield watch(
                f"{pair.path}/pair_resistance_ohm",
                f"{pair.channel.name} reads {digits(pair.read_ohm)} Ω",
                f"{pair.verdict[0].upper()}{pair.verdict[1:]}{wanted}.",
                Remedy("Look at the reading", path=f"{pair.path}/pair_resistance_ohm"),
            )


@rule("bass-rolled-off", "survey", PRACTICE)
def bass_rolled_off(results: Results) -> Iterator[Draft]:
    """The bass falls behind as the volume rises."""
    lost = results.baseline.bass_lost
    if lost and lost[-1][1] > 3:
        step, loss = lost[-1]
        yield watch(
            at_the(Vehicle, lambda it: it.volume_steps),
            f"{amount(loss, 'db')} less bass at step {step:g}",
            "The factory system rolls the bass off as the volume rises. Tap before it, or use a converter that restores"
            " bass; set the gain at the top step.",
            Remedy("See the baseline", sheet="baseline"),
        )


@rule("standby", "survey", PRACTICE)
def standby(results: Results) -> Iterator[Draft]:
    """The car empties its battery within three weeks standing."""
    figure = results.baseline.standby
    if figure is not None and figure.value is not None and figure.value < 21:
        yield watch(
            at_the(Supply, lambda it: it.standby_current_a),
            f"Standing, the battery lasts about {figure.value:.0f} days",
            "Read again after the modules fell asleep (about ten minutes, doors shut). If it stays, find what is awake"
            " before adding anything.",
            Remedy("Look at the reading", path=at_the(Supply, lambda it: it.standby_current_a)),
        )


@rule("earlier-damage", "survey", PRACTICE)
def earlier_damage(results: Results) -> Iterator[Draft]:
    """Something an earlier owner did stands in the way, or has to be paid for."""
    vehicle, policy = results.design.vehicle, results.design.policy
    why = table("cabin", "alterations")["why"]
    used: set[str] = set()
    for link in results.design.links:
        if isinstance(link, TapLink):
            used |= set(link.from_ids)
        elif isinstance(link, FeedLink):
            used |= {link.from_id, link.ground_point_id or ""}
        elif isinstance(link, GroundLink):
            used.add(link.to_id)
        elif isinstance(link, RemoteLink):
            used.add(link.from_id)
    for alteration in vehicle.alterations:
        about = alteration.about_id
        draft = stop if about in used else note
        extra = " The plan uses exactly this." if about in used else ""
        yield draft(
            at(alteration),
            f"{alteration.kind.value.capitalize()}: {alteration.name}",
            why[alteration.kind.value] + extra,
            Remedy("Look at it", path=at(alteration)),
        )
    span = work_range_min(vehicle)
    if span is not None:
        cost = [minutes / 60 * policy.labour_rate for minutes in span]
        extra, money = (f"{a:.0f}" if round(a) == round(b) else f"{a:.0f} to {b:.0f}" for a, b in (span, cost))
        yield note(
            "earlier_work_min",
            f"Earlier damage: {extra} min extra, {money} {policy.currency}",
            "Quote it before starting; the customer did not know about it either.",
        )
