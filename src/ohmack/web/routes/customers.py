"""Customers and their cars: the list, one of them, merged, handed out, erased."""

from __future__ import annotations

import json
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from ohmack.formats.entry import is_whole
from ohmack.store.customers import CustomerRow
from ohmack.store.database import Conflict, NotFound
from ohmack.web.clock import today
from ohmack.web.render import go, page_answer, workshop_of
from ohmack.web.routes.forms import Form, everything, text, whole

router = APIRouter()
CHANGED_KEPT = "Somebody changed it meanwhile. What you typed is still here; keep it to put it on top."
ERASE = "erase"


@router.get("/customers", name="customers")
def customers(request: Request, words: str = "", page: str = "1") -> HTMLResponse:
    """The shop's customers, by name."""
    shop = workshop_of(request)
    found = shop.customers.list(shop.context, words[:80], int(page) if is_whole(page) else 1)
    return page_answer(request, "customers.html", found=found, words=words[:80])


def _page(request: Request, customer_id: int, status: int = 200, **values: Any) -> HTMLResponse:
    shop = workshop_of(request)
    record = shop.customers.get(shop.context, customer_id)
    shown: dict[str, Any] = {"problems": {}, "typed": {}, "like": [], "asked": "", "message": ""} | values
    return page_answer(request, "customer.html", status, customer=record, **shown)


@router.get("/customers/{customer_id:number}", name="customer_page")
def customer_page(request: Request, customer_id: int, like: str = "") -> Response:
    """One customer, and whom it may be merged with."""
    shop = workshop_of(request)
    record = shop.customers.get(shop.context, customer_id)
    if record.id != customer_id:
        return go(f"/customers/{record.id}")
    return _page(request, customer_id, like=_like(request, customer_id, like), asked=like[:80])


def _like(request: Request, customer_id: int, words: str) -> list[CustomerRow]:
    """Others a customer may be the same person as."""
    shop = workshop_of(request)
    rows = shop.customers.list(shop.context, words[:80]).rows if words.strip() else ()
    return [row for row in rows if row.id != customer_id][:12]


@router.post("/customers/{customer_id:number}", name="change_customer")
def change_customer(request: Request, customer_id: int, form: Form) -> Response:
    """Name, phone, note."""
    shop, name = workshop_of(request), text(form, "name").strip()[:120]
    if not name:
        return _page(request, customer_id, 422, problems={"name": "Say who it is."}, typed=everything(form))
    phone, note = text(form, "phone").strip()[:40], text(form, "note").strip()[:500]
    try:
        shop.customers.change(shop.context, customer_id, whole(form, "version"), name, phone, note)
    except Conflict:
        return _page(request, customer_id, 409, problems={"name": CHANGED_KEPT}, typed=everything(form))
    return go(f"/customers/{customer_id}")


@router.post("/customers/{customer_id:number}/cars/{car_id:number}", name="change_car")
def change_car(request: Request, customer_id: int, car_id: int, form: Form) -> Response:
    """Plate and chassis number; both may stay empty."""
    shop = workshop_of(request)
    plate, chassis = text(form, "plate").strip().upper()[:20], text(form, "chassis").strip().upper()[:40]
    try:
        shop.customers.change_car(shop.context, car_id, whole(form, "version"), plate, chassis)
    except Conflict:
        typed = {f"car-{car_id}-{name}": [value] for name, value in (("plate", plate), ("chassis", chassis))}
        return _page(request, customer_id, 409, problems={f"car-{car_id}": CHANGED_KEPT}, typed=typed)
    return go(f"/customers/{customer_id}")


@router.post("/customers/{customer_id:number}/merge", name="merge_customers")
def merge_customers(request: Request, customer_id: int, form: Form) -> Response:
    """Two records, one person."""
    shop, into = workshop_of(request), whole(form, "into")
    try:
        shop.customers.merge(shop.context, customer_id, into)
    except NotFound:
        like, problems = text(form, "like"), {"merge": "Choose whom it is the same as."}
        found = _like(request, customer_id, like)
        return _page(request, customer_id, 422, problems=problems, like=found, asked=like[:80])
    return go(f"/customers/{into}")


@router.get("/customers/{customer_id:number}/data", name="hand_out_customer")
def hand_out_customer(request: Request, customer_id: int) -> Response:
    """All that is stored of a customer, as a file."""
    shop = workshop_of(request)
    found = shop.customers.hand_out(shop.context, customer_id)
    name = f'attachment; filename="customer-{customer_id}-{today()}.json"'
    whole_ = json.dumps(found, ensure_ascii=False, indent=1)
    return Response(whole_, media_type="application/json", headers={"Content-Disposition": name})


@router.post("/customers/{customer_id:number}/erase", name="erase_customer")
def erase_customer(request: Request, customer_id: int, form: Form) -> Response:
    """The jobs stay, the name goes; it takes a word typed by hand, for there is no way back."""
    if text(form, "sure").strip().lower() != ERASE:
        words = f"Type “{ERASE}” to do it: there is no way back."
        return _page(request, customer_id, 422, problems={"sure": words}, typed=everything(form))
    shop = workshop_of(request)
    count = shop.customers.erase(shop.context, customer_id)
    return _page(request, customer_id, message=f"Erased, from {count} revisions too. Backups hold it until they end.")
