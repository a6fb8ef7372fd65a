"""A project is read once: no command parses a content twice, or renders a plate to learn what its recipe says."""

from __future__ import annotations

import gc
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Command, quick_sample, write_tree
from rivelt import opening, plainpng
from rivelt.colour import Colour
from rivelt.edit import source
from rivelt.edit.source.language import MARKER, FirstLines
from rivelt.editions import plates_of
from rivelt.evidence import Evidence
from rivelt.pixels import canvas, drawings, pictures, render, sections
from rivelt.plan.model import Recipe
from rivelt.platforms import platform
from rivelt.project.project import Project
from rivelt.project.words import holds_word, words_of
from rivelt.proof.write import draw_sheet_bytes
from rivelt.scene.model import Scene
from rivelt.units import PixelSize
from rivelt.values import replace
from rivelt.workspace import commit
from rivelt.workspace.compare import Wanted

PARSERS = {
    "rivelt.edit.xml.parse_xml": ("rivelt.edit.plist.parse_xml",),
    "rivelt.edit.openstep.parse_openstep": ("rivelt.edit.xcode.parse_openstep",),
    "rivelt.edit.jsontext.read_json": (),
    "rivelt.edit.toml.read_toml": (),
    "rivelt.edit.html.parse_html": (),
    "rivelt.edit.gradle.read_gradle": (),
    "rivelt.edit.source.read_source": (),
}


@pytest.fixture
def parses(monkeypatch: pytest.MonkeyPatch) -> Counter[tuple[str, object]]:
    """How often each content is parsed as what, from now on."""
    count: Counter[tuple[str, object]] = Counter()

    def counting(name: str, real: Callable[..., Any]) -> Callable[..., Any]:
        def call(data: object, *arguments: Any, **options: Any) -> Any:
            count[name, data] += 1
            return real(data, *arguments, **options)

        return call

    for name, copies in PARSERS.items():
        module, _, function = name.rpartition(".")
        real = getattr(__import__(module, fromlist=[function]), function)
        for place in (name, *copies):
            monkeypatch.setattr(place, counting(name, real))
    return count


@pytest.fixture
def rendered(monkeypatch: pytest.MonkeyPatch) -> list[Recipe]:
    """The recipes that are rendered from now on."""
    recipes: list[Recipe] = []
    real = render.render

    def recording(recipe: Recipe, **named: Any) -> bytes:
        recipes.append(recipe)
        return real(recipe, **named)

    monkeypatch.setattr(render, "render", recording)
    return recipes


@pytest.mark.parametrize(
    "command",
    ["survey", "apply --dry-run", "check", "check --planned", "check --fix", "proof --now", "proof --out p.html"],
)
def test_each_content_is_parsed_once(
    sample: Path, rivelt: Command, parses: Counter[tuple[str, object]], command: str
) -> None:
    assert rivelt(*command.split(), cwd=sample).code in {0, 1}
    assert parses
    assert {key: count for key, count in parses.items() if count > 1} == {}


def test_each_content_is_parsed_once_where_all_is_applied(
    applied: Path, rivelt: Command, parses: Counter[tuple[str, object]]
) -> None:
    assert rivelt("check", "--json", cwd=applied).code == 0
    assert len(parses) > 20
    assert set(parses.values()) == {1}


def test_no_plate_is_rendered_to_learn_what_its_recipe_says(
    sample: Path, rivelt: Command, rendered: list[Recipe]
) -> None:
    assert rivelt("check", "--planned", cwd=sample).code == 0
    assert all(recipe.most_bytes is not None for recipe in rendered), "only where the weight decides on the plan"
    rendered.clear()
    assert rivelt("proof", cwd=sample).code == 0
    assert all(recipe.most_bytes is not None for recipe in rendered), "what is shown is drawn, and not encoded for that"


@pytest.mark.parametrize("small", [False, True])
def test_a_second_apply_renders_nothing(tmp_path: Path, rivelt: Command, rendered: list[Recipe], small: bool) -> None:
    files = quick_sample()
    if small:
        files["rivelt.toml"] = files["rivelt.toml"].replace(b"[app]", b"[app]\nsmall_files = true")
    root = write_tree(tmp_path / "skerryline", files)
    assert rivelt("apply", "--only", "windows", cwd=root).code == 0
    assert any(recipe.most_bytes is not None for recipe in rendered), "among them some that may only weigh so much"
    rendered.clear()
    assert rivelt("apply", "--only", "windows", cwd=root).code == 0
    assert rendered == []


def test_art_is_drawn_once_for_all_plates_that_show_it_alike(applied: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    edition = opening.open_brief(applied).editions[0]
    recipes = [recipe for _, recipe in plates_of(edition.context, ["web", "ios"])]
    recipes += [replace(recipe, ground=Colour(1, 2, 3)) for recipe in recipes if recipe.ground is not None]
    apart = [render.unencoded(recipe).write_to_memory() for recipe in recipes]
    drawn: Counter[object] = Counter()

    def counting(*drawing: Any) -> object:
        drawn[drawing] += 1
        return canvas.draw(*drawing)

    monkeypatch.setattr("rivelt.pixels.drawings.draw", counting)
    shared = drawings.Drawings(drawing for recipe in recipes for drawing in render.drawings_of(recipe))
    assert [render.unencoded(recipe, shared.drawn).write_to_memory() for recipe in recipes] == apart
    assert set(drawn.values()) == {1}
    assert len(drawn) < sum(len(recipe.placed) for recipe in recipes)


def test_rows_that_plates_share_are_compressed_once(applied: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Screens that are equally wide, and have more or less ground below the same art."""
    edition = opening.open_brief(applied).editions[0]
    placed = next(recipe for _, recipe in plates_of(edition.context, ["ios"]) if recipe.placed).placed
    heights = (900, 1000, 1300)
    recipes = [Recipe(PixelSize(700, height), placed, Colour(1, 2, 3)) for height in heights]
    packed: Counter[bytes] = Counter()
    real = sections.compressed

    def counting(parts: Any, checksum: int) -> bytes:
        packed[b"".join(bytes(part) for part in parts)] += 1
        return real(parts, checksum)

    monkeypatch.setattr("rivelt.pixels.sections.compressed", counting)
    together = render.render_all(recipes)
    assert set(packed.values()) == {1}
    assert max(map(len, packed)) > 10_000, "among them the art"
    assert together == {recipe: render.render(recipe) for recipe in recipes}


def test_what_the_last_look_saw_is_what_the_proof_shows(sample: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Both are of the project as it is written: each scene of that is read once, and no rule is asked twice."""
    job = opening.open(sample)
    changes = job.changes()
    looked_at = [one for one in gc.get_objects() if type(one) is Evidence and one.project is job.after(changes).project]
    assert [one is job.after(changes).now for one in looked_at] == [True]
    read: list[str] = []
    for target in ("android", "ios"):
        real = platform(target).scene

        def scene(*told: Any, real: Callable[..., Scene] = real) -> Scene:
            read.append(told[1].label)
            return real(*told)

        monkeypatch.setattr(platform(target), "scene", scene)
    commit.apply(changes)
    proof = job.after(changes).prove(now=True)
    assert {site.target for site, _ in proof.scenes} >= {"android", "ios"}
    assert read == []
    assert draw_sheet_bytes(proof) == draw_sheet_bytes(opening.open(sample).prove(now=True))


@pytest.mark.parametrize("command", ["proof", "proof --now", "check", "check --planned"])
def test_each_picture_is_decoded_once(
    applied: Path, tmp_path: Path, rivelt: Command, monkeypatch: pytest.MonkeyPatch, command: str
) -> None:
    count: Counter[bytes] = Counter()
    decoded, plain_png = canvas.decoded, plainpng.plain_png

    def counting(data: bytes) -> object:
        count[data] += 1
        return decoded(data)

    def counting_plain(data: bytes) -> object:
        found = plain_png(data)
        count[data] += found is not None
        return found

    monkeypatch.setattr(pictures, "decoded", counting)
    monkeypatch.setattr(pictures, "plain_png", counting_plain)
    to = ("--out", str(tmp_path / "proof.png")) if "proof" in command else ()  # other tests look at the folder too
    assert rivelt(*command.split(), *to, cwd=applied).code == 0
    assert sum(count.values()) > 5
    assert set(count.values()) == {1}


def test_a_planned_image_tells_what_its_file_will_have(sample: Path) -> None:
    from rivelt import opening
    from rivelt.picture import ImageFile

    after = opening.open(sample).proposal.after
    paths = [path for path in after.paths if path.endswith(".png") and "rivelt" in path.lower()]
    assert len(paths) > 40
    for path in paths:
        image, file = after.image(path), ImageFile(after.read(path))
        assert image.size == file.size, path
        assert image.corner == file.corner, path


def test_an_overlay_changes_only_what_it_names() -> None:
    base = Project.of_files({"a.xml": b"<a>pier</a>", "b.xml": b"<b>pier</b>", "c/d.xml": b"<d/>"})
    assert list(base.naming("pier")) == ["a.xml", "b.xml"]
    after = base.overlay({"a.xml": b"<a>quay</a>", "c/d.xml": None, "e.xml": b"<e>pier</e>"})
    assert after.xml("b.xml") is base.xml("b.xml")
    assert (base.xml("a.xml").root.local, list(after.paths)) == ("a", ["a.xml", "b.xml", "e.xml"])
    assert list(after.naming("pier")) == ["b.xml", "e.xml"]
    assert (list(after.below("c")), "c/d.xml" in after, "c/d.xml" in base) == ([], False, True)
    assert list(after.overlay({"b.xml": None}).naming("pier")) == ["e.xml"]


SOURCES = {
    "a.kt": (
        "class Main : Base() {{\n    override fun onCreate(s: Bundle?) {{\n{}        super.onCreate(s)\n    }}\n}}\n",
        "begin()",
    ),
    "a.java": (
        "class Main extends Base {{\n    void onCreate(Bundle s) {{\n{}        super.onCreate(s);\n    }}\n}}\n",
        "begin();",
    ),
}


def check_language(path: str, text: str, statement: str) -> None:
    """What is asked of each source language."""
    before, after = text.format("").encode(), text.format(f"        {statement} {MARKER}must be first\n").encode()
    found = source.read_source(before, path)
    assert (found.superclass(found.declaration("Main")), found.declaration("Other")) == ("Base", None)  # type: ignore[arg-type]
    assert found.entry_method("Main") is not None
    assert before[found.heading("Main") :].startswith(b"onCreate")
    assert found.is_expression("ferry.isLoaded()")
    for wrong in ("", "a; b", "a) || (b", "a // b", "}", "a /*"):
        assert not found.is_expression(wrong), wrong
    written = found.with_first_lines(
        "Main", FirstLines((statement,), "must be first"), lambda data: source.read_source(data, path)
    )
    assert written == after
    marked = source.read_source(after, path)
    assert (found.is_marked, marked.is_marked, marked.without_marked()) == (False, True, before)


@pytest.mark.parametrize("path", SOURCES)
def test_a_source_language_answers_what_is_asked_of_it(path: str) -> None:
    check_language(path, *SOURCES[path])


@pytest.mark.parametrize(("path", "end"), [("a.kt", ""), ("a.java", ";")])
@pytest.mark.parametrize("name", ["a.A", "b.M", "c.Z", "z.Z"])
def test_an_import_is_added_in_its_order_and_only_once(path: str, end: str, name: str) -> None:
    imports = [f"import {known}{end}\n" for known in ("a.B", "b.B", "c.C")]
    text, statement = SOURCES[path]
    before = f"package p{end}\n\n{''.join(imports)}\n{text.format('')}".encode()
    first = FirstLines((statement,), "must be first", (name, "b.B"))
    after = source.read_source(before, path).with_first_lines(
        "Main", first, lambda data: source.read_source(data, path)
    )
    found = [line for line in after.decode().splitlines(keepends=True) if line.startswith("import ")]
    assert found == sorted([*imports, f"import {name}{end}\n"])


SCRIPTS = (".ts", ".tsx", ".js", ".jsx", ".mjs", ".mts", ".cjs", ".cts")


def test_a_source_language_is_added_as_one_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "lamp.py").write_text(
        "from rivelt.edit.source.java import Language as Java\n\n\n"
        "class Language(Java):\n    endings = ('.lamp',)\n    import_line = 'import {name};'\n"
    )
    monkeypatch.setattr(source, "__path__", [*source.__path__, str(tmp_path)])
    source.languages.cache_clear()
    try:
        assert set(source.languages()) == {".cs", ".java", ".kt", ".lamp", ".m", ".mm", ".swift", *SCRIPTS}
        check_language("a.lamp", *SOURCES["a.java"])
    finally:
        source.languages.cache_clear()


@given(st.text("ab1_ .ä", max_size=12), st.text("ab1_ä", min_size=1, max_size=4))
def test_a_word_that_is_searched_for_is_one_of_the_words_of_a_source(source: str, word: str) -> None:
    assert holds_word(source.encode(), word.encode()) == (word.encode() in words_of(source.encode()))


def test_a_watch_keeps_no_state_of_an_earlier_save(tmp_path: Path) -> None:
    """Planned plates know the state that they are planned in, and decoded pictures are kept from save to save."""
    brief = write_tree(tmp_path / "skerryline", quick_sample()) / "rivelt.toml"
    text = brief.read_text()

    def states() -> int:
        gc.collect()
        return sum(type(one) in {Project, Wanted} for one in gc.get_objects())

    before, earlier = states(), None
    counts = []
    for save in range(4):
        brief.write_text(text.replace("#F3EBDD", f"#F3EB{save:02X}"))
        job = opening.open_brief(brief, only=["web"])
        if earlier is not None:
            job.follow(earlier)
        changes = job.changes()
        commit.apply(changes)
        earlier = job.after(changes)
        draw_sheet_bytes(earlier.prove(now=True))
        del job, changes
        counts.append(states() - before)
    assert len(set(counts[1:])) == 1, counts
