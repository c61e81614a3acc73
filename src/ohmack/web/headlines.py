"""The sentence on top of each sheet, as an installer would say it, with its small print."""

from __future__ import annotations

from ohmack.core.build.order import order_words
from ohmack.core.document import Basis
from ohmack.core.document.harness import CavityUse
from ohmack.core.document.interventions import interventions_of
from ohmack.core.evaluation.changes import shown
from ohmack.core.factory.functions import Fate
from ohmack.core.factory.strategies import advise
from ohmack.core.harness.wire_finder import Found
from ohmack.core.wording import amount, count, trimmed
from ohmack.web.page import Page


def headline(page: Page) -> tuple[str, str]:
    """The sheet's sentence and its small print."""
    if page.stage == "build":
        return "Build sheet", f"{page.design.vehicle.title}, revision {page.record.number}"
    say = {"survey": say_survey, "plan": say_plan, "loads": say_loads, "signal": say_signal, "supply": say_supply,
           "factory": say_factory, "baseline": say_baseline, "fit": say_fit, "functions": say_functions, "strategies": say_strategies, "find": say_find, "options": say_options, "order": say_order,
           "harness": say_harness, "joints": say_joints, "finder": say_finder}  # fmt: skip
    return say[page.stage](page) if page.stage in say else ("", "")


def say_survey(page: Page) -> tuple[str, str]:
    """Survey."""
    facts = [f for place in page.places for f in place.facts if f.known]
    small = ", ".join(
        f"{sum(f.basis.value == b for f in facts)} {word}"
        for b, word in (("measured", "measured"), ("documented", "from papers"), ("assumed", "assumed"))
    )
    small = f"{count(len(facts), 'fact')}: {small}"
    if page.evaluation.measure_first is None:
        return "What the car has", small
    first = next((m for m in page.evaluation.measure_first if m.stops or m.parts), None)
    if first:
        owner = f", {first.owner}" if first.owner else ""
        return f"Measure first: {first.name[0].lower()}{first.name[1:]}{owner}", small
    if not page.evaluation.results.design.parts:
        asked = [m for m in page.evaluation.measure_first if m.plans]
        return (
            f"{count(len(asked), 'fact')} the likely plans would ask"
            if asked
            else "Nothing is planned yet, so nothing was judged"
        ), small
    return "Nothing assumed that matters", small


def say_factory(page: Page) -> tuple[str, str]:
    """The factory system: the fact on file, and how sure the questionnaire is."""
    fact = page.design.vehicle.radio.tier
    verdict = page.evaluation.results.tier
    tier, share = verdict.best
    if not verdict.answered:
        words = fact.value.value if fact.value else "not known"
        if fact.value and fact.basis is not Basis.ASSUMED:
            return f"{words[0].upper()}{words[1:]}", f"on file, {fact.basis.word.lower()} {fact.how.value}"
        return "Which factory system is it?", f"{words} on file, {fact.basis.word.lower()}"
    small = f"{share:.0%} certain after {count(len(verdict.answered), 'answer')}"
    words = f"{tier.value[0].upper()}{tier.value[1:]}"
    return (words if verdict.certain else f"Perhaps: {tier.value}"), small


def say_baseline(page: Page) -> tuple[str, str]:
    """The baseline: what was read, and what does not fit."""
    base = page.evaluation.results.baseline
    read = [pair for pair in base.pairs if pair.read_ohm is not None]
    wrong = [pair for pair in base.pairs if pair.good is False]
    small = f"{len(read)} of {count(len(base.pairs), 'pair')} read, {count(sum(len(s.rows) for s in base.sweeps), 'volume reading')}"
    if wrong:
        return (
            f"{count(len(wrong), 'pair')} to look at: {wrong[0].channel.name.lower()}, {wrong[0].verdict.split(':')[0]}",
            small,
        )
    return ("The car reads as it should" if read else "Read the car before anything is changed"), small


def say_fit(page: Page) -> tuple[str, str]:
    """Fit: the tightest place."""
    fits = [fit for fit in page.evaluation.results.fits if fit.checks]
    small = "a check on paper with millimetres and a basis, not a promise"
    if not fits:
        return "Nothing has to fit yet", "pick a speaker, a radio or a box in Plan"
    worst = min(fits, key=lambda fit: ("over", "unknown", "tight", "good").index(fit.state))
    words = {"over": "does not fit", "unknown": "not measured yet", "tight": "only just fits"}
    return (f"{worst.title}: {words[worst.state]}" if worst.state in words else "Everything planned fits"), small


def say_plan(page: Page) -> tuple[str, str]:
    """Plan."""
    cost, budget = page.figure("cost"), page.design.intake.budget
    if not page.design.parts:
        return "Pick the first part", "an amplifier, a driver, a box, a converter"
    words = shown(cost)
    small = f"of {budget:.0f} {page.design.policy.currency}" if budget else "no budget given"
    return f"{count(len(page.design.parts), 'part')}, {words}", small


def say_functions(page: Page) -> tuple[str, str]:
    """The function ledger."""
    ledger = page.evaluation.results.ledger
    if not ledger:
        return "What else does this car do?", "chimes, parking sounds, camera, clock: whatever hangs on the modules"
    lost = [v.function.title for v in ledger if v.fate is Fate.LOST]
    adapted = sum(v.fate is Fate.ADAPTED for v in ledger)
    small = f"{count(len(ledger), 'function')}: {sum(v.fate is Fate.KEPT for v in ledger)} as before, {adapted} through an adapter"
    if lost:
        return f"Would fall silent: {', '.join(lost[:3])}{' and more' if len(lost) > 3 else ''}", small
    untouched = not interventions_of(page.evaluation.results.design)
    return ("Nothing is touched yet" if untouched else "Nothing the car does is lost"), small


def say_strategies(page: Page) -> tuple[str, str]:
    """Strategies side by side."""
    advice = advise(page.design)
    possible = sum(c.possible for c in advice.ranked)
    if advice.best is None:
        return "Which system is it first?", "strategies follow from the factory system"
    words = advice.best.key.value
    chosen = page.design.strategy
    small = f"{count(possible, 'way')} on this car" + (f"; chosen: {chosen.value}" if chosen else "; none chosen yet")
    return f"Best here: {words}", small


def say_find(page: Page) -> tuple[str, str]:
    """Parts tried on the car."""
    found = page.extra.get("found")
    if found is None or not found.rows:
        return "Find a part", "each one is tried on this car"
    good = sum(trial.fits for _, trial in found.rows)
    return f"{good} of {count(len(found.rows), found.kind)} would go here", "each one was tried on this car"


def say_options(page: Page) -> tuple[str, str]:
    """Options side by side."""
    number = len(page.extra.get("options", ()))
    if number < 2:
        return "One option so far", "copy it, then change the copy; the survey stays common"
    return f"{count(number, 'option')} side by side", "what differs comes first; the survey is common to all"


def say_order(page: Page) -> tuple[str, str]:
    """The order list."""
    rows = page.evaluation.results.order
    if not rows:
        return "Nothing to order yet", "pick parts in Plan; wire, fuses and ends follow from them"
    ready = page.evaluation.verdict.state == "ready"
    small = "everything of it was judged" if ready else f"not yet: {page.evaluation.verdict.detail}"
    words = order_words(rows)
    return f"{words[0].upper()}{words[1:]}", small


def say_harness(page: Page) -> tuple[str, str]:
    """Connectors and pin maps."""
    connectors = page.design.vehicle.connectors
    if not connectors:
        return "No plug mapped yet", "wire identity decides every joint: map the radio's plug first"
    pins = [c for k in connectors for c in k.cavities if c.taken_for is not CavityUse.EMPTY]
    sure = sum(c.use.value is not None and c.use.basis is Basis.MEASURED for c in pins)
    unknown = sum(c.taken_for is None for c in pins)
    small = f"{count(len(connectors), 'connector')}; {f'{unknown} not known' if unknown else 'the rest from papers' if sure < len(pins) else 'nothing from papers alone'}"
    return f"{sure} of {count(len(pins), 'wire')} measured", small


def say_joints(page: Page) -> tuple[str, str]:
    """The joint table."""
    table = page.evaluation.results.joints
    if not table.joints:
        return "No joints yet", "they follow from the pin map and what meets it"
    cuts = sum(j.cuts for j in table.joints)
    small = f"{count(cuts, 'factory wire')} cut" if cuts else "nothing of the factory loom is cut"
    return f"{count(len(table.joints), 'joint')}, about {table.minutes:.0f} min", small


def say_finder(page: Page) -> tuple[str, str]:
    """The wire hunt."""
    hunt = page.design.vehicle.hunt
    if hunt is None:
        return "Which wire is which", "readings narrow it down; the next test is the one that decides most a minute"
    found = page.evaluation.results.hunt
    if not isinstance(found, Found):
        return "The wires do not come out even", "two for each speaker, one for each ground"
    if found.contradiction:
        return "The readings contradict each other", f"{len(found.contradiction)} of them cannot all be true"
    done = f"{len(found.certain)} of {count(len(hunt.speaker_ids), 'pair')} certain"
    many = (
        f"{found.possible:,.0f}".replace(",", " ")
        if found.possible < 1e9
        else f"{found.possible:.0e}".replace("e+", " × 10^")
    )
    return (
        done,
        f"{many} assignments still possible, polarity included" if not found.complete else "every pair has its speaker",
    )


def say_loads(page: Page) -> tuple[str, str]:
    """Loads."""
    load = next(iter(page.evaluation.results.loads), None)
    row = next(iter(page.evaluation.results.channel_loads), None)
    if load is None and row is not None and row.load.value is not None:
        worst = min(
            (r for r in page.evaluation.results.channel_loads if r.load.value is not None and r.lowest.value),
            key=lambda r: (r.load.value or 0.0) / (r.lowest.value or 1.0), default=row,
        )  # fmt: skip
        change = worst.change.value if worst.change else None
        small = (
            "a new place, nothing played here before"
            if change is None
            else "as before"
            if abs(change) < 0.05
            else f"{amount(abs(change), 'db')} {'more' if change > 0 else 'less'} than before, at equal voltage"
        )
        if (
            worst.load.value is not None
            and worst.lowest.value is not None
            and worst.load.value < worst.lowest.value * (1 - 1e-9)
        ):
            small = f"it wants {trimmed(round(worst.lowest.value, 2))} Ω or more"
        return f"{trimmed(round(worst.load.value or 0.0, 2))} Ω on {worst.name.lower()}", small
    if load is None:
        return "No driver on an amplifier yet", "pick both in Plan"
    loads = page.evaluation.results.loads
    if len(loads) > 1:
        total = sum(item.power.value or 0.0 for item in loads)
        low = next((item for item in loads if not item.chosen.permitted), None)
        small = (
            f"{low.channel_name}: {low.chosen.reason}"
            if low
            else "every output with what it drives, and what its wiring reads"
        )
        return f"{count(len(loads), 'output')}, {amount(total, 'w')} in all", small
    chosen = load.chosen
    if chosen.power_w is None:
        return f"{trimmed(chosen.load_ohm)} Ω will not do", chosen.reason
    return f"{trimmed(round(chosen.load_ohm, 2))} Ω, {amount(chosen.power_w, 'w')}", f"{chosen.words}: {chosen.reason}"


def say_signal(page: Page) -> tuple[str, str]:
    """Signal."""
    signal = next(iter(page.evaluation.results.signals), None)
    target = signal.figures.get("target") if signal else None
    if "signal" in page.idle_stages:
        return "The signal way stays as it was", "no converter and no amplifier in this job"
    if target is None or target.value is None:
        return "The levels are not known yet", "they need the radio's output, a converter and a load"
    policy = page.design.policy
    tone_hz = signal.outputs[0].tone_hz(policy.tone_hz) if signal and signal.outputs else policy.tone_hz
    past = f", music up to {amount(policy.overlap_db, 'db')} past full power" if policy.overlap_db else ""
    tone = f"{tone_hz:g} Hz at {amount(policy.tone_dbfs, 'dbfs')}{past}"
    return f"Set the gain for {amount(target.value, 'v')} at the output", tone


def say_supply(page: Page) -> tuple[str, str]:
    """Supply."""
    supply = page.evaluation.results.hardest_supply
    drop = supply.figures["drop"] if supply else None
    if "supply" in page.idle_stages:
        return "Nothing to feed in this job", "no amplifier is added; the factory supply stays as it is"
    fed = next(iter(page.evaluation.results.self_fed), None)
    if supply is None and fed is not None:
        words = f"{fed.wire.value} with a {amount(fed.fuse.value or 0.0, 'a')} fuse"
        return f"{fed.part.name}: {words}", f"a run of its own, about {page.said(fed.length.value, 'm')} from the plan"
    if supply is not None and supply.collapse:
        return (
            f"The supply of {supply.part.name} collapses",
            "no wire and no fuse can be named until that is mended",
        )
    if supply is None or drop is None or drop.value is None or supply.chosen is None:
        return "Nothing to size yet", "the power wire needs a source voltage, a length and a load"
    limit = page.design.policy.drop_limit_v
    hot = supply.figures["hot"].value
    cool = drop.value <= limit + 1e-9 and supply.chosen.fuse_fits
    current = supply.figures["current"].value or 0.0
    small = f"for {supply.part.name}, at {current:.0f} A, full level, engine running"
    if cool and (hot is None or hot > limit + 1e-9):
        heat = f"{amount(hot, 'v')} hot" if hot is not None else "it collapses hot"
        return (
            f"{supply.chosen.wire.label} is enough only while cool: {amount(drop.value, 'v')} of {amount(limit, 'v')}, {heat}",
            small,
        )
    verdict = "is enough" if cool and not supply.limit else "is not enough"
    lost = (
        f"{amount(hot, 'v')} lost hot of {amount(limit, 'v')} allowed"
        if cool and hot is not None
        else f"{amount(drop.value, 'v')} lost of {amount(limit, 'v')} allowed"
    )
    return f"{supply.chosen.wire.label} {verdict}: {lost}", small
