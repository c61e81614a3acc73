"""Where a thing may be put: on the body, and nowhere beside it."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.errors import OutOfRange
from ohmack.core.planning.moving import check_on_body


@pytest.mark.parametrize(("axis", "inside", "outside"), [
    ("x_m", (0.0, 2.0, 4.0), (-0.1, 4.1, None)), ("y_m", (-0.9, 0.0, 0.9), (-0.91, 0.91, None)),
])  # fmt: skip
def test_a_place_lies_on_the_body(
    estate: Design, axis: str, inside: tuple[float, ...], outside: tuple[float | None, ...]
) -> None:
    """From the nose over the car's length, and half its width to either side; a car nobody measured bounds nothing."""
    sized = apply_edits(estate, [
        Edit(path="vehicle/length_m/value", value=4.0), Edit(path="vehicle/width_m/value", value=1.8),
    ])  # fmt: skip
    path = f"vehicle/radio/position/{axis}"
    for value in inside:
        check_on_body(sized, path, value)
    allowed = "0 to 4 m" if axis == "x_m" else "0.9 m left .minus. to 0.9 m right"
    for beside in outside:
        with pytest.raises(OutOfRange, match=allowed):
            check_on_body(sized, path, beside)
    unknown = apply_edits(sized, [
        Edit(path="vehicle/length_m/value", value=None), Edit(path="vehicle/width_m/value", value=None),
    ])  # fmt: skip
    for value in (*inside, *outside):
        check_on_body(unknown, path, value)
