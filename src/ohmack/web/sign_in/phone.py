"""A job on the phone in the bay: a square code with its address, which asks who it is."""

from __future__ import annotations

import socket
from contextlib import suppress

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from ohmack.web.render import page_answer, workshop_of
from ohmack.web.settings import is_loopback
from ohmack.web.square_code import square_code

router = APIRouter()


def own_addresses() -> list[str]:
    """The addresses of this machine that others in its network reach, the likeliest first; none where it has none."""
    found: list[str] = []
    with suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        probe.connect(("192.0.2.1", 9))  # sends nothing: it only picks the way out
        found.append(probe.getsockname()[0])
    with suppress(OSError):
        found += [str(a[4][0]) for a in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)]
    return [a for a in dict.fromkeys(found) if not is_loopback(a) and a != "0.0.0.0"]


def _address(request: Request) -> str:
    """Where a phone finds this server; empty where only this machine does."""
    state = request.app.state
    if state.public_address:
        return str(state.public_address)
    if not state.on_the_network:
        return ""
    host = request.url.hostname or ""
    here, local = own_addresses(), is_loopback(host)
    if local and not here:
        return ""
    port = f":{request.url.port}" if request.url.port else ""
    return f"{request.url.scheme}://{here[0] if local else host}{port}"


@router.get("/jobs/{number}/phone", name="phone")
def phone(request: Request, number: str, to: str = "") -> HTMLResponse:
    """The code of one job."""
    record = workshop_of(request).designs.load(workshop_of(request).context, number)
    pages = {"steps": "Steps in the bay", "prove": "Prove", "measure": "Measuring round", "finder": "Wire finder"}
    page = to if to in pages else "steps"
    base = _address(request)
    address = f"{base}/jobs/{record.address}/{page}"
    return page_answer(
        request, "sign_in/phone.html", record=record, address=address if base else "", pages=pages, page=page,
        square=square_code(address) if base else "",
    )  # fmt: skip
