"""What the front page of a job shows and lets change: who and what car it is, and what is wished for."""

from __future__ import annotations

from ohmack.core.document.design import Intake

CAR = ("make", "model", "year", "body", "hand_of_drive", "powertrain", "supply/kind")
FRONT_PAGE = (
    "title", *(f"intake/{name}" for name in Intake.model_fields), *(f"vehicle/{name}" for name in CAR), "use/listens_h",
)  # fmt: skip
