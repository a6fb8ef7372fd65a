"""The proof as a page, in a real browser."""

from __future__ import annotations

import os
import re
from pathlib import Path

import pytest

from chromium import browser, open_page
from conftest import Command

SHOWN = 'getComputedStyle(document.querySelector("figure[data-look={}]")).display !== "none"'
VISIBLE = '[...document.querySelectorAll("article")].filter((one) => !one.hidden).map((one) => one.querySelector(".name").textContent)'

needs_browser = pytest.mark.skipif(
    browser() is None and not os.environ.get("CI"), reason="needs Chromium: apt-get install chromium"
)


@pytest.fixture(scope="module")
def page_file(applied: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    from rivelt import opening
    from rivelt.proof.write import write_proof

    job_root = applied
    out = tmp_path_factory.mktemp("page") / "proof.html"
    made = opening.open(job_root).prove(with_before=True)
    return write_proof(made, out)


def test_the_page_is_one_file_and_always_the_same(sample: Path, rivelt: Command) -> None:
    done = rivelt("proof", "--out", "p.html", "--json", cwd=sample)
    assert done.code == 0, done.err
    assert done.json["written"] == ["p.html"]
    text = (sample / "p.html").read_text()
    assert not re.search(r'(?:src|href)="(?!data:image/png;base64,|#g)', text)
    assert (text.count('class="before"'), text.count('class="after"')) == (25, 29)  # no uploads before
    texts = []
    for _ in range(2):
        assert rivelt("proof", "--only", "android", "--only", "ios", "--out", "p.html", cwd=sample).code == 0
        texts.append((sample / "p.html").read_text())
    assert texts[0] == texts[1]


@needs_browser
def test_switches_keys_and_the_slider_work(page_file: Path, tmp_path: Path) -> None:
    with open_page(page_file, tmp_path / "profile") as page:
        assert [url for url in page.requests if not url.startswith(("file:", "data:"))] == []
        assert page.run("[...document.images].every((image) => image.complete && image.naturalWidth > 100)")
        for key, light, dark in (("l", True, False), ("d", False, True), ("b", True, True)):
            page.press(key)
            assert (page.run(SHOWN.format("light")), page.run(SHOWN.format("dark"))) == (light, dark)
            assert page.run("document.querySelector('input[name=look]:checked').value[0]") == key
        guides = 'getComputedStyle(document.querySelector(".guides")).visibility'
        assert page.run(guides) == "hidden"
        page.press("g")
        assert (page.run(guides), page.run('document.getElementById("guides").checked')) == ("visible", True)
        clip = 'getComputedStyle(document.querySelector(".after")).clipPath'
        assert "100% - 100%" in page.run(clip) or "0%" in page.run(clip)
        for _ in range(4):
            page.press("ArrowLeft")
        assert page.run('document.getElementById("shown").value') == "60"
        assert "60%" in page.run(clip) or "40%" in page.run(clip)
        page.press("/")
        assert page.run("document.activeElement.id") == "filter"
        page.run('document.getElementById("filter").value = "ipad"; setFilter()')
        assert [name.split(",")[0] for name in page.run(VISIBLE)] == ["iPadOS", "iPadOS", "iPadOS home screen"]
        page.run('document.getElementById("filter").value = "nowhere"; setFilter()')
        assert (page.run(VISIBLE), page.run('document.getElementById("none").hidden')) == ([], False)
        page.press("Escape")
        assert len(page.run(VISIBLE)) == 16


@needs_browser
@pytest.mark.parametrize("width", [320, 375, 800, 1600])
def test_nothing_is_cut_off_at_any_width(page_file: Path, tmp_path: Path, width: int) -> None:
    with open_page(page_file, tmp_path / "profile", width) as page:
        assert page.run("document.documentElement.scrollWidth") <= width
        boxes = '[...document.querySelectorAll(".device")].map((one) => { const box = one.getBoundingClientRect(); return [box.width, box.height]; })'
        sizes = page.run(boxes)
        assert len(sizes) == 29
        ratio = sizes[0][0] / sizes[0][1]
        assert ratio == pytest.approx(360 / 800, rel=0.01)
        assert all(box[0] <= width for box in sizes)
