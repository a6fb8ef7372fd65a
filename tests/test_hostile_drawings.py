"""Drawings from strangers: what would take hours is refused in seconds, what leads outside is seen however it is written."""

from __future__ import annotations

import io
import resource
import struct
import zlib
from pathlib import Path

import pytest

from conftest import Command, small_android, write_tree
from rivelt.art.budget import LIMITS, Budget
from rivelt.art.css import outside
from rivelt.art.source import read_art
from rivelt.art.svg import read_svg
from rivelt.errors import BadInput

HEAD = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '
    'width="512" height="512" viewBox="0 0 100 100">'
)
SQUARE = '<rect width="90" height="90"/>'
BLUR = '<feGaussianBlur stdDeviation="10"/>'


def nested(link: str = "href", depth: int = 12, ten: int = 10) -> str:
    groups = (f'<g id="g{n}">' + f'<use {link}="#g{n - 1}"/>' * ten + "</g>" for n in range(1, depth))
    return f'<defs><g id="g0">{SQUARE}</g>{"".join(groups)}</defs><use {link}="#g{depth - 1}"/>'


ENDLESS = {
    "nested use": nested(),
    "nested use by its old name": nested("xlink:href"),
    "nested patterns": "".join(
        f'<pattern id="p{n}" width="9" height="9">{SQUARE.replace("/>", f""" fill="url(#p{n - 1})"/>""") * 10}</pattern>'
        for n in range(12)
    )
    + SQUARE.replace("/>", ' fill="url(#p11)"/>'),
    "a hundred blurs": f'<filter id="f">{BLUR * 100}</filter>' + SQUARE.replace("/>", ' filter="url(#f)"/>'),
    "a blur on a hundred elements": f'<filter id="f">{BLUR}</filter>'
    + SQUARE.replace("/>", ' filter="url(#f)"/>') * 100,
    "blurs by style sheet": f'<style>rect {{ filter: url(#f) }}</style><filter id="f">{BLUR}</filter>' + SQUARE * 100,
    "blurs in a use": f'<filter id="f">{BLUR}</filter><g id="g" filter="url(#f)">{SQUARE}</g>'
    + '<use href="#g"/>' * 100,
    "a large matrix": f'<filter id="f"><feConvolveMatrix order="40" kernelMatrix="{"1 " * 1600}"/></filter>'
    + SQUARE.replace("/>", ' filter="url(#f)"/>'),
    "a path of 9 MB": f'<path d="M0 0{"L1 2 L50 99" * 850_000}z"/>',
    "a path in ten uses": f'<path id="p" d="M0 0{"L1 2 L50 99" * 90_000}z"/>' + '<use href="#p"/>' * 10,
    "a hundred thousand elements": SQUARE * 100_000,
    "dashes without end": f'<path fill="none" stroke="red" stroke-dasharray="0.001" d="M0 0{"L1 2 L50 99" * 200}"/>',
    "dashes by style sheet": f'<style>path {{ stroke: red; stroke-dasharray: .001 }}</style><path d="M0 0{"L1 2 L50 99" * 200}"/>',
    "a novel": f"<text>{'once upon a time ' * 3000}</text>",
    "markers": f'<marker id="k">{SQUARE * 100}</marker><path marker-mid="url(#k)" d="M0 0{"L1 2 L9 9" * 2000}"/>',
    "masks": '<mask id="m"><circle r="9" fill="white"/></mask>' + SQUARE.replace("/>", ' mask="url(#m)"/>') * 1500,
}


@pytest.mark.parametrize("what", ENDLESS)
def test_what_would_be_drawn_without_end_is_refused_at_once(what: str) -> None:
    before = resource.getrusage(resource.RUSAGE_CHILDREN).ru_utime
    with pytest.raises(BadInput, match=r"takes too long to draw: it asks for|more than 100,000 elements"):
        read_art(f"{HEAD}{ENDLESS[what]}</svg>".encode(), "art.svg")
    assert resource.getrusage(resource.RUSAGE_CHILDREN).ru_utime == before, "nothing was drawn"


def test_what_no_estimate_sees_is_ended_by_a_limit(monkeypatch: pytest.MonkeyPatch) -> None:
    """Within all numbers, and still far too slow: the process that draws it is ended."""
    monkeypatch.setattr("rivelt.art.trial.SECONDS", 1)
    monkeypatch.setattr(Budget, "excess", lambda _: None)
    drawing = f"{HEAD}{ENDLESS['a novel']}</svg>".encode()
    with pytest.raises(BadInput, match="takes too long to draw: more than 1 s"):
        read_art(drawing, "art.svg")


USUAL = {
    "a shadow": f'<filter id="f">{BLUR}<feOffset dy="2"/><feMerge><feMergeNode/><feMergeNode in="SourceGraphic"/></feMerge></filter>'
    + SQUARE.replace("/>", ' filter="url(#f)"/>'),
    "a hundred gradients": "".join(f'<linearGradient id="g{n}"><stop offset="0"/></linearGradient>' for n in range(100))
    + "".join(f'<path fill="url(#g{n})" d="M0 0h9v9z"/>' for n in range(100)),
    "classes": "<style>.a{fill:url(#g)}.b{clip-path:url(#c)}</style><linearGradient id='g'/><clipPath id='c'><path d='M0 0h90v90z'/></clipPath>"
    + '<path class="a b" d="M0 0h9v9z"/>' * 300,
    "a thousand elements": SQUARE * 1000,
    "dashes": '<circle r="40" stroke="red" stroke-dasharray="4 2"/>',
    "a circle of references": '<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>' + SQUARE,
    "text": "<text>Skerryline</text>",
}


@pytest.mark.parametrize("what", USUAL)
def test_what_logos_are_made_of_is_drawn(what: str) -> None:
    read_art(f"{HEAD}{USUAL[what]}</svg>".encode(), "art.svg")


def test_the_estimate_multiplies_as_drawing_does() -> None:
    expected = 2  # the group and its square
    for _ in range(3):
        expected = 1 + 3 * (1 + expected)
    assert read_budget(nested(depth=4, ten=3)).cost.elements == 1 + expected


def read_budget(content: str) -> Budget:
    seen: list[Budget] = []
    with pytest.MonkeyPatch.context() as patch:

        def made() -> Budget:
            seen.append(Budget())
            return seen[-1]

        patch.setattr("rivelt.art.svg.Budget", made)
        read_svg(f"{HEAD}{content}</svg>".encode(), "art.svg")
    return seen[0]


LEADING_OUT = {
    "an import": "<style>@import 'http://example.org/a.css';</style>",
    "an import in capitals": "<style>@IMPORT 'http://example.org/a.css';</style>",
    "an escaped import": "<style>@\\69mport 'a.css';</style>",
    "an import escaped at length": "<style>@\\000049 mport 'a.css';</style>",
    "an import in two pieces": "<style><![CDATA[@imp]]><![CDATA[ort 'a.css';]]></style>",
    "an address": '<rect style="fill: url(http://example.org/a)"/>',
    "an address in capitals": '<rect style="fill: URL(http://example.org/a)"/>',
    "an escaped address": "<style>rect { fill: u\\72 l(http://example.org/a) }</style>",
    "an address as an attribute": "<rect fill=\"Url( 'a.svg#b' )\"/>",
    "a set of images": "<style>rect { fill: image-set('a.png' 1x) }</style>",
    "a picture": '<image href="a.png"/>',
    "a picture in capitals": '<image HREF="http://example.org/a.png"/>',
    "a picture with blanks in it": '<image href=" ht&#10;tp://example.org/a.png"/>',
    "a picture of another prefix": '<image xmlns:y="http://www.w3.org/1999/xlink" y:href="a.png"/>',
    "another base": '<g xml:base="http://example.org/"><use href="#a"/></g>',
    "an animated link": '<use href="#a"><set attributeName="xlink:href" to="a.svg"/></use>',
    "a drawing in the drawing": '<image href="data:image/svg+xml;base64,PHN2Zy8+"/>',
    "a page in the drawing": '<image href="data:text/html,x"/>',
    "a script": "<script>x</script>",
    "a script in capitals": "<SCRIPT>x</SCRIPT>",
    "a script of another prefix": '<s:Script xmlns:s="http://www.w3.org/2000/svg">x</s:Script>',
    "a handler": '<g ONLOAD="x()"/>',
    "a handler in small letters": '<g onload="x()"/>',
    "a link to a script": '<a href=" java&#9;Script:x"/>',
}


@pytest.mark.parametrize("what", LEADING_OUT)
def test_what_leads_out_of_a_drawing_is_seen(what: str) -> None:
    with pytest.raises(
        BadInput, match=r"outside the file|holds a script|embedded in the drawing|changes what the drawing refers to"
    ):
        read_art(f"{HEAD}{LEADING_OUT[what]}{SQUARE}</svg>".encode(), "art.svg")


@pytest.mark.parametrize(
    "style",
    [
        "fill: url(#a)",
        "fill: url( '#a' )",
        "@font-face { src: url(data:font/woff2;base64,AA) }",
        "/* @import 'a' */ fill: red",
        "content: 'url'",
    ],
)
def test_what_stays_inside_is_let_be(style: str) -> None:
    assert list(outside(style)) == []


def test_limits_are_far_above_what_art_asks_for(sample_art: dict[str, bytes]) -> None:
    for name, data in sample_art.items():
        budget = read_budget(data.decode().partition(">")[2].rpartition("</svg>")[0])
        assert all(asked * 4 < limit for asked, limit in zip(budget.cost, LIMITS, strict=True)), name


@pytest.fixture
def sample_art() -> dict[str, bytes]:
    from rivelt.demo.layout import sample_files

    return {path: data for path, data in sample_files().items() if path.startswith("art/") and path.endswith(".svg")}


def webp_bomb() -> bytes:
    """A WebP whose header promises the largest picture that there can be."""
    side = (1 << 24) - 1
    extended = b"VP8X" + struct.pack("<I", 10) + b"\x00" * 4 + side.to_bytes(3, "little") * 2
    return b"RIFF" + struct.pack("<I", len(extended) + 4) + b"WEBP" + extended


def png_in_svg() -> bytes:
    """A PNG that promises 30,000 x 30,000 pixels, inside a drawing."""
    import base64

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    row = zlib.compressobj(9)
    data = row.compress(bytes(30_001 * 100)) + row.flush()
    png = b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", 30_000, 30_000, 8, 0, 0, 0, 0))
    png += chunk(b"IDAT", data) + chunk(b"IEND", b"")
    return f'{HEAD}<image width="9" height="9" href="data:image/png;base64,{base64.b64encode(png).decode()}"/></svg>'.encode()


def gzip_bomb() -> bytes:
    import gzip

    packed = io.BytesIO()
    with gzip.GzipFile(fileobj=packed, mode="wb") as file:
        file.write(HEAD.encode() + b" " * 100_000_000)
    return packed.getvalue()


@pytest.mark.parametrize(
    ("name", "make"),
    [("a.webp", webp_bomb), ("a.svg", png_in_svg), ("a.svgz", gzip_bomb)],
    ids=["webp", "png in svg", "gzip"],
)
def test_bombs_stay_small(name: str, make: object) -> None:
    assert callable(make)
    data = make()
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    try:
        read_art(data, name)
    except BadInput as error:
        assert any(word in str(error) for word in ("pixels", "broken", "holds more than", "takes too long"))  # noqa: PT017
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 300_000  # kB


@pytest.mark.parametrize(
    ("corrupt", "with_what"),
    [
        (b'pathData="M', b'pathData="M0 0' + b"L1 2L50 99" * 110_000 + b"M"),
        (b"<path", b'<path android:pathData="M0 0h9"/>' * 50_001 + b"<path"),
    ],
    ids=["a path without end", "paths without end"],
)
def test_a_vector_drawable_without_end_is_unknown(
    tmp_path: Path, rivelt: Command, corrupt: bytes, with_what: bytes
) -> None:
    root = write_tree(tmp_path / "tern", small_android(gradle="// com.android.application\ncompileSdk 35\nminSdk 24\n"))
    assert rivelt("apply", cwd=root).code == 0
    mark = root / "app/src/main/res/drawable-anydpi/rivelt_mark.xml"
    mark.write_bytes(mark.read_bytes().replace(corrupt, with_what, 1))
    done = rivelt("proof", "--now", "--screens", "API 34", "--json", cwd=root)
    assert done.code == 1
    assert all("takes too long to draw" in scene["unknown"][0] for scene in done.json["scenes"])
