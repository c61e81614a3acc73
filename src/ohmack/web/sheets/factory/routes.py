"""What the factory system's page asks for: answers, modules, links, pairs, kinds and tell-tales of one car."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Band, ChannelPlace, Tier
from ohmack.core.factory.system import DONT_KNOW, questions
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.pair_rows import PairRow, add_pairs
from ohmack.core.planning.speaker_sets import add_sets, sets_to_add
from ohmack.core.planning.survey import link_modules, new_tell, new_variant
from ohmack.core.planning.system_answers import answer_question, take_verdict
from ohmack.core.wording import count
from ohmack.formats.entry import EntryError, read_quantity
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text
from ohmack.web.sheets.factory.view import PAIR_ROWS

router = APIRouter()


@router.post("/jobs/{number}/answer", name="answer")
def answer(request: Request, number: str, form: Form) -> Response:
    """Answer a question of the questionnaire, or take an answer back."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        question_id, words = text(form, "question"), text(form, "answer")
        question = next((q for q in questions(record.design.vehicle) if q.id == question_id), None)
        if question is None:
            raise EntryError("That question is not asked of this car.")
        if text(form, "back"):
            return [Edit(op="remove", path=f"vehicle/answers/{question_id}")], "answer taken back"
        if words not in (*question.answers, DONT_KNOW):
            raise EntryError("Choose one of the answers.")
        return answer_question(
            record.design, question, words, text(form, "who")[:120], today()
        ), f"{question.text} {words}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/take-verdict", name="take_verdict")
def verdict(request: Request, number: str, form: Form) -> Response:
    """Enter the questionnaire's verdict as the fact, with the modules of its kind."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        return take_verdict(record.design, text(form, "who")[:120], today()), "factory system by questionnaire"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/modules", name="lay_modules")
def lay_modules(request: Request, number: str, form: Form) -> Response:
    """Lay in the modules the kind of system on file usually has."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        tier = record.design.vehicle.radio.tier.value or Tier.PLAIN
        edits = modules_for(record.design, tier)
        if not edits:
            raise EntryError(
                f"There is nothing to put in: a {tier.value} has no further module, or they are there already."
            )
        return edits, f"modules of a {tier.value} laid in"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/join", name="join")
def join(request: Request, number: str, form: Form) -> Response:
    """Join two modules."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        ends = text(form, "from_id"), text(form, "to_id")
        return link_modules(record.design, text(form, "kind"), *ends), "modules joined"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/pairs", name="add_pairs")
def pairs(request: Request, number: str, form: Form) -> Response:
    """Add output pairs to the radio or an amplifier, as many as rows were filled in."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        rows = [row for n in range(PAIR_ROWS) if (row := _pair_row(form, n)) is not None]
        if not rows:
            raise EntryError("Fill in at least one row: where it plays.")
        return add_pairs(record.design, text(form, "source"), rows), f"{count(len(rows), 'output pair')} added"

    return perform(request, number, form, plan)


def _pair_row(form: Form, n: int) -> PairRow | None:
    """A row as it was typed; None for an empty one."""
    place, band = text(form, f"place-{n}"), text(form, f"band-{n}") or Band.FULL.value
    ohms, speaker_id = text(form, f"reads-{n}").strip(), text(form, f"speaker-{n}")
    if not place:
        if ohms or speaker_id:
            raise EntryError(f"Row {n + 1}: say where this pair plays.")
        return None
    try:
        known = ChannelPlace(place), Band(band)
    except ValueError as error:
        raise EntryError(f"Row {n + 1}: choose a place and a band from the list.") from error
    try:
        return PairRow(*known, speaker_id, read_quantity(ohms, "ohm") if ohms else None)
    except EntryError as error:
        raise EntryError(f"Row {n + 1}, reads: {error}") from error


@router.post("/jobs/{number}/speaker-sets", name="add_speaker_sets")
def speaker_sets(request: Request, number: str, form: Form) -> Response:
    """Put in what the works fitted, set by set, with its pairs."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        chosen = {one.key: text(form, f"set-{one.key}") for one in sets_to_add(record.design)}
        edits = add_sets(record.design, chosen)
        if not edits:
            raise EntryError("Choose at least one set.")
        return edits, f"{count(sum(bool(how) for how in chosen.values()), 'set')} of speakers put in"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/variant", name="add_variant")
def variant(request: Request, number: str, form: Form) -> Response:
    """Note a kind this car was sold in."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name = text(form, "name").strip()
        if not name:
            raise EntryError("Say what this kind is called: base, premium, from 2016.")
        return new_variant(record.design, name[:120], text(form, "tier")), f"kind {name} added"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/tell", name="add_tell")
def tell(request: Request, number: str, form: Form) -> Response:
    """Note a tell-tale of this car."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        question = text(form, "question").strip()
        if not question:
            raise EntryError("Write the tell-tale as a question that is answered with yes or no.")
        return new_tell(record.design, question[:120]), "tell-tale added"

    return perform(request, number, form, plan)
