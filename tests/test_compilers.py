"""Sources that apply has edited, compiled by the real compilers."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from android_framework.compilers import Compilers
from android_framework.judge import missing
from conftest import Command, write_tree
from rivelt import opening
from rivelt.workspace import commit
from test_android_shapes import SHAPES, Shape, tree

pytestmark = [pytest.mark.slow, pytest.mark.skipif(missing() is not None, reason=missing() or "")]

KOTLIN = "app/src/main/java/example/tern/Main.kt"
JAVA = "app/src/main/java/example/tern/Main.java"
HEAD = "package example.tern\n\n"
SOURCES = {
    "Kotlin, onCreate": (KOTLIN, HEAD + "import android.os.Bundle\nimport androidx.appcompat.app.AppCompatActivity\n\nclass Main : AppCompatActivity() {\n    override fun onCreate(savedInstanceState: Bundle?) {\n        super.onCreate(savedInstanceState)\n        setContentView(R.layout.main)\n    }\n}\n"),
    "Kotlin, Compose": (KOTLIN, HEAD + "import android.os.Bundle\nimport androidx.activity.ComponentActivity\nimport androidx.activity.compose.setContent\nimport androidx.activity.enableEdgeToEdge\n\nclass Main : ComponentActivity() {\n    override fun onCreate(savedInstanceState: Bundle?) {\n        super.onCreate(savedInstanceState)\n        enableEdgeToEdge()\n        setContent { }\n    }\n}\n"),
    "Kotlin, no body": (KOTLIN, HEAD + "class Main : androidx.appcompat.app.AppCompatActivity()\n"),
    "Kotlin, empty body on one line": (KOTLIN, HEAD + "import androidx.appcompat.app.AppCompatActivity\n\nclass Main : AppCompatActivity() {}\n"),
    "Kotlin, companion object": (KOTLIN, HEAD + "import androidx.appcompat.app.AppCompatActivity\n\nclass Main : AppCompatActivity() {\n    companion object {\n        const val TAG = \"main\"\n    }\n\n    private val name = TAG\n}\n"),
    "Kotlin, a class of an engine": (KOTLIN, HEAD + "import example.engine.EngineActivity\n\nclass Main : EngineActivity() {\n    private val name = \"tern\"\n}\n"),
    "Java, onCreate": (JAVA, "package example.tern;\n\nimport android.os.Bundle;\nimport androidx.appcompat.app.AppCompatActivity;\n\npublic class Main extends AppCompatActivity {\n    @Override\n    protected void onCreate(Bundle state) {\n        super.onCreate(state);\n    }\n}\n"),
    "Java, Allman": (JAVA, "package example.tern;\n\nimport android.os.Bundle;\n\npublic class Main extends androidx.appcompat.app.AppCompatActivity\n{\n    @Override\n    public void onCreate(Bundle state)\n    {\n        super.onCreate(state);\n    }\n}\n"),
    "Java, empty": (JAVA, "package example.tern;\n\nimport androidx.appcompat.app.AppCompatActivity;\n\npublic class Main extends AppCompatActivity {}\n"),
    "Java, a class of an engine": (JAVA, "package example.tern;\n\npublic class Main extends example.engine.EngineActivity {\n    private int count = 0;\n}\n"),
}  # fmt: skip


def generated_class(root: Path, package: str) -> str:
    """The class `R` of an app as builds make it since they are not transitive: only the app's own styles have constants."""
    texts = [path.read_text() for path in sorted(root.rglob("res/values*/*.xml"))]
    names = sorted({name for text in texts for name in re.findall(r'<style name="([\w.]+)"', text)})
    constants = "".join(f"public static final int {name.replace('.', '_')} = {at}; " for at, name in enumerate(names))
    layout = "public static class layout { public static final int main = 1; }"
    return f"package {package};\n\npublic class R {{ {layout} public static class style {{ {constants}}} }}\n"


@pytest.fixture(scope="module")
def compilers(tmp_path_factory: pytest.TempPathFactory) -> Compilers:
    return Compilers(tmp_path_factory.mktemp("compilers"))


@pytest.mark.parametrize(
    "options",
    ['way = "compat"', 'way = "platform"', 'way = "compat"\nhold_while = "{}"'],
    ids=["compat", "platform", "hold"],
)
def test_what_apply_makes_of_sources_compiles(
    tmp_path: Path, rivelt: Command, compilers: Compilers, options: str
) -> None:
    """All sources with one option, each in a package of its own, so that each compiler is started once."""
    sources: dict[str, str] = {}
    for number, (name, (path, text)) in enumerate(SOURCES.items()):
        waiting = "name.isEmpty()" if "private val name" in text else "false"
        files = {KOTLIN: None, path: text}
        root = write_tree(tmp_path / f"app{number}", tree(Shape(files, options=options.format(waiting))))
        done = rivelt("apply", cwd=root)
        assert done.code == 0, (name, done.err)
        edited = (root / path).read_text()
        assert edited != text, name
        package = f"example.tern{number}"
        own = re.sub(r"example\.tern\b", package, edited)
        sources[f"{number}/Main{Path(path).suffix}"] = own
        sources[f"{number}/R.java"] = generated_class(root, package)
    assert compilers.compiled(sources, tmp_path / "compiled") == ""


BASE = "package {}\n\nopen class Base : androidx.appcompat.app.AppCompatActivity()\n"


def test_the_sources_of_every_shape_of_project_compile(tmp_path: Path, compilers: Compilers) -> None:
    """Those that apply edits, with the other sources of their folder, each folder in packages of its own."""
    sources: dict[str, str] = {}
    for number, (name, shape) in enumerate(SHAPES.items()):
        if shape.way is None or "unreadable" in name:
            continue
        before = tree(shape)
        root = write_tree(tmp_path / f"shape{number}", before)
        commit.apply(opening.open_brief(root).changes())
        code = [path for path in before if path.endswith((".kt", ".java"))]
        roots = {path.partition("/Main")[0] for path in code if (root / path).read_bytes() != as_bytes(before[path])}
        for at, folder in enumerate(sorted(roots)):
            sources |= standalone(root, [path for path in code if path.startswith(f"{folder}/")], f"s{number}x{at}")
    assert len(sources) > 60
    assert compilers.compiled(sources, tmp_path / "compiled") == ""


def as_bytes(content: str | bytes) -> bytes:
    return content.encode() if isinstance(content, str) else content


def standalone(root: Path, paths: list[str], mark: str) -> dict[str, str]:
    """Sources of one folder in packages that no other shape has, with the generated class and the superclass that they name."""
    found: dict[str, str] = {}
    for path in paths:
        text = (root / path).read_bytes().decode(errors="replace")
        text = text if re.search(r"(?m)^package ", text) else f"package example.none\n\n{text}"
        found[f"{mark}/{Path(path).name}"] = re.sub(r"\bexample\.(tern|harbour|none)\b", rf"example.{mark}.\1", text)
    whole = "\n".join(found.values())
    packages = set(re.findall(r"^package ([\w.]+)", whole, re.MULTILINE)) | set(re.findall(r"([\w.]+)\.R\.", whole))
    for package in packages:
        found[f"{mark}/{package}/R.java"] = generated_class(root, package)
    if re.search(r"\bBase\b", whole) and "class Base" not in whole:
        found[f"{mark}/Base.kt"] = BASE.format(min(packages, key=len))
    return found
