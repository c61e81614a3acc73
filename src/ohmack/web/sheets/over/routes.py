"""Parts of another job put into this plan."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.planning.coming_over import come_over
from ohmack.core.planning.part_added import said_of
from ohmack.core.wording import count
from ohmack.formats.entry import EntryError
from ohmack.store.database import NotFound
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text, texts

router = APIRouter()


@router.post("/jobs/{number}/over", name="come_over")
def over(request: Request, number: str, form: Form) -> Response:
    """The chosen parts of another job, as the customer's own."""
    shop, address = workshop_of(request), text(form, "other")[:20]

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        chosen = texts(form, "part")
        if not chosen:
            raise EntryError("Choose at least one part.")
        try:
            other = shop.designs.load(shop.context, address)
        except NotFound:
            raise EntryError("There is no such job in this shop.") from None
        edits = come_over(record.design, other.design, chosen)
        many = sum(part.id in chosen for part in other.design.parts)
        words = f"{count(many, 'part')} from {other.address}"
        return edits, said_of(record.design, words, edits)

    return perform(request, number, form, plan)
