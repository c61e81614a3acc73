"""Where a plan has fuses that want a holder: at the beginning of every run, and at either end of a charge cable."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.document.links import ChargeLink, Fuse, PowerLink
from ohmack.core.document.parts import DistributionBlock
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@record
class FusePlace:
    """One place for a holder: in which cable, to what, at which of its ends; `fuse` is None at the far end."""

    link: PowerLink | ChargeLink
    to: str
    fuse: Fuse | None
    many: int = 1  # beside each other, one a lead


def fuse_places(results: Results) -> list[FusePlace]:
    """The places of a plan's new cables that want a fuse holder; a fused block carries its own.

    Parameters:
        results: the evaluated plan.

    Returns:
        runs first, then the near ends of charge cables, then their far ends.
    """
    design = results.design
    blocks = {block.id for block in design.parts_of(DistributionBlock) if block.fused}
    fed = [(link, design.part(link.to_id)) for link in design.links_of(PowerLink) if link.from_id not in blocks]
    found = [
        FusePlace(link, part.name, link.fuse, link.fuse_count)
        for link, part in fed
        if link.fuse is not None and part is not None
    ]
    found += [FusePlace(c.link, c.battery.name, c.link.fuse) for c in results.charging if c.link.fuse is not None]
    found += [FusePlace(c.link, results.runs[c.link.id].start_name, None) for c in results.charging if c.link.far_fuse]
    return [place for place in found if not place.link.in_car]
