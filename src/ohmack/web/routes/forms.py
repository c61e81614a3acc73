"""Reading forms: the one async step, so that every handler can be a plain function."""

from __future__ import annotations

from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import Depends, Request
from starlette.convertors import Convertor, register_url_convertor
from starlette.datastructures import FormData

from ohmack.formats.entry import TARGET, EntryError, is_whole, read_quantity
from ohmack.web.guard import LARGEST_DRAWN
from ohmack.web.sign_in.form_token import FIELD


class _Number(Convertor[int]):
    """A number in an address: few digits, so that every one of them fits the database."""

    regex = "[0-9]{1,9}"

    def convert(self, value: str) -> int:
        return int(value)

    def to_string(self, value: int) -> str:
        return str(value)


SECRETS = {"password", "old", "new", "code", FIELD}  # never handed back to a page

register_url_convertor("number", _Number())


async def read_form(request: Request) -> FormData:
    """The fields of a form, read once; the token it was made with is none of them."""
    kept: FormData | None = getattr(request.state, "form", None)
    if kept is None:
        whole = await request.form(max_files=1, max_fields=400, max_part_size=LARGEST_DRAWN)
        shown = whole.get(FIELD, "")
        request.state.shown_token = shown if isinstance(shown, str) else ""
        request.state.form = kept = FormData([(k, v) for k, v in whole.multi_items() if k != FIELD])
    return kept


def sent_fields(request: Request) -> list[tuple[str, str]]:
    """What was typed into the form of a request, to be kept on a page that could not take it: no file, no secret;
    nothing where it was not read.
    """
    form: FormData | None = getattr(request.state, "form", None)
    pairs = form.multi_items() if form is not None else []
    return [(k, v) for k, v in pairs if isinstance(v, str) and k not in SECRETS]


async def _read_form(request: Request) -> AsyncIterator[FormData]:
    try:
        yield await read_form(request)
    finally:
        await request.close()  # closes what was uploaded


Form = Annotated[FormData, Depends(_read_form)]


def text(form: FormData, name: str, default: str = "") -> str:
    """One text field."""
    value = form.get(name, default)
    return value if isinstance(value, str) else default


def quantity(form: FormData, name: str, unit: str, words: str) -> float | None:
    """A number with its unit as it was typed; None where nothing was.

    Raises:
        EntryError: it is none; the sentence says of which field.
    """
    typed = text(form, name).strip()
    if not typed:
        return None
    try:
        return read_quantity(typed, unit)
    except EntryError as error:
        raise EntryError(f"{words}: {error}") from None


def number_in(form: FormData, name: str, unit: str, words: str) -> float | None:
    """A number as it was typed, in a unit people may write beside it; a bare one where the unit has no library name.

    Raises:
        EntryError: it is none; the sentence says of which field.
    """
    typed = text(form, name).strip()
    if unit in TARGET or not typed:
        return quantity(form, name, unit, words)
    try:
        return float(typed.replace(",", ".").removesuffix("%").strip())
    except ValueError:
        raise EntryError(f"{words}: {typed[:30]} is no number.") from None


def texts(form: FormData, name: str) -> list[str]:
    """All values of a field."""
    return [value for value in form.getlist(name) if isinstance(value, str)]


def whole(form: FormData, name: str) -> int:
    """A whole number, 0 where there is none."""
    value = text(form, name)
    return int(value) if is_whole(value) else 0


def everything(form: FormData) -> dict[str, list[str]]:
    """All text fields by name."""
    return {name: texts(form, name) for name in form}
