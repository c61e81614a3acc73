"""Outlines as DXF in millimetres, cuts and marks on layers of their own."""

from __future__ import annotations

from io import StringIO

from ohmack.core.physics.outlines import Circle, Line, Outline

MILLIMETRES = 4  # of $INSUNITS


def write_dxf(outline: Outline) -> str:
    """An outline as a drawing.

    Parameters:
        outline: what is cut and marked, y upwards.

    Returns:
        DXF text, release R2010, with the layers `CUT` and `MARK`.
    """
    from ezdxf.filemanagement import new  # half a second that nobody else should wait for

    drawing = new("R2010")
    drawing.header["$INSUNITS"] = MILLIMETRES
    drawing.layers.add("CUT", color=1)
    drawing.layers.add("MARK", color=8)
    space = drawing.modelspace()
    for shape in outline.shapes:
        layer = {"layer": "CUT" if shape.cut else "MARK"}
        if isinstance(shape, Circle):
            space.add_circle((shape.x_mm, shape.y_mm), shape.radius_mm, dxfattribs=layer)
        elif isinstance(shape, Line):
            space.add_line((shape.x1_mm, shape.y1_mm), (shape.x2_mm, shape.y2_mm), dxfattribs=layer)
        else:
            space.add_arc((shape.x_mm, shape.y_mm), shape.radius_mm, shape.start_deg, shape.end_deg, dxfattribs=layer)
    text = StringIO()
    drawing.write(text)
    return text.getvalue()
