"""The shape of the house: imports run one way, and start-up is light."""

from __future__ import annotations

import ast
import copy
import os
import pickle
import re
import subprocess
import sys
from importlib import import_module
from pathlib import Path

import pytest

import rivelt
from rivelt.cli.commands import SUMMARIES, command
from rivelt.patterns import Regex

ROOT = Path(rivelt.__file__).parent

# From the top to the ground: a package may import its own layer (but no cycle) and those after it.
LAYERS = (
    {"cli", "__main__"},
    {"watch", "review", "live", "recordings", "fleet"},
    {"opening"},
    {"briefs"},
    {"job"},
    {"removal", "checking"},
    {"proof", "drift"},
    {"last_look"},
    {"proposal"},
    {"evidence", "demo", "editions"},
    {"workspace"},
    {"platforms"},
    {"rules"},
    {"scene", "layout"},
    {"art"},
    {"pixels"},
    {"plan", "project", "brief", "revision"},
    {"edit"},
    {"media"},
    {"documents"},
    {
        "picture",
        "plainpng",
        "packaged",
        "patterns",
        "colour",
        "units",
        "errors",
        "findings",
        "progress",
        "xmltext",
        "markdown",
        "templating",
        "shown",
        "disk",
        "values",
        "about",
        "cores",
    },
)
HEAVY = [
    "pyvips",
    "numpy",
    "scipy",
    "lxml",
    "msgspec",
    "jinja2",
    "coloraide",
    "pydantic",
    "fontTools",
    "matplotlib",
    "pandas",
    "pyarrow",
    "distributed",
    "tomlkit",
    "av",
    "starlette",
    "uvicorn",
    "kiwisolver",
    "http",
    "ssl",
    "tree_sitter",
    "tinycss2",
    "cssselect2",
]


def imports_of(path: Path) -> set[str]:
    """The modules of Rivelt that a file imports anywhere, inside functions too."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.ImportFrom) and node.module:
            found |= {node.module} | {f"{node.module}.{alias.name}" for alias in node.names if node.module == "rivelt"}
        elif isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
    return {name for name in found if name.startswith("rivelt.") and name != "rivelt.__version__"}


def room(module: str) -> str:
    return module.split(".")[1]


# Without the demo's app, and the scripts of the docs, which are installed with the package.
FILES = [path for path in ROOT.rglob("*.py") if not {"skerryline", "docs"} & set(path.relative_to(ROOT).parts)]
MODULES = {"rivelt." + ".".join(path.relative_to(ROOT).with_suffix("").parts): imports_of(path) for path in FILES}


def test_every_room_has_a_layer() -> None:
    assert {room(module) for module in MODULES} - {"__init__"} <= set.union(*LAYERS)


@pytest.mark.parametrize("module", sorted(MODULES))
def test_imports_run_one_way(module: str) -> None:
    level = {name: index for index, layer in enumerate(LAYERS) for name in layer}
    if room(module) == "__init__":
        return
    upwards = [name for name in MODULES[module] if level[room(name)] < level[room(module)]]
    assert not upwards, f"{module} imports from a layer above it: {upwards}"


def test_rooms_of_one_layer_have_no_cycles() -> None:
    edges = {
        (room(module), room(name)) for module, names in MODULES.items() for name in names if room(module) != room(name)
    }
    rooms = {a for a, _ in edges} | {b for _, b in edges}
    while removable := {name for name in rooms if not any(a == name and b in rooms for a, b in edges)}:
        rooms -= removable
    assert not rooms, f"these import each other in a circle: {sorted(rooms)}"


def test_platforms_do_not_know_each_other_and_only_the_survey_asks_the_planner() -> None:
    for module, names in MODULES.items():
        parts = module.split(".")
        if parts[1] != "platforms" or len(parts) < 4:
            continue
        own = ".".join(parts[:3])
        others = [
            name
            for name in names
            if name.count(".") > 2 and name.startswith("rivelt.platforms.") and not f"{name}.".startswith(f"{own}.")
        ]
        assert not others, f"{module} knows another platform: {others}"
        if parts[3] in {"native", "reader", "rules"}:
            made = [name for name in names if name.startswith(f"{own}.make")]
            assert not made, f"{module} leans on the planner: {made}"
        if parts[3] == "native":
            above = [name for name in names if name.startswith((f"{own}.reader", f"{own}.rules", f"{own}.survey"))]
            assert not above, f"{module} knows who asks it: {above}"


NO_CACHE = re.compile(r"\blru_cache\b|^@cache\ndef \w+\((?!\))", re.MULTILINE)


def test_nothing_of_a_project_is_kept_outside_of_it() -> None:
    """Only functions without arguments, or of names that Rivelt itself has, may keep what they give for ever."""
    allowed = {"platforms/__init__.py", "pixels/type.py"}
    for path in FILES:
        if path.relative_to(ROOT).as_posix() not in allowed:
            assert not NO_CACHE.search(path.read_text(encoding="utf-8")), path


def test_only_the_shell_knows_the_interface() -> None:
    for path in (path for path in FILES if "cli" not in path.relative_to(ROOT).parts):
        text = path.read_text(encoding="utf-8")
        assert "import typer" not in text, path
        assert "import rich" not in text, path
        assert not re.search(r"\bprint\(", text), path


CHANGES_DISK = {
    *(
        "chmod",
        "chown",
        "fchmod",
        "fchown",
        "hardlink_to",
        "link",
        "makedirs",
        "mkdir",
        "open",
        "removedirs",
        "rename",
        "renames",
    ),
    *("rmdir", "rmtree", "symlink", "symlink_to", "touch", "truncate", "unlink", "write_bytes", "write_text"),
}
READS_FILES = {"read_bytes", "read_text"}


def test_only_the_disk_touches_files() -> None:
    """Every file that is written goes through `rivelt.disk.folder`, and every file of a stranger's is read by it."""
    # The lock of a project is a descriptor, or a file of the system's own; the machine's name is not a project's; packages read what they ship.
    # Recordings are opened by FFmpeg's libraries, which stream them.
    streams = {"recordings/recording.py", "recordings/device.py"}
    writers = {"workspace/lock.py", "workspace/notes.py", "cli/main.py", "cli/output.py", *streams}
    readers = {
        "pixels/type.py",
        "platforms/facts.py",
        "rules/rulebook.py",
        "brief/schema.py",
        "fleet/versions.py",
        "live/server.py",
        "demo/layout.py",
    }
    for path in FILES:
        name = path.relative_to(ROOT).as_posix()
        if name.startswith(("disk/", "demo/skerryline/")):
            continue
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.Call):
                continue
            function = node.func
            called = function.attr if isinstance(function, ast.Attribute) else getattr(function, "id", "")
            of_job = isinstance(function, ast.Attribute) and getattr(function.value, "id", "") == "opening"
            assert called not in CHANGES_DISK or of_job or name in writers, f"{name}:{node.lineno}: {called}"
            is_method = isinstance(function, ast.Attribute)
            assert called not in READS_FILES or not is_method or name in readers, f"{name}:{node.lineno}: {called}"


@pytest.mark.parametrize(
    ("code", "commands"),
    [
        ("import sys; from rivelt.cli.main import run; run(['--help'])", []),
        ("import sys; from rivelt.cli.main import run; run(['apply', '--help'])", ["rivelt.cli.apply"]),
        ("import sys, rivelt", []),
    ],
)
def test_start_up_loads_nothing_heavy_and_no_other_command(code: str, commands: list[str]) -> None:
    names = [*HEAVY, *(f"rivelt.cli.{name}" for name in SUMMARIES)]
    code += f"; print(*(name for name in {names!r} if name in sys.modules), file=sys.stderr)"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stderr.split() == commands


@pytest.mark.skipif(not Path("/proc/self/task").exists(), reason="threads are listed on Linux alone")
def test_numpy_starts_no_threads_that_wait_for_work() -> None:
    """Its library for matrices would start one for each core; they wait in a loop."""
    code = (
        "import os, sys; sys.argv = ['rivelt', '--version']\n"
        "from rivelt.__main__ import start\n"
        "try: start()\n"
        "except SystemExit: pass\n"
        "import numpy; print(len(os.listdir('/proc/self/task')), file=sys.stderr)"
    )
    environment = {name: value for name, value in os.environ.items() if name != "OPENBLAS_NUM_THREADS"}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=environment)
    assert done.stderr.split() == ["1"]


def test_modules_and_functions_stay_small() -> None:
    for path in FILES:
        text = path.read_text(encoding="utf-8")
        assert text.count("\n") <= 450, f"{path.name} is long"
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef):
                assert (node.end_lineno or 0) - node.lineno <= 60, f"{path.name}: {node.name} is long"


def test_the_list_of_commands_says_what_their_own_help_says_first() -> None:
    said = {name: command(name).help.split("\n")[0] for name in SUMMARIES}
    assert said == dict(SUMMARIES)


def test_regular_expressions_are_sound_and_compiled_when_they_are_used() -> None:
    count = 0
    for path in FILES:
        if " = regex(" not in path.read_text(encoding="utf-8") or path.stem == "__main__":
            continue
        module = "rivelt." + ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
        for value in vars(import_module(module)).values():
            if isinstance(value, Regex):
                assert value.groups >= 0  # compiled, or a fault is raised here
                assert "search" in vars(value), "its methods are kept"
                count += 1
    assert count > 150
    fresh = Regex("x", 0)
    assert "search" not in vars(fresh)
    assert pickle.loads(pickle.dumps(fresh)).search("axe").span() == (1, 2)
    assert copy.deepcopy(fresh).search("axe").span() == fresh.search("axe").span()
    assert "fullmatch" in vars(fresh)
