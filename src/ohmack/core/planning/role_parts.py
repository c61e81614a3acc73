"""Which part of a catalogue fills a role of a way: the cheapest that goes with the car and is as it was wished for."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import Wish
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import Driver, Said, Subwoofer
from ohmack.core.document.policy import Policy
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import SMALL_PLACES, Speaker, SpeakerPlace
from ohmack.core.factory.evidence import USUAL_CHANNELS, low_ohm_speakers, pairs_driven
from ohmack.core.factory.function_edits import KEPT
from ohmack.core.factory.functions import functions_of, shown_on_the_radio
from ohmack.core.factory.graph import about
from ohmack.core.factory.pickup_places import plays_from_lines
from ohmack.core.factory.roles import ON_ONE, PAIR, ROLE_KINDS, channels_wanted
from ohmack.core.factory.series_capacitors import SMALL_MM
from ohmack.core.factory.strategy_words import does_for_all, line_pairs_wanted
from ohmack.core.fit.built_to_space import goes_in
from ohmack.core.fit.clearances import HOLE_PLAY_MM
from ohmack.core.loads.driven import sub_coils
from ohmack.core.loads.nominals import nominal_of
from ohmack.core.loads.wiring_judge import OnChannel, best_wiring
from ohmack.core.loads.wirings import output_rows
from ohmack.core.physics.conductors import ROUNDED
from ohmack.core.physics.signal_chain import rms_from
from ohmack.core.physics.speaker_loads import rated_power_w
from ohmack.core.planning.placing import board_of
from ohmack.core.signal.kept_amplifiers import pairs_heard
from ohmack.core.supply.study import fuse_family

DOORS_AND_BASS = 2  # line pairs, so that each has a level of its own
FILLS = 0.85  # of a door's hole what goes into it on a ring that screws hold on; common practice


def _suits(design: Design, role: str, tree: dict[str, Any]) -> bool:
    """Whether a catalogue part goes with what is there already."""
    if role == "amplifier" and channels_wanted(design.strategy) >= PAIR:
        return _has_channels(design, tree) and _rated_for_drivers(design, tree)
    if role == "amplifier":
        coils = [c.impedance_ohm for s in design.new_parts_of(Subwoofer) for c in s.coils]
        return not coils or tree["lowest_load_ohm"] <= max(sum(coils), min(coils))
    if role == "converter":
        levels = [
            rms_from(s.source_voltage_v.value, s.source_stated_as.value)
            for s in design.vehicle.sources
            if s.source_voltage_v.value
        ]
        return not levels or rms_from(tree["input_limit_v"], tree.get("input_stated_as", "rms")) >= max(levels)
    if role == "powered subwoofer":
        levels = [
            rms_from(s.source_voltage_v.value, s.source_stated_as.value)
            for s in design.vehicle.sources[:1]
            if s.source_voltage_v.value
        ]
        limit_v = tree.get("line_high_v" if plays_from_lines(design) else "speaker_level_high_v")
        if limit_v is None or plays_from_lines(design):
            return limit_v is not None
        return not levels or rms_from(limit_v, tree.get("input_stated_as", "rms")) >= max(levels)
    if role == "box":
        return board_of(tree) is not None or (_holds_the_driver(design, tree) and _goes_into_the_car(design, tree))
    if role == "driver":
        alone = tree.get("role") in ("coaxial", "full range")  # in the place of one speaker
        return alone and (tree.get("pieces") or PAIR) >= PAIR and (_stand_in_boxes(design) or not tree.get("own_box"))
    if role == "radio":
        opening = design.vehicle.radio.opening_height_mm.value
        return opening is None or tree.get("height_mm", 50.0) <= opening
    return True


def _as_wished(design: Design, role: str, tree: dict[str, Any]) -> bool:
    """Whether a part is what was wished for: a screen where one is wanted, line pairs enough for what is driven anew,
    an amplifier for every pair it is to drive and for the speakers there are, speakers of the doors' size; where no
    hole is on file none too small for bass.
    """
    if role == "radio":
        pairs = DOORS_AND_BASS if design.strategy is StrategyKey.ALL_NEW else 0
        if design.strategy is StrategyKey.RADIO_BYPASS:
            pairs = line_pairs_wanted(design)
        if design.strategy is StrategyKey.RADIO_KEEP_AMPLIFIER:
            pairs = pairs_heard(design)
        enough = (tree.get("line_pairs") or 0) >= pairs
        shows = Wish.SCREEN in design.intake.wishes or shown_on_the_radio(design)
        return enough and _keeps_what_is_promised(design, tree) and (not shows or bool(tree.get("screen")))
    if role == "driver":
        doors = (s for s in _free_speakers(design) if s.in_door and not s.new_place)
        holes_mm = [s.cut_out_mm.value for s in doors]
        hole_mm = max((mm for mm in holes_mm if mm is not None), default=None)
        cut_out_mm = float(tree.get("cut_out_mm", 0.0))
        if hole_mm is None:
            if _stand_in_boxes(design):
                return bool(tree.get("own_box"))
            return cut_out_mm >= SMALL_MM or all(s.place in SMALL_PLACES for s in _free_speakers(design))
        return FILLS * hole_mm <= cut_out_mm <= hole_mm
    if role == "fuse holder":  # a maxi blade does; it takes what the amplifier's terminals take
        wanted = {fuse_family(design, link) for link in design.links_of(PowerLink) if link.fuse} or {"strip"}
        takes_mm2 = tree.get("terminal_area_max_mm2")
        holds = all(
            takes_mm2 is None or takes_mm2 * ROUNDED >= (a.terminal_area_max_mm2 or 0.0) for a in _wired(design)
        )
        return holds and tree["family"] in (wanted | {"maxi"} if "strip" in wanted else wanted)
    if role == "subwoofer":
        return _suits_an_output(design, tree)
    if role == "box":  # one of which it can be judged
        return board_of(tree) is not None or bool(tree.get("cut_out_mm") and tree.get("depth_mm"))
    channels = tree.get("channel_count", 1) + tree.get("further_count", 0)
    if role == "plug-in amplifier" and design.strategy is StrategyKey.REPLACE_AMPLIFIER:
        return does_for_all(design, channels)
    by_pair = design.strategy in (StrategyKey.DOORS_AMPLIFIED, StrategyKey.ALL_AMPLIFIED)
    if role == "amplifier" and by_pair:  # what takes a pair as it is
        return plays_from_lines(design) or tree.get("speaker_level_high_v") is not None
    if role in ("plug-in amplifier", "amplifier") and design.strategy is StrategyKey.RADIO_BYPASS:
        speakers = low_ohm_speakers(design)
        reads = [s.dc_resistance_ohm.value or s.impedance_ohm.value or 0.0 for s in speakers]
        permits = not reads or tree["lowest_load_ohm"] <= nominal_of(min(reads))
        return bool(permits and channels >= min(pairs_driven(design), USUAL_CHANNELS))
    return True


def _stand_in_boxes(design: Design) -> bool:
    """Whether new speakers stand in boxes of their own: the car has no place for one, or none but such boxes."""
    free = _free_speakers(design)
    return not design.vehicle.speakers or (bool(free) and all(s.place is SpeakerPlace.BOX for s in free))


def _free_speakers(design: Design) -> list[Speaker]:
    """The places that no new speaker takes yet."""
    taken = {name for part in design.parts_of(Driver) for name in part.at_ids}
    return [s for s in design.vehicle.speakers if s.id not in taken]


def _keeps_what_is_promised(design: Design, tree: dict[str, Any]) -> bool:
    """Whether a radio has what it takes to take over what the customer was promised, as far as its papers say."""
    promised = (f.kind for f in functions_of(design) if KEPT.get(f.kind) in design.intake.must_keep)
    fields = (about(kind).get("radio_has") for kind in promised)
    return all(tree.get(str(field)) != Said.NO.value for field in fields if field)


def _has_channels(design: Design, tree: dict[str, Any]) -> bool:
    """Whether an amplifier has as many channels as the way needs."""
    return bool(tree.get("channel_count", 1) + tree.get("further_count", 0) >= channels_wanted(design.strategy))


def _rated_for_drivers(design: Design, tree: dict[str, Any]) -> bool:
    """Whether a channel gives the new speakers what they take, within what suits the shop."""
    rows = [(row["load_ohm"], row["power_w"]) for row in tree["ratings"]]
    low, high = design.policy.match_low, design.policy.match_high
    return all(
        driver.impedance_ohm >= max(tree["lowest_load_ohm"], min(rows)[0])
        and low <= rated_power_w(rows, driver.impedance_ohm) / driver.power_rms_w <= high
        for driver in design.new_parts_of(Driver)
    )


def _suits_an_output(design: Design, tree: dict[str, Any]) -> bool:
    """Whether an amplifier of the plan gives a subwoofer what it takes, within what suits the shop, on an output it
    would get: the strongest group bridged where the papers rate that, else one channel of it.
    """
    sub = Subwoofer.model_validate({**tree, "id": "sub"})
    return any(_gives(a, sub, design.policy) for a in _wired(design))


def _wired(design: Design) -> list[Amplifier]:
    """The amplifiers with terminals of their own."""
    return [a for a in design.parts_of(Amplifier) if not a.plugs_in]


def _gives(amplifier: Amplifier, sub: Subwoofer, policy: Policy) -> bool:
    """Whether the output a subwoofer would get gives it what it takes, within what suits the shop."""
    group = max(amplifier.groups, key=lambda one: max(rating.power_w for rating in one.ratings))
    rows, lowest_ohm = output_rows(amplifier, group.first, bridged=bool(group.bridged_ratings))
    on = OnChannel(sub.name, sub_coils(sub), sub.power_rms_w)
    best = best_wiring(tuple(rows), lowest_ohm, (on,), policy.match_low, policy.match_high)
    return best is not None and best.match is not None and policy.match_low <= best.match <= policy.match_high


def _plays_a_sub(design: Design, tree: dict[str, Any], subs: Iterable[dict[str, Any]]) -> bool:
    """Whether an amplifier that is to play doors and bass gives one of the subwoofers what it takes."""
    amplifier = Amplifier.model_validate({**tree, "id": "amp"})
    return any(_gives(amplifier, Subwoofer.model_validate({**sub, "id": "sub"}), design.policy) for sub in subs)


def _goes_into_the_car(design: Design, tree: dict[str, Any]) -> bool:
    """Whether a box is not known to be too large for the space that was measured."""
    space = next(iter(design.vehicle.spaces), None)
    edges_m = tree.get("length_m") or 0.0, tree.get("width_m") or 0.0, tree.get("height_m") or 0.0
    return space is None or goes_in(design, space, edges_m) is not False


def _holds_the_driver(design: Design, tree: dict[str, Any]) -> bool:
    """Whether a box that is bought has an opening for each of the subwoofers, not known to be too small or too wide."""
    opening_mm, depth_mm = tree.get("cut_out_mm"), tree.get("depth_mm")
    subs = [sub for sub in design.parts_of(Subwoofer) if not sub.in_car and not sub.at_ids]
    return len(subs) <= tree.get("openings", 1) and all(
        (not opening_mm or not sub.cut_out_mm or 0 <= opening_mm - sub.cut_out_mm <= HOLE_PLAY_MM)
        and (not depth_mm or not sub.mounting_depth_mm or sub.mounting_depth_mm <= depth_mm)
        for sub in subs
    )


def choose_part(design: Design, role: str, catalogue: Iterable[dict[str, Any]]) -> dict[str, Any] | None:
    """The cheapest catalogue part that fills a role, goes with the car and is what was wished for.

    Parameters:
        design: the design.
        role: one of ROLE_KINDS.
        catalogue: part trees.

    Returns:
        the tree; where nothing suits the cheapest of its kind; None where the catalogue has none.
    """
    kind, category = ROLE_KINDS[role]
    trees = list(catalogue)
    pool = [t for t in trees if t["kind"] == kind and (not category or t.get("category") == category)]
    pool.sort(key=lambda t: (t.get("price") is None, t.get("price") or 0.0, t["name"]))
    if role == "amplifier":
        pool = [t for t in pool if _has_channels(design, t)] or pool
    suited = [t for t in pool if _suits(design, role, t)]
    if role == "amplifier" and design.strategy in ON_ONE:  # the subwoofer is chosen by it, if one goes with it
        subs = [t for t in trees if t["kind"] == "subwoofer"]
        suited = [t for t in suited if _plays_a_sub(design, t, subs)] or suited
    wished = [t for t in suited if _as_wished(design, role, t)]
    return next(iter(wished or suited or pool), None)
