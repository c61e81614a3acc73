"""Which role may do what: by the name of the route. Whatever is not named here needs the right to work when it
changes something, and the right to read when it does not.
"""

from __future__ import annotations

import re
from enum import Enum

from ohmack.store.roles import Role
from ohmack.web.front_page import FRONT_PAGE


class Right(Enum):
    """What a route asks for."""

    NOBODY = "nobody has to be signed in"
    ANYBODY = "somebody is signed in"
    READ = "read the shop's jobs"
    DESK = "open jobs, book days, keep customers"
    WORK = "plan, measure, build and hand over"
    OWN = "look after the shop and its people"


RIGHTS = {
    Role.OWNER: set(Right),
    Role.INSTALLER: set(Right) - {Right.OWN},
    Role.DESK: {Right.NOBODY, Right.ANYBODY, Right.READ, Right.DESK},
    Role.GUEST: {Right.NOBODY, Right.ANYBODY, Right.READ},
}
OPEN = {"customer_link", "leaflet_style", "sign_in", "let_in", "second_factor", "check_code", "first", "first_owner",
        "joining", "join_shop", "health", "ready", "metrics"}  # fmt: skip
ONES_OWN = {"sign_out", "account", "change_password", "begin_factor", "confirm_factor", "drop_factor", "end_sessions"}
AT_THE_DESK = {"open_job", "new_job", "customer", "archive", "booking", "edit", "choose", "undo", "redo", "add_photo",
               "change_customer", "merge_customers", "change_car", "make_link", "withdraw_link", "accept_quote",
               "take_customer"}  # fmt: skip
OWNERS = {"people", "invite", "person", "change_person", "reset_link", "owner_drops_factor", "limits", "audit",
          "erase_customer", "hand_out_customer"}  # fmt: skip
UNSAFE_READS = {"live", "import_form"}  # they ask a meter on the bench, or lead to what only a worker may do
BESIDES = re.compile(r"(?:use|work/booking)(?:/[a-z_]+)?|option_name|option_note")
DESK_WORDS = "The front desk changes what the job’s front page shows; the plan is the installers’."


def right_for(name: str, method: str) -> Right:
    """What a route asks for."""
    if name in OPEN:
        return Right.NOBODY
    if name in ONES_OWN:
        return Right.ANYBODY
    if name in OWNERS:
        return Right.OWN
    if name in AT_THE_DESK and (method != "GET" or name == "new_job"):
        return Right.DESK
    return Right.READ if method == "GET" and name not in UNSAFE_READS else Right.WORK


def refusal(role: Role, name: str, method: str, path: str | None = None) -> str:
    """Why a role may not do something; empty where it may.

    Parameters:
        role: of who asks.
        name: of the route.
        method: of the request.
        path: which value of a design is changed; None where nobody has looked yet.
    """
    needed = right_for(name, method)
    if needed not in RIGHTS[role]:
        who = {Right.OWN: "the owner", Right.WORK: "an installer", Right.DESK: "the front desk or an installer"}
        return f"You are signed in as {role}: this is for {who.get(needed, 'somebody else')}."
    looked = path is not None and name in ("edit", "choose")
    if role is Role.DESK and looked and path not in FRONT_PAGE and not BESIDES.fullmatch(path or ""):
        return DESK_WORDS
    return ""
