"""Style in drawings: resolved as browsers do, held against Chromium, or refused with the reason."""

from __future__ import annotations

import base64
import io
import os
import random
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from chromium import browser, open_page
from conftest import Command
from rivelt.art.source import read_art
from rivelt.errors import BadInput
from rivelt.pixels.canvas import draw
from rivelt.units import PixelSize, Rect

SIDE = 240
HEAD = f'xmlns="http://www.w3.org/2000/svg" width="{SIDE}" height="{SIDE}" viewBox="0 0 100 100"'
TURN = "transform:rotate(30deg)"


def square(style: str, more: str = "") -> str:
    return f'<rect x="20" y="30" width="40" height="20" style="{style}" {more}/>'


GRADIENT = '<linearGradient id="g"><stop stop-color="red"/><stop offset="1" stop-color="blue"/></linearGradient>'

DRAWN = {
    "oklch": square("fill:oklch(0.6 0.15 200)"),
    "oklch of shares, half seen": square("fill:oklch(60% 40% 200deg / 40%);stroke:oklab(.5 .1 -.1)"),
    "Display P3": square("", 'fill="color(display-p3 0.2 0.8 0.1)"'),
    "lab, lch, xyz": square("fill:lab(50% 40 59.5);stroke:lch(50% 60 200);stroke-width:6")
    + '<circle cx="80" cy="80" r="10" fill="color(xyz .2 .3 .4)"/>',
    "light-dark": square("fill:light-dark(oklch(.6 .1 20), blue)"),
    "a colour inherited": f'<g color="oklch(.6 .15 200)">{square("fill:currentColor")}</g>',
    "a colour that nothing reads": square("fill:teal;fill:foo") + square("fill:teal;fill:rgb(1 2", 'transform="translate(20 40)"'),
    "a gradient in a variable": "<style>:root{--c:#0c0}</style><linearGradient id='g'><stop style='stop-color:var(--c)'/>"
    f"<stop offset='1' stop-color='red'/></linearGradient>{square('fill:url(#g)')}",
    "variables": "<style>svg{--main:rgb(10 120 200);--w:6px} .a{--main:#f80}</style><g class='a'>"
    + square("fill:var(--main);stroke:var(--no, var(--main));stroke-width:var(--w)")
    + "</g>" + square("fill:var(--main)", 'transform="translate(20 40)"'),
    "a variable in an attribute": "<style>:root{--a:teal}</style>" + square("", 'fill="var(--a)" stroke="var(--no, #f00)"'),
    "variables in a circle": f"<style>:root{{--a:var(--b);--b:var(--a)}} g{{fill:teal}}</style><g>{square('fill:var(--a)')}</g>",
    "variables that are unset": f"<style>g{{--a:red}} rect{{--a:initial;fill:var(--a, lime)}}</style><g>{square('')}</g>",
    "sums of variables": "<style>:root{--s:20px;--k:2}</style><rect style='width:calc(var(--s)*var(--k));height:max(10px,var(--s) - 4px)'/>",
    "an important rule": "<style>rect{fill:oklch(.6 .15 20) !important}</style>" + square("fill:red"),
    "weights of selectors": "<style>#a{fill:oklch(.6 .1 20)} .b.b{fill:red} g rect{fill:lime}</style><g>"
    + square("", 'id="a" class="b"')
    + "</g>",
    "selectors": "<style>rect:nth-of-type(2n+1):not([id]){fill:oklch(.7 .1 20)} :is(circle,g)>rect{fill:red}</style>"
    + square("") + "<g>" + square("", 'transform="translate(20 40)" id="z"') + "</g>",
    "attributes in selectors": "<style>[fill=red] + rect{fill:oklch(.7 .1 20)}</style>"
    + square("", 'fill="red"')
    + square("", 'transform="translate(20 40)"'),
    "another look": "<style>@media (prefers-color-scheme:dark){rect{fill:red}} @media screen and (min-width:0){rect{stroke:lime}}</style>"
    + square(""),
    "motion for those who like it": "<style>rect{fill:teal} @media (prefers-reduced-motion:no-preference){rect{transition:fill 1s}}</style>"
    + square(""),
    "a sheet for print": f"<style media='print'>rect{{fill:red}}</style>{square('')}",
    "a sheet of another kind": f"<style type='text/x'>rect{{fill:red}}</style>{square('')}",
    "keywords": f'<g fill="red" stroke="blue">{square("fill:unset;stroke:initial;stroke-width:initial")}</g>'
     '<g fill="red">' + square("fill:revert", 'transform="translate(20 40)"') + "</g>",
    "turned round a point": square(f"transform-origin:50px 50px;{TURN}"),
    "an origin as an attribute": square("", 'transform-origin="50 50" transform="rotate(45)"'),
    "an origin in words": square("", 'transform-origin="right top" transform="rotate(20)"'),
    "an origin in shares": square(f"transform-origin:50% 25%;{TURN}"),
    "round its own middle": square(f"transform-box:fill-box;transform-origin:center;{TURN}"),
    "round the middle of a group": f"<g style='transform-box:fill-box;transform-origin:100% 50%;{TURN} scale(.5)'>"
    "<circle cx='30' cy='30' r='10'/><path d='M30 50q30 50 60 0z'/></g>",
    "its own corner": square(f"transform-box:fill-box;{TURN}"),
    "separate transforms": square("transform-origin:40px 40px;translate:10px 5px;rotate:20deg;scale:1.2 .5;transform:skewX(10deg)"),
    "a list of transforms": square("transform:translate(10%,1em) rotate(.05turn) matrix(1,0,.2,1,3,4) scaleX(-1) translateX(-90px)"),
    "in a view of its own": '<svg viewBox="0 0 50 50" width="80" height="80">' + square(f"transform-origin:50% 50%;{TURN}") + "</svg>",
    "a gradient that is turned": GRADIENT.replace(" id=", f" style='{TURN}' id=")
    + square("fill:url(#g)"),
    "a gradient of wide colours": GRADIENT.replace('"blue"', '"color(display-p3 0 .2 1 / .4)" stop-opacity=".8"')
    + square("fill:url(#g)"),
    "a gradient with a colour in both notations": GRADIENT.replace('="blue"', '="blue" style="stop-color:oklch(.7 .2 140)"')
    .replace("<stop offset", '<stop offset=".3" stop-color="gold"/><stop offset') + square("fill:url(#g)"),
    "a gradient that repeats": GRADIENT.replace(" id=", ' spreadMethod="repeat" x2=".4" id=').replace('offset="1"', 'offset="60%"').replace('="red"', '="red" offset=".1"')
    + square("fill:url(#g)"),
    "both looks at once": "<style>:root{color-scheme:light dark}</style>" + square("fill:light-dark(red,blue)"),
    "a size in the font shorthand": '<g style="font:20px serif"><rect width="2em" height="1em" fill="green"/></g>',
    "lengths in em and rem": '<g font-size="10"><rect width="2em" height="2rem" fill="green"/></g>',
    "lengths of the view": '<rect width="10vw" height="5vmin" fill="green"/>',
    "geometry in a style sheet": "<style>circle{cx:50%;cy:50%;r:calc(10px + 1em)}</style><circle/>",
    "a path in a style sheet": "<style>path{d:path('M10 10h60v60z');fill:oklch(.5 .1 20)}</style><path d='M0 0h3'/>",
    "dashes in em": '<path style="stroke-dasharray:calc(5px + 5px) 1em;stroke-width:.5em" d="M10 50h80" stroke="red"/>',
    "a shadow": square("filter:drop-shadow(4px 4px 2px oklch(.6 .15 20))"),
    "a blending mode": "<style>:root{--m:multiply}</style>" + square("fill:red") + square("mix-blend-mode:var(--m);fill:cyan", 'transform="translate(10 9)"'),
    "a flood": '<filter id="f"><feFlood flood-color="oklch(.6 .15 200)"/><feComposite in2="SourceAlpha" operator="in"/></filter>'
    + square("", 'filter="url(#f)"'),
    "hidden by a class": "<style>.h{display:none} @media all{g{opacity:.25}}</style><g>" + square("") + square("", 'class="h" fill="red"') + "</g>",
    "what plain drawings have": GRADIENT + '<clipPath id="c"><circle cx="50" cy="50" r="40"/></clipPath>'
    '<mask id="m"><rect width="100" height="60" fill="#888"/></mask><g clip-path="url(#c)" mask="url(#m)">'
    '<rect width="100" height="100" fill="url(#g)"/></g><use href="#c" x="9"/>'
    '<path d="M12 8h.01" stroke="red" stroke-width="9" stroke-linecap="round"/>',
}  # fmt: skip

REFUSED = {
    "depends on the screen": "<style>@media (min-width:200px){rect{fill:red}}</style>" + square(""),
    "@supports": "<style>@supports (fill:red){rect{fill:red}}</style>" + square(""),
    "nested rules": "<style>g{fill:blue; rect{fill:red}}</style>" + square(""),
    "is not understood": "<style>q|rect{fill:oklch(.6 .1 20)}</style>" + square(""),
    "mixed from others": square("fill:color-mix(in srgb, red, blue)"),
    "the device's own": square("fill:AccentColor;stroke:oklch(.6 .1 20)"),
    "depends on its context": GRADIENT.replace('"blue"', '"oklch(.5 .2 30)"').replace('"red"', '"currentColor"'),
    "mask-image": square("mask-image:linear-gradient(#000,transparent)"),
    "color-scheme: dark": "<style>:root{color-scheme:dark}</style>" + square("fill:light-dark(red,blue)"),
    "mixed in linear light": GRADIENT.replace(" id=", ' color-interpolation="linearRGB" id='),
    "is in 3D": square("transform:perspective(100px) rotateX(30deg)"),
    "the box round a stroke": square(f"transform-box:stroke-box;{TURN}"),
    "parts that are turned": f"<g style='transform-box:fill-box;{TURN}'>" + square("", 'transform="rotate(10)"') + "</g>",
    "a <symbol> that is transformed": f"<symbol id='s' transform='rotate(9)'>{square('')}</symbol><use href='#s'/>",
    "the value 1--a:0 is not understood": '<g font-size="1--a:0"><rect width="2em" height="2em"/></g>',
    "the size in font: large serif": '<g style="font:large serif"><rect width="2em" height="1em"/></g>',
    "font metrics": '<rect width="4ex" height="3ex"/>',
    "custom properties may differ": f"<g id='a'>{square('fill:var(--a)')}</g><use href='#a' style='--a:red'/>",
    "in em may differ": '<rect id="a" width="2em" height="2em"/><use href="#a" font-size="20"/>',
    "not a reference": square("clip-path:circle(30px)"),
    "other colours": square("filter:hue-rotate(40deg)"),
    "noise": '<filter id="f"><feTurbulence baseFrequency=".05"/></filter>' + square("", 'filter="url(#f)"'),
    "not SVG": '<foreignObject width="60" height="60"><p xmlns="http://www.w3.org/1999/xhtml">a</p></foreignObject>',
    "pathLength": '<path d="M10 50h80" stroke="red" stroke-dasharray="10 5" pathLength="40"/>',
    "embedded in the drawing": '<image width="9" height="9" href="data:image/svg+xml;base64,PHN2Zy8+"/>',
    "grow beyond all measure": "<style>g{--a:tern puffin;"
    + "".join(f"--{chr(98 + n)}:{f'var(--{chr(97 + n)})' * 9};" for n in range(12))
    + "}</style><g>" + square("fill:var(--m)") + "</g>",
    "too often": "<style>g{--a: ;" + "".join(f"--{chr(98 + n)}:{f'var(--{chr(97 + n)})' * 9};" for n in range(12))
    + "}</style><g>" + square("fill:var(--m)") + "</g>",
    "nested too deeply or holds an invalid number": square("fill:oklch(.6 .1 20);stroke-width:" + "9" * 9000),
    "too many selectors": f"<style>{'g ' * 30}rect{{fill:oklch(.6 .1 20)}}</style>{'<g>' * 60}{square('')}{'</g>' * 60}",
}  # fmt: skip


def drawing(content: str, root: str = "") -> bytes:
    return f"<svg {HEAD} {root}>{content}</svg>".encode()


def drawn(data: bytes) -> np.ndarray:
    """A drawing on white, as it is put on plates."""
    image = draw(read_art(data, "art.svg"), PixelSize(SIDE, SIDE), Rect(0, 0, SIDE, SIDE))
    found = Image.fromarray(image.numpy(), "RGBA")
    return np.asarray(Image.alpha_composite(Image.new("RGBA", found.size, "white"), found).convert("RGB")).astype(int)


@pytest.mark.parametrize("reason", REFUSED)
def test_what_cannot_be_resolved_is_refused_with_the_reason(reason: str) -> None:
    with pytest.raises(BadInput, match=reason) as raised:
        read_art(drawing(REFUSED[reason]), "art.svg")
    assert raised.value.hint


def test_a_turned_root_is_refused_and_its_background_is_drawn() -> None:
    with pytest.raises(BadInput, match="root element is transformed"):
        read_art(drawing(square(""), 'transform="rotate(20)"'), "art.svg")
    with pytest.raises(BadInput, match="border is not drawn"):
        read_art(drawing(square(""), 'style="border:1px solid"'), "art.svg")
    ground = drawn(drawing(square("fill:red"), 'style="background:#f80"'))
    assert (ground == drawn(drawing(square("fill:red"), 'style="background-color:red;background:#f80"'))).all()
    plain = drawn(drawing('<rect width="100" height="100" fill="#f80"/>' + square("fill:red")))
    assert (ground == plain).all()


def test_commands_say_what_a_drawing_asks_for(tmp_path: Path, rivelt: Command) -> None:
    files = {
        "screen.svg": drawing(REFUSED["depends on the screen"]),
        "text.svg": drawing('<text y="40" style="font:bold 12px/1.2 \'Port Mono\', serif">Ahoy</text>'),
        "moving.svg": drawing("<style>@keyframes a{to{fill:red}} rect{animation:a 9s}</style>" + square("")),
        "smil.svg": drawing('<rect width="9" height="9"><animate attributeName="x" to="9" dur="1s"/></rect>'),
    }
    for name, data in files.items():
        (tmp_path / name).write_bytes(data)
    refused = rivelt("measure", "screen.svg")
    assert refused.code == 2
    assert "screen.svg cannot be drawn as browsers draw it" in refused.err
    assert "@media (min-width:200px)" in refused.err
    assert "Port Mono is not installed here" in rivelt("measure", "text.svg").out
    for name in ("moving.svg", "smil.svg"):
        assert f"note ART05: {name} is animated" in rivelt("measure", name).out
    photo = Image.fromarray(np.linspace(0, 255, 90 * 90 * 3).reshape(90, 90, 3).astype("uint8"))
    photo.save(tmp_path / "logo.jpg")
    assert "warning ART04: logo.jpg is a JPEG file" in rivelt("measure", "logo.jpg").out


def random_drawing(seed: int) -> str:
    """Squares with transforms, origins, boxes, colours and variables at random."""
    chance = random.Random(seed)

    def length() -> str:
        return f"{chance.randint(-30, 60)}{chance.choice(['px', '%', 'px'])}"

    def step() -> str:
        turn = chance.randint(-180, 180)
        return chance.choice(
            [f"rotate({turn}deg)", f"translate({length()}, {length()})", f"scale({chance.uniform(0.4, 1.4):.2f})", f"skewY({turn / 6:.0f}deg)"]
        )  # fmt: skip

    def part() -> str:
        declared = [
            f"transform:{' '.join(step() for _ in range(chance.randint(1, 3)))}",
            f"transform-origin:{length()} {length()}",
            f"transform-box:{chance.choice(['fill-box', 'view-box'])}",
            f"rotate:{chance.randint(0, 90)}deg",
            f"translate:{length()}",
            f"fill:{chance.choice(['var(--a)', 'var(--b, teal)', f'oklch(.7 .1 {chance.randint(0, 360)})', 'hsl(20 50% 50%)'])}",
            "--a:navy",
        ]
        return square(";".join(chance.sample(declared, chance.randint(2, 7))))

    return f"<style>svg{{--a:#c40}} g{{--b:lab(60 20 -30)}}</style><g>{part()}{part()}</g>{part()}"


@pytest.mark.skipif(browser() is None and not os.environ.get("CI"), reason="needs Chromium: apt-get install chromium")
def test_drawings_look_as_in_a_browser(tmp_path: Path) -> None:
    drawings = DRAWN | {f"random {seed}": random_drawing(seed) for seed in range(30)}
    home = tmp_path / "home.html"
    home.write_text('<body style="margin:0;background:#fff">', encoding="utf-8")
    differences = {}
    with open_page(home, tmp_path / "profile", SIDE, SIDE) as page:
        for name, content in drawings.items():
            data = drawing(content)
            address = "data:image/svg+xml;base64," + base64.b64encode(data).decode()
            page.run(f'document.body.innerHTML = \'<img style="display:block" src="{address}">\'')
            page.call("Runtime.evaluate", expression="document.images[0].decode()", awaitPromise=True)
            shot = base64.b64decode(page.call("Page.captureScreenshot", format="png")["data"])
            theirs = np.asarray(Image.open(io.BytesIO(shot)).convert("RGB")).astype(int)
            assert theirs.min() < 250, f"{name} shows nothing in the browser: the case proves nothing"
            differences[name] = float(np.abs(theirs - drawn(data)).mean())
    assert {name: found for name, found in differences.items() if found >= 1} == {}
