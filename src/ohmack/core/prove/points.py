"""What the points of a car are called: terminals, ends of leads and of speaker pairs, the body."""

from __future__ import annotations

BODY = "body"  # where the first battery's strap meets it
PLUS, MINUS = "amplifier +", "amplifier −"


_ITSELF = "-itself"


def itself(battery_id: str) -> str:
    """What a battery above 12 V is called at its converter's input; its own id stands for what the converter gives."""
    return f"{battery_id}{_ITSELF}"


def is_itself(name: str) -> bool:
    """Whether a name is that of a battery above 12 V at its converter's input."""
    return name.endswith(_ITSELF)


def battery_of(name: str) -> str:
    """The id of the battery a post is of, whichever way it is called."""
    return name.removesuffix(_ITSELF)


def plus_of(scope: str) -> str:
    """The point a meter's red probe sits at on an output."""
    return f"{scope} {PLUS}"


def minus_of(scope: str) -> str:
    """Its other end."""
    return f"{scope} {MINUS}"


def remote_of(part_id: str) -> str:
    """The terminal of a part's switch-on."""
    return f"{part_id} remote"


def alone_of(scope: str, coil: str) -> tuple[str, str]:
    """The two terminals of a coil with its leads off."""
    return f"{scope} {coil} alone +", f"{scope} {coil} alone −"


def near_of(link_id: str) -> str:
    """The end of a lead where it begins."""
    return f"{link_id} near"


def far_of(link_id: str) -> str:
    """Its other end."""
    return f"{link_id} far"
