"""An outline as an SVG of plain paths: what is compared with the source before an outline is used."""

from __future__ import annotations

from rivelt.art.outline.model import LinearGradient, Outline, Paint, Shape
from rivelt.art.outline.path import path_data
from rivelt.colour import Colour
from rivelt.units import Rect, Size


def outline_svg(outline: Outline, width: int, height: int, scale: float) -> str:
    """Return an SVG of `width` x `height` px that shows nothing but the outline's shapes, at `scale` px per art unit."""
    definitions: list[str] = []
    drawn = "".join(_shape(shape, definitions) for shape in outline.shapes)
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" preserveAspectRatio="none"'
    return f'{head} viewBox="0 0 {width / scale!r} {height / scale!r}"><defs>{"".join(definitions)}</defs>{drawn}</svg>'


def placed_svg(outline: Outline, canvas: Size, box: Rect) -> str:
    """Return an SVG of `canvas` (CSS px) in which the whole outline is in `box`."""
    definitions: list[str] = []
    scale = box.width / outline.size.width
    drawn = "".join(_shape(shape, definitions) for shape in outline.shapes)
    size = f'width="{canvas.width:g}" height="{canvas.height:g}"'
    head = f'<svg xmlns="http://www.w3.org/2000/svg" {size} viewBox="0 0 {canvas.width:g} {canvas.height:g}">'
    placed = f'<g transform="translate({box.x:.6g} {box.y:.6g}) scale({scale:.8g})">{drawn}</g>'
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{head}<defs>{"".join(definitions)}</defs>{placed}</svg>\n'


def _shape(shape: Shape, definitions: list[str]) -> str:
    rule = "evenodd" if shape.is_even_odd else "nonzero"
    parts = [f'<path d="{path_data(shape.path, 5)}" fill-rule="{rule}" {_paint("fill", shape.fill, definitions)}']
    if shape.stroke is not None:
        stroke = shape.stroke
        parts.append(
            f'{_paint("stroke", stroke.paint, definitions)} stroke-width="{stroke.width:.6g}" stroke-linecap="{stroke.cap}" '
            f'stroke-linejoin="{stroke.join}" stroke-miterlimit="{stroke.miter:.6g}"'
        )
    drawn = " ".join(parts) + "/>"
    for clip in shape.clips:
        name = f"c{len(definitions)}"
        definitions.append(f'<clipPath id="{name}"><path d="{path_data(clip, 5)}"/></clipPath>')
        drawn = f'<g clip-path="url(#{name})">{drawn}</g>'
    return drawn


def _paint(name: str, paint: Paint | None, definitions: list[str]) -> str:
    if paint is None:
        return f'{name}="none"'
    if isinstance(paint, Colour):
        return f'{name}="{paint.hex[:7]}" {name}-opacity="{paint.alpha / 255:.5g}"'
    stops = "".join(
        f'<stop offset="{stop.offset:.6g}" stop-color="{stop.colour.hex[:7]}" stop-opacity="{stop.colour.alpha / 255:.5g}"/>'
        for stop in paint.stops
    )
    shared = f'id="p{len(definitions)}" gradientUnits="userSpaceOnUse" spreadMethod="{paint.spread}"'
    if isinstance(paint, LinearGradient):
        ends = f'x1="{paint.start.x:.6g}" y1="{paint.start.y:.6g}" x2="{paint.end.x:.6g}" y2="{paint.end.y:.6g}"'
        gradient = f"<linearGradient {shared} {ends}>{stops}</linearGradient>"
    else:
        matrix = " ".join(f"{value:.8g}" for value in paint.matrix)
        circle = f'cx="0" cy="0" r="1" gradientTransform="matrix({matrix})"'
        gradient = f"<radialGradient {shared} {circle}>{stops}</radialGradient>"
    definitions.append(gradient)
    return f'{name}="url(#p{len(definitions) - 1})"'
