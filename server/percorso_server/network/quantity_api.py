"""HTTP API that says how the core understands what is being typed."""

from typing import Literal

from django.http import HttpRequest
from ninja import Router, Schema

from percorso.components.conductors import find_size
from percorso.quantities import FOOT_M, KINDS, LENGTH, parse, show

router = Router(tags=["quantities"])

KindName = Literal["length", "current", "voltage", "resistance", "power", "temperature", "share", "size"]


class Understood(Schema):
    """What typed text means, in both systems where both are used."""

    shown: str


@router.get("/understand", response=Understood)
def understand(request: HttpRequest, kind: KindName, text: str) -> Understood:
    """Read a quantity or a size as a field would; 422 with the hint when it cannot be read."""
    if kind == "size":
        size = find_size(text)
        area = f" · {size.area_mm2:.3g} mm²" if size.series == "awg" else ""
        return Understood(shown=f"{size.name.replace('mm2', 'mm²')}{area}")
    value = parse(text, KINDS[kind])
    feet = f" · {value / FOOT_M:.1f} ft" if kind == LENGTH.name else ""
    return Understood(shown=show(value, KINDS[kind]) + feet)
