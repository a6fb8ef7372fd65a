"""The platform's own manifest merger, and random manifests for it."""

from __future__ import annotations

import random
import subprocess
import xml.etree.ElementTree as ET
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from android_framework.judge import JARS, java, write_tree

ANDROID = "{http://schemas.android.com/apk/res/android}"
TOOLS = "{http://schemas.android.com/tools}"
PACKAGE = "example.tern"
HEAD = f'xmlns:android="http://schemas.android.com/apk/res/android" xmlns:tools="http://schemas.android.com/tools" package="{PACKAGE}"'
_FILTER = '<intent-filter{}><action android:name="android.intent.action.MAIN"/><category android:name="android.intent.category.{}"/></intent-filter>'


@dataclass(frozen=True)
class Merged:
    """What a merged manifest says: attributes of the application, and those of each activity and alias, with `starts` for the launcher's."""

    application: Mapping[str, str]
    components: Mapping[tuple[str, str], Mapping[str, str]]


def merged(files: Sequence[str], folder: Path) -> Merged | str:
    """Return what the platform's tool merges manifests into, the highest priority first, the main one last; or its complaint."""
    kit = java()
    assert kit is not None
    write_tree(folder, ((f"{number}.xml", text) for number, text in enumerate(files)))
    paths = [str(folder / f"{number}.xml") for number in range(len(files))]
    out = folder / "out.xml"
    tool = ("-XX:TieredStopAtLevel=1", "-cp", f"{JARS / 'merger'}/*", "com.android.manifmerger.Merger")
    inputs = ("--main", paths[-1], *(("--overlays", ":".join(paths[:-1])) if paths[1:] else ()), "--out", str(out))
    done = subprocess.run([kit("java"), *tool, *inputs], capture_output=True, text=True)
    return _read(out) if out.exists() else done.stdout + done.stderr


def _read(path: Path) -> Merged:
    application = ET.parse(path).getroot().find("application")
    assert application is not None
    components = {}
    for node in application:
        if node.tag in {"activity", "activity-alias"} and not _is_removed(node):
            found = _attributes(node)
            found["starts"] = str(any(map(_starts, node.iter("intent-filter")))).lower()
            components[node.tag, node.get(f"{ANDROID}name", "")] = found
    return Merged(_attributes(application), components)


def _attributes(node: ET.Element) -> dict[str, str]:
    return {name.removeprefix(ANDROID): value for name, value in node.attrib.items() if name.startswith(ANDROID)}


def _starts(node: ET.Element) -> bool:
    names = {one.get(f"{ANDROID}name") for one in node}
    return {"android.intent.action.MAIN", "android.intent.category.LAUNCHER"} <= names and not _is_removed(node)


def _is_removed(node: ET.Element) -> bool:
    """Whether it is a marker of something to be removed, which a build leaves out of the file in its last step."""
    return node.get(f"{TOOLS}node", "").startswith("remove")


class Manifests:
    """Random manifests of one app, from one seed."""

    def __init__(self, seed: int) -> None:
        self._random = random.Random(seed)

    def files(self) -> list[str]:
        """Return one to three manifests, the highest priority first, the main one last."""
        return [self._file(is_main=index == 0) for index in range(self._random.randint(1, 3))][::-1]

    def _file(self, *, is_main: bool) -> str:
        inner = "".join(
            self._component(name, is_main=is_main)
            for name in ("Main", "Other", "Third")
            if self._is(0.7 if is_main else 0.5)
        )
        if self._is(0.4):
            inner += f'<activity-alias android:name="{self._name("Alias")}" android:targetActivity="{self._name("Main")}"{self._attributes(is_main=is_main)}>{self._filters(is_main=is_main)}</activity-alias>'
        return f"<manifest {HEAD}><application{self._attributes(is_main=is_main)}>{inner}</application></manifest>"

    def _component(self, name: str, *, is_main: bool) -> str:
        node = (
            "" if is_main or self._is(0.6) else f' tools:node="{self._random.choice(("remove", "replace", "merge"))}"'
        )
        return f'<activity android:name="{self._name(name)}"{node}{self._attributes(is_main=is_main)}>{self._filters(is_main=is_main)}</activity>'

    def _name(self, name: str) -> str:
        return self._random.choice((f".{name}", name, f"example.tern.{name}"))

    def _attributes(self, *, is_main: bool) -> str:
        text, names = "", []
        if self._is(0.6):
            text += f' android:theme="@style/{self._random.choice("ABC")}"'
            names.append("android:theme")
        if self._is(0.3):
            text += f' android:icon="@mipmap/{self._random.choice("abc")}"'
            names.append("android:icon")
        if names and not is_main and self._is(0.9):
            text += f' tools:replace="{",".join(names)}"'
        elif not is_main and self._is(0.3):
            text += ' tools:remove="android:theme"' if not names else ""
        return text

    def _filters(self, *, is_main: bool) -> str:
        if not is_main and self._is(0.3):
            marker = f' tools:node="{self._random.choice(("remove", "removeAll"))}"'
            return _FILTER.format(marker, self._random.choice(("LAUNCHER", "DEFAULT")))
        return _FILTER.format("", self._random.choice(("LAUNCHER", "LAUNCHER", "DEFAULT"))) if self._is(0.5) else ""

    def _is(self, chance: float) -> bool:
        return self._random.random() < chance
