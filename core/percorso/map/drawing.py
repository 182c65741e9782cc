"""The map as SVG: the vehicle in one state, with its currents, a legend and a scale, for screen and paper."""

import math
from xml.etree.ElementTree import Element, SubElement, tostring

from percorso.map.layout import COLUMN, EDGE, ROW
from percorso.map.picture import (
    FLOWS_A,
    DrawnAs,
    DrawnPoint,
    DrawnRow,
    DrawnSegment,
    Picture,
    Stroke,
    line_px,
)
from percorso.quantities import CURRENT, show
from percorso.vehicle.model import Stage
from percorso.vehicle.states import State

LEAST_PX = 600  # that the legend needs
TEXT_PX = 6.2  # that a letter takes at most of 11 px, from memory, so that what is cut off never overlaps
LEGEND = (("0.1 A", 0.1), ("1 A", 1.0), ("10 A", 10.0), ("100 A", 100.0))
STYLE = """
svg{--ink:#1d2427;--paper:#fff;--box:#fff;--faint:#c8c0ae;--dim:#5c615f;--plus:#0d5c74;--minus:#85530f;
--between:#5d3a93;--assumed:#7d6420}
@media (prefers-color-scheme:dark){svg{--ink:#e9e5db;--paper:#13181a;--box:#1b2123;--faint:#4a5255;--dim:#a3aaa9;
--plus:#63bdd6;--minus:#dba858;--between:#bfa2f2;--assumed:#d0b25c}}
.paper{fill:var(--paper)}.post{fill:var(--ink)}
text{font:11px system-ui,sans-serif;fill:var(--ink)}.title{font-size:15px;font-weight:600}
.label{font-size:9.5px;text-anchor:middle}
.dim{fill:var(--dim)}.new{font-weight:700}.amps{text-anchor:end}
.line{fill:none;stroke-linecap:butt}.outline{fill:var(--paper)}.stroke{fill:none}
.supply,.across{stroke:var(--plus)}.return{stroke:var(--minus)}.between{stroke:var(--between)}
.idle{stroke:var(--faint)}.point{fill:var(--paper);stroke-width:1.2}
.device rect{fill:var(--box);stroke:var(--ink)}.device.on rect{fill:var(--ink)}.device.on text{fill:var(--paper)}
.assumed{fill:var(--assumed)}.device.assumed rect{stroke:var(--assumed);stroke-dasharray:5 3}
.pale rect{stroke:var(--faint)}.pale text{fill:var(--dim)}
""".strip().replace("\n", "")


def heading_of(vehicle_name: str, stage: Stage, state: State) -> str:
    """What stands above a map: of which vehicle, and when."""
    return f"{vehicle_name}, as {stage}, {state}"


def size_of(picture: Picture) -> tuple[float, float]:
    """Width and height of a drawn page with its heading and its legend, px."""
    return max(picture.width, LEAST_PX), picture.height + 2 * ROW


def drawn(picture: Picture, heading: str) -> str:
    """A page of the map as an SVG document; the same byte for byte for the same page."""
    width, height = size_of(picture)
    svg = Element("svg", {"xmlns": "http://www.w3.org/2000/svg", "viewBox": f"0 0 {width:g} {height:g}"})
    svg.attrib |= {"width": f"{width:g}", "height": f"{height:g}", "role": "img"}
    SubElement(svg, "title").text = heading
    SubElement(svg, "style").text = STYLE
    _put(svg, "rect", "paper", width=width, height=height)
    _text(svg, heading, EDGE, 28, "title", most_px=width - 2 * EDGE)
    for post in picture.posts:
        _put(svg, "rect", "post", x=post.x, y=post.y, width=post.width, height=post.height)
        _text(svg, post.sign, post.x + post.width / 2, post.y - 4, "label")
    for segment in picture.segments:
        _segment(svg, segment)
    for point in picture.points:
        _point(svg, point)
    for row in picture.rows:
        _row(svg, row, *picture.devices)
    _legend(svg, picture.height + ROW)
    return tostring(svg, encoding="unicode") + "\n"


def _segment(svg: Element, drawn: DrawnSegment) -> None:
    group = SubElement(svg, "g", {"data-segment": drawn.id})
    amps = show(abs(drawn.result.current_a or 0.0), CURRENT)
    SubElement(group, "title").text = f"{drawn.designation}, {drawn.description}: {amps}"
    _stroke(group, drawn.line)
    for kind, path in (("outline", drawn.mark.outline), ("stroke", drawn.mark.stroke)):
        if path:
            mark = _put(group, "path", f"{kind} {drawn.line.drawn_as}", stroke_width=1.4)
            mark.attrib |= {"d": path, "transform": f"translate({drawn.x:g},{drawn.y:g})"}
    style = "label" + (" new" if drawn.is_new else "") + (" dim" if drawn.line.drawn_as == "idle" else "")
    style += " assumed" if drawn.known == "assumed" else ""
    _text(group, drawn.designation, drawn.x, drawn.y - 11, style, most_px=COLUMN - 4)


def _point(svg: Element, drawn: DrawnPoint) -> None:
    if drawn.bar:
        _stroke(svg, drawn.bar)
    dot = _put(svg, "circle", f"point {drawn.drawn_as}", cx=drawn.x, cy=drawn.y, r=2.6)
    SubElement(dot, "title").text = drawn.name


def _row(svg: Element, row: DrawnRow, left: float, right: float) -> None:
    ends = [each for each in (row.left, row.right) if each]
    for end in ends:
        _stroke(svg, end.lead)
    style = "device on" if row.is_main and row.on else "device" if row.is_main else "device pale"
    style += " assumed" if row.is_main and row.known == "assumed" else ""
    group = SubElement(svg, "g", {"class": style, "data-device": row.device})
    _put(group, "rect", "", x=left, y=row.y - 12, width=right - left, height=24, rx=3)
    current_a = abs(row.current_a or 0.0)
    amps = show(current_a, CURRENT) if row.is_main and current_a >= FLOWS_A else ""
    name = f"{row.designation} {row.name if row.is_main else ends[0].terminal}"
    room = right - left - 16 - TEXT_PX * (len(amps) + 1 if amps else 0)
    _text(group, name, left + 8, row.y + 4, "new" if row.is_new else "", most_px=room)
    _text(group, amps, right - 8, row.y + 4, "amps")


def _legend(svg: Element, y: float) -> None:
    """The scale of currents, and what the colours are."""
    x: float = EDGE
    for text, amps in LEGEND:
        _stroke(svg, Stroke(f"M{x:g},{y:g}h28", line_px(amps), "supply"))
        _text(svg, text, x + 34, y + 4, "")
        x += 88
    kinds: tuple[tuple[str, DrawnAs], ...] = (("no current", "idle"), ("return", "return"))
    for text, drawn_as in kinds:
        _stroke(svg, Stroke(f"M{x:g},{y:g}h28", 2.0, drawn_as))
        _text(svg, text, x + 34, y + 4, "")
        x += 108


def _put(parent: Element, tag: str, style: str, **numbers: float) -> Element:
    attributes = {name.replace("_", "-"): f"{value:g}" for name, value in numbers.items()}
    return SubElement(parent, tag, ({"class": style} if style else {}) | attributes)


def _stroke(parent: Element, stroke: Stroke) -> None:
    _put(parent, "path", f"line {stroke.drawn_as}", stroke_width=stroke.px).set("d", stroke.path)


def _text(parent: Element, text: str, x: float, y: float, style: str, most_px: float = math.inf) -> None:
    """A text, cut off where there is no room for more; its whole is shown when one points at it."""
    shown = text if len(text) * TEXT_PX <= most_px else text[: max(int(most_px / TEXT_PX) - 1, 1)] + "…"
    element = _put(parent, "text", style, x=x, y=y)
    element.text = shown
    if shown != text:
        SubElement(element, "title").text = text
