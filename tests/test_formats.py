"""Findings for other tools, on reports made up for it: what a stranger's file says must not become markup, a link or a command."""

from __future__ import annotations

import html
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from markdown_it import MarkdownIt

from rivelt.findings import Finding
from rivelt.markdown import MOST
from rivelt.platforms.rulebooks import catalogue
from rivelt.rules.formats import MOST_ANNOTATIONS, as_annotations, as_compiler, as_junit, as_markdown
from rivelt.rules.report import Report
from rivelt.rules.sarif import as_sarif
from rivelt.shown import harmless


def report(*findings: Finding) -> Report:
    return Report(findings, catalogue(), root=Path("/app"))


def broken(message: str, path: str | None = "app/a.xml", severity: str = "warning", line: int | None = 3) -> Finding:
    return Finding("AND08", severity, "broken", message, "Fix it.", path, line, None, "android app")  # type: ignore[arg-type]


HOSTILE = st.lists(
    st.sampled_from(
        [
            "@octocat", "#12", "<b>", "</details>", "<script>", "![x](https://a.example/b.png)", "[x](y)", "https://a.example",
            "www.a.example", "|", "`", "``", "*", "_", "~~", "\\", "&lt;", "\n", "\r", "\x1b[31m", ":tada:", "ferry", " ", "-", "<!--",
            "::error::", "##[error]", "%0A", ",", "é", "\u202e",
        ]
    ),
    max_size=12,
).map("".join)  # fmt: skip


@given(message=HOSTILE, path=HOSTILE)
def test_markdown_shows_foreign_text_and_nothing_else(message: str, path: str) -> None:
    text = as_markdown(report(broken(message, path or "f")))
    page = MarkdownIt("commonmark", {"html": True, "linkify": False}).enable("table").render(text)
    plain = page.replace("<!-- -->", "\0")
    assert set(re.findall(r"<(/?\w+)", plain)) <= {
        *(
            "h3",
            "/h3",
            "p",
            "/p",
            "table",
            "/table",
            "thead",
            "/thead",
            "tbody",
            "/tbody",
            "tr",
            "/tr",
            "th",
            "/th",
            "td",
            "/td",
        ),
        *("code", "/code", "br"),
    }
    cells = re.findall(r"<td>(.*?)</td>", plain, re.DOTALL)
    assert len(cells) == 4, text
    about = html.unescape(cells[3].replace("\0", "")).removesuffix("<br>Fix it.")
    wanted = " ".join(harmless(message.replace("\n", " ")).split())
    assert " ".join(about.split()) == wanted
    assert not re.search(r"[@#]\w", re.sub(r"<code>.*?</code>", "", html.unescape(plain)).replace("\0", "\0"), re.ASCII)


@given(message=HOSTILE, path=HOSTILE)
def test_each_line_of_a_log_is_one_finding_and_no_command(message: str, path: str) -> None:
    (line,) = as_compiler(report(broken(message, path or "f")))
    assert len(line.splitlines()) == 1
    assert line.endswith(". Fix it. [AND08]")
    assert not line.lstrip().startswith("::")
    (*_, last), obeyed = (
        as_annotations(report(broken(message, path or "f"))),
        r"::warning file=[^,]*,line=3,title=AND08::[^\n\r]*",
    )
    assert re.fullmatch(obeyed, last)


@pytest.mark.parametrize("number", [0, 1, 10, 11, 2_000])
def test_a_step_has_ten_annotations_at_most_and_a_comment_fits(number: int) -> None:
    severities = ["note", "error", "warning"]
    found = report(*(broken(f"{'long ' * 30}{index}", severity=severities[index % 3]) for index in range(number)))
    lines = as_annotations(found)
    notes = [line for line in lines if re.match("::(error|warning|notice) ", line)]
    assert len(notes) == min(number, MOST_ANNOTATIONS)
    ranks = [["error", "warning", "notice"].index(re.split("[: ]", line)[2]) for line in notes]
    assert ranks == sorted(ranks), "the most severe are those that are shown"
    assert ("more findings are in the log" in "".join(notes)) == (number > MOST_ANNOTATIONS)
    assert len([line for line in lines if line.startswith("app/a.xml:3:1: ")]) == number
    text = as_markdown(found)
    assert len(text) < MOST
    listed = text.count("| `AND08` |")
    left = re.search(r"(\d+) more are left out", text)
    assert listed + int(left[1] if left else 0) == number


def test_what_has_no_place_and_what_is_unknown_is_said_in_every_format() -> None:
    unknown = Finding("AND12", "warning", "unknown", "the source is not there", path="app/B.kt", site="android app")
    found = report(broken("it is cut", path=None, line=None), unknown)
    assert as_compiler(found) == [
        "rivelt: warning: it is cut. Fix it. [AND08]",
        "app/B.kt:1:1: note: unknown: the source is not there [AND12]",
    ]
    assert as_compiler(found, is_absolute=True)[1].startswith("/app/app/B.kt:1:1: ")
    assert "1 unknown" in as_markdown(found)
    assert '<skipped message="unknown: the source is not there"/>' in as_junit(found)
    fail, left_open = as_sarif(found, "1")["runs"][0]["results"]
    assert (fail["kind"], fail["level"], "locations" in fail) == ("fail", "warning", False)
    assert (left_open["kind"], left_open["level"]) == ("open", "none")
    assert found.reaches("warning")
    assert not report(unknown).reaches("error")
