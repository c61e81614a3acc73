"""Volume readings typed or pasted as lines of step and volts."""

from __future__ import annotations

import re

from ohmack.formats.entry import EntryError, read_quantity

MOST = 60


def read_step_rows(text: str) -> list[tuple[float, float]]:
    """Step and volts of every line.

    Parameters:
        text: a line a reading, as `12 1.48`, `12: 1,48 V` or `12<tab>1480 mV`.

    Returns:
        (step, volts) in the order they stand; empty lines are nothing.

    Raises:
        EntryError: a line that is no reading, a step that stands there twice, or more lines than are kept.
    """
    found: dict[float, float] = {}
    for number, line in enumerate((row.strip() for row in text.splitlines()), 1):
        if not line:
            continue
        parts = re.split(r"[:;\t ]+", line, maxsplit=1)
        if len(parts) < 2:
            raise EntryError(f"Line {number}, “{line[:30]}”: a step and what the meter reads, as 12 1.48.")
        try:
            step, volts = read_quantity(parts[0], ""), read_quantity(parts[1], "v")
        except EntryError as error:
            raise EntryError(f"Line {number}, “{line[:30]}”: {error}") from None
        if step in found:
            raise EntryError(f"Step {step:g} stands there twice.")
        found[step] = volts
    if len(found) > MOST:
        raise EntryError(f"At most {MOST} readings are kept.")
    return list(found.items())
