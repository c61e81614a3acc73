"""The edits of Prove: readings taken, corrected, accepted; gates passed with a reason; faults known and mended."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Basis, Verified
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.proof import Fault, Proof, Symptom
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.results import Results
from ohmack.core.prove.car import Setting
from ohmack.core.prove.checks import Check
from ohmack.core.prove.free_probing import free_check
from ohmack.core.prove.judged import Judged, ProofState, State
from ohmack.core.prove.points import plus_of
from ohmack.core.prove.probes import Quantity
from ohmack.core.prove.search import Suspect
from ohmack.core.prove.windows import meter_sigma
from ohmack.core.record import record
from ohmack.core.wording import amount

READINGS = at_the(Proof, lambda it: it.readings)
DEVIATIONS = at_the(Proof, lambda it: it.deviations)
JUMPS = at_the(Proof, lambda it: it.jumps)
MENDS = at_the(Proof, lambda it: it.mends)
FAULTS = at_the(Proof, lambda it: it.faults)
SYMPTOMS = at_the(Proof, lambda it: it.symptoms)
NOT_SYMPTOMS = at_the(Proof, lambda it: it.not_symptoms)
LEADS_SIGMAS = 4.0  # of the meter: by so much two readings of the same leads differ, touch by touch; common practice
MOST = {
    Quantity.OHM: 1e8, Quantity.DC_V: 60.0, Quantity.DROP_MV: 20_000.0, Quantity.CURRENT: 1000.0,
    Quantity.ASLEEP_MA: 50_000.0, Quantity.AC_V: 200.0, Quantity.DISTORTION: 100.0, Quantity.HEAT: 200.0,
    Quantity.STEP: 1000.0,
}  # fmt: skip  # nothing in a car reads more; common practice
LIKE_VOLTS_MV, LIKE_MILLIVOLTS_V = 1.0, 60.0  # a drop under, volts over, were read in the other unit


@record
class Read:
    """What somebody read, and with what."""

    value: float | None = None
    over: bool = False
    passed: bool | None = None
    current_a: float | None = None
    instrument: str = ""
    range: str = ""
    zero_ohm: float = 0.0
    who: str = ""
    note: str = ""
    when: str = ""


def asked(results: Results, check_id: str, searching: bool = False) -> Check:
    """The check an id names.

    Parameters:
        results: the evaluated plan.
        check_id: of a check of the plan of proof, of one only a search asks for, or of two points chosen freely.
        searching: whether a fault is searched for, in a car that was powered already; at the bench it always is.

    Returns:
        the check.

    Raises:
        NotPossible: the plan does not ask for it any more, or its gate is not reached.
    """
    proof = results.proof
    judged = proof.named(check_id)
    if judged is None:
        searched = next((c for c in results.finder.checks if c.id == check_id), None)
        found = searched or free_check(results, check_id)
        if found is None:
            raise NotPossible("check", "The plan does not ask for this check any more: it has changed.")
        return found
    gate = next(g for g in proof.gates if g.number == judged.check.gate)
    if gate.waits and not searching and results.design.proof.practice is None:
        before = next(g for g in proof.gates if not g.behind)
        raise NotPossible(
            "check", f"Not before “{before.title}” is through: {len(before.left)} of its checks are open. Or pass it"
            " with a reason.",
        )  # fmt: skip
    return judged.check


def take_reading(design: Design, check: Check, read: Read) -> tuple[Edit, ...]:
    """Note one reading; a second one of the same check corrects the first, which stays.

    Parameters:
        design: the design.
        check: which check.
        read: what was read.

    Returns:
        the edits.

    Raises:
        NotPossible: nothing was said, or no meter in a car shows that.
    """
    if check.is_read:
        _refuse_nonsense(check, read)
    elif read.passed is None:
        raise NotPossible("passed", "Say whether it is good.")
    before = [r for r in design.proof.readings if r.check == check.id]
    tree = {
        "id": free_id("read", {r.id for r in design.proof.readings}), "check": check.id,
        "value": read.value if check.is_read and not read.over else None,
        "passed": None if check.is_read else read.passed, "over": check.is_read and read.over,
        "current_a": read.current_a, "instrument": read.instrument[:120], "range": read.range[:120],
        "zero_ohm": read.zero_ohm, "when": read.when, "who": read.who[:120], "note": read.note[:2000],
        "corrects": before[-1].id if before else "",
    }  # fmt: skip
    return (Edit(op="add", path=READINGS, value=tree),)


def _refuse_nonsense(check: Check, read: Read) -> None:
    quantity = check.probe.quantity
    if read.over:
        if quantity is not Quantity.OHM:
            raise NotPossible("value", "Only an ohmmeter shows no connection. Turn the range up and read again.")
        return
    if read.value is None:
        raise NotPossible("value", "Enter what the meter shows.")
    value, unit = read.value, quantity.unit
    if quantity is Quantity.OHM and value < 0:
        raise NotPossible("value", "No resistance is below nothing: hold the leads together and zero the meter.")
    if quantity is Quantity.OHM and value < read.zero_ohm - LEADS_SIGMAS * meter_sigma(quantity, read.zero_ohm):
        raise NotPossible("zero", f"It reads less than its own leads, {amount(read.zero_ohm, 'ohm')}: zero them anew.")
    if quantity is not Quantity.DC_V and quantity is not Quantity.DROP_MV and value < 0:
        raise NotPossible("value", f"{amount(value, unit)} cannot be: it is never below nothing.")
    if quantity is Quantity.DC_V and abs(value) > LIKE_MILLIVOLTS_V:
        raise NotPossible("value", f"{value:g} V is in no car: were it millivolts, type {value / 1000:g}.")
    if quantity is Quantity.DROP_MV and 0 < abs(value) < LIKE_VOLTS_MV:
        raise NotPossible("value", f"{value:g} mV is under what a meter shows: were it volts, type {value:g} V.")
    if abs(value) > MOST[quantity]:
        raise NotPossible("value", f"{amount(value, unit)} is more than any car shows there: look at the range.")


def accept(design: Design, proof: ProofState, check_id: str, by: str, reason: str, when: str) -> tuple[Edit, ...]:
    """Accept a check as it stands, or as not made, in somebody's name and for a reason.

    Raises:
        NotPossible: no name, no reason, nothing to accept, or something nobody may accept.
    """
    judged = proof.named(check_id)
    if judged is None:
        raise NotPossible("check", "The plan does not ask for this check any more: it has changed.")
    if judged.state is State.PASSED:
        raise NotPossible("check", "It is as predicted: there is nothing to accept.")
    refuse_nameless(by, reason)
    tree = {
        "id": free_id("dev", {d.id for d in design.proof.deviations}), "check": check_id,
        "reading": judged.reading.id if judged.reading is not None else "", "by": by.strip()[:120],
        "reason": reason.strip()[:2000], "when": when,
    }  # fmt: skip
    return (Edit(op="add", path=DEVIATIONS, value=tree),)


def jump(design: Design, proof: ProofState, number: int, by: str, reason: str, when: str) -> tuple[Edit, ...]:
    """Pass a gate with checks open, in somebody's name and for a reason; what is open stays on the list.

    Raises:
        NotPossible: no such gate, one before it is not behind, nothing is open, no name or no reason.
    """
    gate = next((g for g in proof.gates if g.number == number), None)
    if gate is None or gate.waits:
        raise NotPossible("gate", "The gates are passed one after the other.")
    if gate.passed:
        raise NotPossible("gate", "Nothing of it is open: go on.")
    refuse_nameless(by, reason)
    tree = {
        "id": free_id("jump", {j.id for j in design.proof.jumps}), "gate": number,
        "open": [j.check.id for j in gate.left][:400], "by": by.strip()[:120], "reason": reason.strip()[:2000],
        "when": when,
    }  # fmt: skip
    return (Edit(op="add", path=JUMPS, value=tree),)


def refuse_nameless(by: str, reason: str) -> None:
    """What stands in somebody's name has a name and a reason.

    Raises:
        NotPossible: one of them is missing.
    """
    if not by.strip():
        raise NotPossible("by", "Say who stands for it: a name is kept with it, and stands on every paper.")
    if len(reason.strip()) < 3:
        raise NotPossible("reason", "Say why: whoever reads the papers asks.")


def withdraw(design: Design, what: str) -> tuple[Edit, ...]:
    """Take back a deviation or a passed gate, by id."""
    for path, known in ((DEVIATIONS, design.proof.deviations), (JUMPS, design.proof.jumps)):
        if any(one.id == what for one in known):
            return (Edit(op="remove", path=f"{path}/{what}"),)
    return ()


def say_symptom(design: Design, symptom: str, said: str) -> tuple[Edit, ...]:
    """Note that a symptom is there, is not, or that nobody looked.

    Raises:
        NotPossible: no such symptom.
    """
    if symptom not in {s.value for s in Symptom}:
        raise NotPossible("symptom", "Choose one of the symptoms.")
    own = Symptom(symptom)
    there = [s for s in design.proof.symptoms if s is not own] + ([own] if said == "yes" else [])
    not_there = [s for s in design.proof.not_symptoms if s is not own] + ([own] if said == "no" else [])
    return (
        Edit(path=SYMPTOMS, value=[s.value for s in there]),
        Edit(path=NOT_SYMPTOMS, value=[s.value for s in not_there]),
    )


def mended(
    design: Design, proof: ProofState, faults: Iterable[Fault], words: str, who: str, when: str
) -> tuple[Edit, ...]:
    """Note that faults were mended: what said them is made again, and the search begins anew.

    Parameters:
        design: the design.
        proof: how its proof stands.
        faults: what was found, or is known and was left in.
        words: what was done; empty for what was wrong.
        who: by whom.
        when: date.

    Returns:
        the edits.

    Raises:
        NotPossible: nothing was found to mend.
    """
    gone = tuple(faults)
    if not gone:
        raise NotPossible("fault", "Nothing is found yet: another reading decides.")
    known = [f for f in design.proof.faults if any((f.kind, f.at) == (g.kind, g.at) for g in gone)]
    said = {j.check.id: None for j in proof.checks if j.state in (State.OFF, State.ACCEPTED) and j.reading is not None}
    if known:  # what was read while it was counted with is as predicted, and will not be any more
        last = {r.check: r for r in design.proof.readings}
        said |= dict.fromkeys(name for name, r in last.items() if proof.named(name) is not None and not r.passed)
    found = []
    taken = {m.id for m in design.proof.mends}
    for fault in gone:
        name = free_id("mend", taken)
        taken.add(name)
        tree = {
            "id": name, "kind": fault.kind.value, "at": fault.at, "words": (words.strip() or fault.kind.value)[:2000],
            "after": len(design.proof.readings), "checks": list(said)[:400], "when": when, "who": who[:120],
        }  # fmt: skip
        found.append(Edit(op="add", path=MENDS, value=tree))
    out = [Edit(op="remove", path=f"{FAULTS}/{f.id}") for f in known]
    return (*found, *out, Edit(path=SYMPTOMS, value=[]), Edit(path=NOT_SYMPTOMS, value=[]))


def leave_in(design: Design, suspect: Suspect) -> tuple[Edit, ...]:
    """Put what was found into the plan as it stands, so that every figure counts it until it is mended.

    Raises:
        NotPossible: nothing was found yet.
    """
    if not suspect.faults:
        raise NotPossible("fault", "Nothing was found yet.")
    taken = {f.id for f in design.proof.faults}
    found = []
    for candidate in suspect.faults:
        name = free_id("fault", taken)
        taken.add(name)
        tree = {**candidate.fault.model_dump(mode="json"), "id": name}
        found.append(Edit(op="add", path=FAULTS, value=tree))
    return tuple(found)


# -- what was read, planned with ------------------------------------------------------------------------------------

TAKEN_OVER = (Quantity.DC_V, Quantity.OHM, Quantity.STEP, Quantity.ASLEEP_MA)


@record
class FactRead:
    """A fact of the car that a reading is of: its path, what it is called, and the value to put there."""

    path: str
    words: str
    value: object
    with_basis: bool = True  # whether where it is from is kept with it; a part's own fields are plain


def fact_of(results: Results, judged: Judged) -> FactRead | None:
    """The fact of the survey a reading is of.

    Parameters:
        results: the evaluated plan.
        judged: a check with its reading.

    Returns:
        where it goes; None where it is a mixture of several, or of none.
    """
    check, value = judged.check, judged.value
    if value is None:
        return None
    supply = results.design.vehicle.supply
    first = supply.batteries[0].id
    posts = {
        Setting.RUNNING: at(supply, lambda it: it.post_running_v), Setting.ON: at(supply, lambda it: it.post_resting_v)
    }  # fmt: skip
    volts = check.probe.quantity is Quantity.DC_V and check.probe.plus == f"{first} plus"
    if volts and check.probe.minus == f"{first} minus" and check.setting in posts:
        return FactRead(posts[check.setting], f"the post, {check.setting.value}", round(value, 2))
    if check.probe.quantity is Quantity.ASLEEP_MA:
        return FactRead(at(supply, lambda it: it.standby_current_a), "the current asleep", round(value / 1000, 4))
    if check.probe.quantity is Quantity.STEP:
        sources = (*results.design.vehicle.sources, *results.design.parts_of(HeadUnit))
        source = next((s for s in sources if s.id == check.probe.subject), None)
        if source is None:
            return None
        kept = not isinstance(source, HeadUnit)
        return FactRead(at(source, lambda it: it.clip_step), "the last clean step", f"{value:g}", kept)
    if check.probe.quantity is Quantity.OHM and not check.nothing:
        for load in results.loads:
            if plus_of(load.scope) == check.probe.plus:
                path = at(load.link, lambda it: it.reads_ohm)
                return FactRead(path, f"what {load.channel_name} reads", round(value, 2))
    return None


def take_over(results: Results, judged: Judged, when: str) -> tuple[Edit, ...]:
    """Plan with what was read.

    Raises:
        NotPossible: it is not a reading of one fact of the survey.
    """
    found = fact_of(results, judged)
    if found is None:
        raise NotPossible("check", "This reading is of several things at once: no fact of the survey stands for it.")
    if not found.with_basis:
        return (Edit(path=found.path, value=found.value),)
    fact = {"value": found.value, "basis": Basis.MEASURED.value, "how": Verified.METER.value, "when": when}
    return (Edit(path=found.path, value=fact),)
