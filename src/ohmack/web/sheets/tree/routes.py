"""The power network given out."""

from __future__ import annotations

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response

from ohmack.core.network.states import State
from ohmack.formats.spice_netlist import netlist
from ohmack.web.render import workshop_of

router = APIRouter()


@router.get("/jobs/{number}/network.cir", name="network_netlist")
def network(request: Request, number: str, state: str = State.RUNNING.name) -> Response:
    """The solved network of one state for another program."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    power = shop.evaluation(record, sweep=False).results.power
    if state not in State.__members__ or State[state] not in power.conditions:
        raise HTTPException(404, "This plan has no network solved in that state.")
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-{state.lower()}.cir"'}
    text = netlist(power, State[state], record.job_number)
    return Response(text, media_type="text/plain; charset=utf-8", headers=headers)
