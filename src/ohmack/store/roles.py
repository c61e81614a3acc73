"""What somebody is in a shop."""

from __future__ import annotations

from enum import StrEnum


class Role(StrEnum):
    """The four roles, from the one that may all to the one that only reads."""

    OWNER = "owner"
    INSTALLER = "installer"
    DESK = "front desk"
    GUEST = "guest"

    @property
    def may(self) -> str:
        """In a line what the role is for."""
        return {
            Role.OWNER: "everything, people and the audit list too",
            Role.INSTALLER: "plans, measures, builds and hands over; the catalogue and the shop's policy",
            Role.DESK: "opens jobs, books days, keeps customers and what they wish; reads the rest",
            Role.GUEST: "only reads",
        }[self]
