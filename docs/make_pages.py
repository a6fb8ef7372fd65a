"""Write the pages of `docs/` that are made from the code: the commands, the keys of the brief, the rules, the Python API; and the schema.

Usage: python docs/make_pages.py    (needs the project installed: pip install -e .)
A test holds the pages and the code together.
"""

from __future__ import annotations

import inspect
import json
import re
from collections.abc import Iterator
from enum import Enum
from functools import cached_property
from importlib import import_module
from pathlib import Path
from typing import Annotated, Any, get_args, get_origin, get_type_hints

import rivelt
from rivelt.brief.model import TABLES
from rivelt.brief.schema import json_schema
from rivelt.cli.commands import SUMMARIES
from rivelt.cli.commands import command as load
from rivelt.documents.schema import DOCUMENTS, name_of, schemas
from rivelt.platforms import TARGETS, platform_tables
from rivelt.platforms.rulebooks import catalogue

OUT = Path(__file__).parent
_SCHEMA = Path(rivelt.__file__).parent / "brief" / "rivelt.schema.json"
_NOTE = "<!-- Made by docs/make_pages.py from the code; edit that. -->\n\n"


def pages() -> dict[str, str]:
    """Every page by its path in `docs/`."""
    found = {f"commands/{name}.md": text for name, text in _commands()}
    found |= {f"schemas/{_schema_file(name)}": _as_text(schema) for name, schema in schemas().items()}
    found |= {"brief.md": _brief(), "rules.md": _rules(), "api.md": _api(), "json.md": _json_page()}
    return {**found, "README.md": _index(sorted(path for path in found if path.startswith("commands/")))}


def _as_text(schema: object) -> str:
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"


def _commands() -> Iterator[tuple[str, str]]:
    for name in SUMMARIES:
        command = load(name)
        hints = get_type_hints(getattr(import_module(f"rivelt.cli.{name}"), name))
        about = inspect.cleandoc(command.callback.__doc__ or "")
        usage = " ".join(
            [
                "rivelt",
                name,
                *(_placeholder(parameter) for parameter in command.params if parameter.param_type_name == "argument"),
                "[OPTIONS]",
            ]
        )
        lines = [f"# `rivelt {name}`", "", about, "", "```sh", usage, "```", "", "| | |", "|---|---|"]
        for parameter in command.params:
            shown = _placeholder(parameter) if parameter.param_type_name == "argument" else ", ".join(parameter.opts)
            if parameter.param_type_name == "option" and not parameter.is_flag:
                kind = hints[parameter.name]
                is_choice = isinstance(kind, type) and issubclass(kind, Enum)
                choices = "/".join(str(one.value) for one in kind) if is_choice else ""
                shown += " " + (choices or parameter.metavar or parameter.name.upper())
            words = (getattr(parameter, "help", "") or "").replace("|", "\\|")
            lines.append(
                f"| `{shown}` | {words} |".replace("`[BRIEF | PROJECT]`", "`[BRIEF \\| PROJECT]`").replace(
                    "`[N | PROJECT]`", "`[N \\| PROJECT]`"
                )
            )
        yield name, _NOTE + "\n".join(lines) + "\n"


def _placeholder(parameter: Any) -> str:
    return str(parameter.metavar or parameter.name.upper())


def _brief() -> str:
    parts = [
        _NOTE + "# The brief: `rivelt.toml`\n",
        "Everything a person decides. An unknown key is an error that names the nearest one.\n",
    ]
    for name, table in {**TABLES, **platform_tables()}.items():
        about = inspect.cleandoc(table.__doc__ or "")
        parts += [
            f"## `[{name}]`\n",
            _sentence(about[about.index(":") + 1 :]) + "\n",
            "| key | value | left out |",
            "|---|---|---|",
        ]
        hints = get_type_hints(table, include_extras=True)
        for key, default in zip(table.__struct_fields__, _defaults(table), strict=True):
            parts.append(f"| `{key}` | {_described(hints[key])} | {default} |".replace("{ AND09", "{ AND09"))
        parts.append("")
    parts += [
        "## `[edition.NAME]`\n",
        "Another version of the same app: any of the tables above, with the keys that differ alone. See [editions](editions.md).\n",
        "In place of a colour: `{ tokens = FILE, name = TOKEN }`, a colour of a W3C design-tokens file.\n",
    ]
    return "\n".join(parts)


def _sentence(text: str) -> str:
    text = text.strip()
    return text[:1].upper() + text[1:]


def _defaults(table: Any) -> list[str]:
    given = table.__struct_defaults__
    missing = len(table.__struct_fields__) - len(given)
    return ["(needed)"] * missing + [_shown(value) for value in given]


def _shown(value: object) -> str:
    if callable(getattr(value, "factory", None)):
        value = value.factory()  # type: ignore[attr-defined]
    if value is None or value in ([], {}):
        return "none"
    return f"`{str(value).lower() if isinstance(value, bool) else value}`"


def _described(annotation: Any) -> str:
    if get_origin(annotation) is Annotated:
        found = (str(meta.description) for meta in get_args(annotation)[1:] if getattr(meta, "description", None))
        return next(found, "").replace("|", "\\|")
    return next((text for part in get_args(annotation) if (text := _described(part))), "")


def _rules() -> str:
    parts = [
        _NOTE + "# The rules\n",
        "`rivelt check` judges by them; `rivelt explain CODE` prints the same words.\n",
        "| code | severity | rule |",
        "|---|---|---|",
    ]
    parts += [
        f"| [{rule.code}](#{rule.code.lower()}) | {rule.words.severity} | {rule.words.title} |"
        for rule in catalogue().values()
    ]
    for rule in catalogue().values():
        parts += [
            f"\n## {rule.code}\n",
            f"**{rule.words.title}** ({rule.words.severity}; {', '.join(rule.targets or TARGETS)})\n",
            f"What it means: {rule.words.means}\n",
            f"What a person sees: {rule.words.sees}\n",
            f"Why it matters: {rule.words.why}\n",
            f"How to fix it: {rule.words.fix}",
            *([f"\nSee also <{rule.words.source}>"] if rule.words.source else []),
        ]
    return "\n".join(parts) + "\n"


_API = """\
`import rivelt` offers the use cases: values in, values out, nothing is printed. A path is text or anything with `__fspath__`. Every result has
`to_dict()`, the [document](json.md) that the command prints under `--json`. Errors are `rivelt.RiveltError`, with a message, a place and a hint.

```python
import rivelt

job = rivelt.open("rivelt.toml")  # a brief, or the folder of a project
changes = job.changes()  # what apply would do, as data
rivelt.apply(changes)
now = rivelt.open("rivelt.toml")
rivelt.write_proof(now.prove(now=True), "proof.png")
assert not now.check().findings
```

A brief can be built in memory, with its editions; it does what the same file would do:

```python
brief = rivelt.Brief.from_dict(
    {"light": {"ground": "#F3EBDD", "mark": "art/mark.svg"}, "edition": {"festival": {"light": {"ground": "#2B1640"}}}},
    folder="apps/skerryline",
)
rivelt.open(brief, only=["ios"]).plates("festival.zip")
```

**Stability.** What this page names, and the documents, follow semantic versioning: a release that changes or takes away any of it has a new major
version, or, below 1.0, a new minor one; the changelog says what changed. Other modules of the package may change in any release.
"""

_SCRIPTS = ("brands", "contrast", "findings")


def _api() -> str:
    parts = [_NOTE + "# The Python API\n", _API, "## Three scripts\n"]
    for name in _SCRIPTS:
        text = (OUT / "scripts" / f"{name}.py").read_text(encoding="utf-8")
        parts += [f"`docs/scripts/{name}.py`, which the tests run:\n", f"```python\n{text.rstrip()}\n```\n"]
    for name in rivelt.__all__:
        found = getattr(rivelt, name)
        parts += _documented(f"rivelt.{name}", found)
        if inspect.isclass(found):
            for member, value in vars(found).items():
                is_documented = inspect.isroutine(value) or isinstance(value, property | cached_property | classmethod)
                if not member.startswith("_") and is_documented and getattr(value, "__doc__", None):
                    parts += _documented(f"{name}.{member}", value)
    return "\n".join(parts)


_JSON = """\
Every command takes `--json`. It then prints one document on stdout and nothing else; messages for people go to stderr. A command that fails
prints a document with the schema `rivelt.error/1` instead, and keeps its exit code. `rivelt check --format json` is the same as `--json`.

- The first key, `schema`, is the name and version of the document: `rivelt.check/1`. A version may gain keys, and never loses or changes one.
- `root` is the absolute path of the folder that all paths in the document are relative to. `summary` comes before the lists.
- Every key is always present: an absent value is `null`, `""` or an empty list.
- Findings are one flat list. `path`, `line` and `column` (from 1, in characters) say where; `verdict` is `broken`, `unknown` or `holds`.
- Times are ISO 8601, in UTC. Lengths are in dp on Android, in points on Apple systems, in pixels elsewhere.

| schema | what it is | JSON Schema |
|---|---|---|
"""


def _json_page() -> str:
    rows = []
    for document in DOCUMENTS:
        name = name_of(document)
        about = inspect.cleandoc(document.__doc__ or "").split("\n")[0]
        file = _schema_file(name)
        rows.append(f"| `{name}` | {about} | [{file}](schemas/{file}) |")
    return _NOTE + "# JSON documents\n\n" + _JSON + "\n".join(rows) + "\n"


def _schema_file(name: str) -> str:
    return f"{name.replace('/', '-')}.json"


def _documented(name: str, found: Any) -> list[str]:
    """A heading and the docstring of a function, a class or a property."""
    text = inspect.cleandoc(found.__doc__ or "")
    shown = _signature(found) if inspect.isfunction(found) else ""
    return [f"## `{name}{shown}`\n", "```text", text, "```\n"]


def _signature(function: Any) -> str:
    text = re.sub(r"'", "", str(inspect.signature(function)))
    return re.sub(r"<function (\w+) at 0x[0-9a-f]+>", r"\1", text).replace("pathlib.", "")


_WORDS = """\
Rivelt speaks the language of print: a brief is set, plates are made, a proof is pulled before anything goes live. These words are its own;
everything else has its platform's name.

| word | meaning |
|---|---|
| brief | the file `rivelt.toml`: everything you decide |
| edition | another version of the same app, such as a flavour or a brand: only what differs from the brief |
| look | light or dark |
| mark, imprint | the logo in the middle of the screen; an optional small second image at its foot |
| ground, backdrop | the colour behind everything; an optional full-screen picture on it |
| site | one native app found on disk: an Android app module, an app target of an Xcode project, a Windows package, a web app |
| plate | one finished image: one size, one look |
| proof | pictures of what devices show at launch, worked out from the native files; one such picture is a *scene* |
"""

_PAGES = """\
## Start

- [Installing](installing.md)
- [From the first look to the pull request](guide.md): the commands in the order in which people use them
- [What is written, platform by platform](platforms.md), and [where](layout.md)
- [What to commit](committing.md), and how to take it out again

## Tasks

- [A flavour with a launch screen of its own](tasks/flavour.md)
- [Many apps in one repository](tasks/monorepo.md)
- [An app of a cross-platform framework](tasks/framework.md)
- [A single-project .NET app](tasks/dotnet.md)
- [CI, Xcode, Gradle, hooks](tasks/ci.md)
- [The review of a pull request](tasks/pull-request.md)
- [What a real launch showed](tasks/replay.md)
- [A designer's review](tasks/review.md)
- [White label: one app, many brands](tasks/white-label.md)

## Reference

- Commands: {commands}
- [The brief](brief.md): every key of `rivelt.toml`
- [The rules](rules.md) that `rivelt check` judges by
- [Editions](editions.md) and [repositories](repositories.md)
- [iPhones and iPads](apple.md): what is read, and what each version of the system gets
- [JSON documents](json.md), with their schemas, and [the Python API](api.md)
- [Decisions](decisions.md): why it is built as it is
"""


def _index(commands: list[str]) -> str:
    listed = ", ".join(f"[{Path(path).stem}]({path})" for path in commands)
    return f"{_NOTE}# Rivelt's documentation\n\n{_WORDS}\n{_PAGES.format(commands=listed)}"


def main() -> None:
    """Write every page."""
    _SCHEMA.write_text(_as_text(json_schema(platform_tables())), encoding="utf-8", newline="\n")
    for path, text in pages().items():
        (OUT / path).parent.mkdir(parents=True, exist_ok=True)
        (OUT / path).write_text(text, encoding="utf-8", newline="\n")


if __name__ == "__main__":
    main()
