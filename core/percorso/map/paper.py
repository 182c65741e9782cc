"""The map on paper: how large it is printed, and which part of it each sheet shows where one sheet does not hold it."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

Paper = Literal["A4", "A3"]
SIDES_MM: Mapping[Paper, tuple[float, float]] = {"A4": (297, 210), "A3": (420, 297)}  # ISO 216:2007
PX_MM = 25.4 / 96  # of CSS
MARGIN_MM = 10  # that office printers leave white, common practice; the marks to cut along stand there
CAPTION_MM = 6  # above each sheet's part: of which vehicle, and which sheet it is
LARGEST, SMALLEST = 1.25, 0.85  # times its size on the screen: labels of 9.5 px are then at least 6 pt


@dataclass(frozen=True)
class Tile:
    """The part of a map that one sheet shows, px of the map."""

    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class MapSheets:
    """A map of ``width`` by ``height`` px on sheets of paper, row by row; ``scale`` is mm of paper to a px."""

    paper: Paper
    landscape: bool
    width: float
    height: float
    scale: float
    columns: int
    rows: int
    tiles: tuple[Tile, ...]


def sheets_of(width: float, height: float, paper: Paper) -> MapSheets:
    """A map on sheets that are cut and laid edge to edge: as few as can be read, upright where that takes fewer."""
    return min(
        (_sheets(width, height, paper, landscape) for landscape in (True, False)),
        key=lambda each: (len(each.tiles), -each.scale),
    )


def _sheets(width: float, height: float, paper: Paper, landscape: bool) -> MapSheets:
    long, short = SIDES_MM[paper]
    across_mm, down_mm = (long, short) if landscape else (short, long)
    room = across_mm - 2 * MARGIN_MM, down_mm - 2 * MARGIN_MM - CAPTION_MM
    times = min(LARGEST, *(mm / PX_MM / px for mm, px in zip(room, (width, height), strict=True)))
    scale = max(times, SMALLEST) * PX_MM
    wide, high = room[0] / scale, room[1] / scale
    columns, rows = (max(1, math.ceil(size / of - 1e-9)) for size, of in ((width, wide), (height, high)))
    tiles = [
        Tile(x * wide, y * high, min(wide, width - x * wide), min(high, height - y * high))
        for y in range(rows)
        for x in range(columns)
    ]
    return MapSheets(paper, landscape, width, height, scale, columns, rows, tuple(tiles))
