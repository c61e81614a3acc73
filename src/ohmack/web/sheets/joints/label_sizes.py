"""Sizes labels are printed in: a sheet cut with scissors, or a label printer's tape, one label a page."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class LabelSize:
    """One size; a tape's labels have their width and height [mm], those of a sheet stand three across."""

    key: str
    words: str
    width_mm: float | None = None
    height_mm: float | None = None
    text_pt: float = 9.0

    @property
    def style(self) -> str:
        """Print rules of this size."""
        if self.width_mm is None or self.height_mm is None:
            return (
                "@media print{.labels{grid-template-columns:repeat(3,60mm);gap:0}"
                ".labels li{height:14mm;border:0.2mm dashed #999;border-radius:0;font-size:9pt;overflow:hidden;"
                "grid-template-columns:9mm 1fr;padding:1mm 2mm;align-content:center;line-height:1.2}"
                ".labels li .wire-swatch{width:8mm}}\n"
            )
        inner_mm = self.height_mm - 2
        return (
            f"@page{{size:{self.width_mm:g}mm {self.height_mm:g}mm;margin:1mm}}\n"
            "@media print{.sheet{padding:0}.say,.empty,.law{display:none!important}"
            ".labels{display:block}"
            f".labels li{{height:{inner_mm:g}mm;border:0;padding:0 1mm;break-after:page;font-size:{self.text_pt:g}pt;"
            "overflow:hidden;grid-template-columns:9mm 1fr;align-content:center;line-height:1.15}"
            f".labels li .wire-swatch{{width:8mm;height:{min(5.0, inner_mm / 2):g}mm}}}}\n"
        )


SIZES = (
    LabelSize("sheet", "a sheet to cut, three across"),
    LabelSize("12mm", "12 mm tape, 60 mm long", 60.0, 12.0, 8.0),
    LabelSize("24mm", "24 mm tape, 60 mm long", 60.0, 24.0, 11.0),
    LabelSize("flag", "wire flags, 50 by 25 mm", 50.0, 25.0, 9.0),
)


def size_of(key: str) -> LabelSize:
    """A size by its key; the sheet where nobody knows it."""
    return next((size for size in SIZES if size.key == key), SIZES[0])
