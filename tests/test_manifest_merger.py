"""Manifests as we merge them against the platform's own merger."""

from __future__ import annotations

from pathlib import Path

import pytest

from android_framework.judge import missing
from android_framework.merger import PACKAGE, Manifests, merged
from rivelt.platforms.android.native.manifest import Component, full_name, merged_manifest
from rivelt.project.project import Project

pytestmark = [pytest.mark.slow, pytest.mark.skipif(missing() is not None, reason=missing() or "")]
ATTRIBUTES = ("theme", "icon")


def said(component: Component) -> dict[str, str]:
    return {name: value for name in ATTRIBUTES if (value := component.value(name)) is not None}


def test_manifests_are_merged_as_the_platforms_tool_does_it(tmp_path: Path) -> None:
    """Up to three files with names written in every way, and markers that replace, remove and merge."""
    refused = 0
    for seed in range(40):
        files = Manifests(seed).files()
        theirs = merged(files, tmp_path / str(seed))
        if isinstance(theirs, str):
            assert "rror" in theirs or "Exception" in theirs
            refused += 1
            continue
        paths = tuple(f"{number}.xml" for number in range(len(files)))
        project = Project.of_files({path: text.encode() for path, text in zip(paths, files, strict=True)})
        ours = merged_manifest(project, paths, PACKAGE)
        assert ours.application is not None
        assert said(ours.application) == theirs.application, files
        activities = {name: found for (kind, name), found in theirs.components.items() if kind == "activity"}
        assert {one.name for one in ours.activities} == activities.keys(), files
        for one in ours.activities:
            assert said(one) == {
                name: activities[one.name][name] for name in ATTRIBUTES if name in activities[one.name]
            }, files
        targets = {
            name if kind == "activity" else full_name(found["targetActivity"], PACKAGE)
            for (kind, name), found in theirs.components.items()
            if found["starts"] == "true"
        }
        assert {one.name for one in ours.launchers} == targets & activities.keys(), files
    assert refused < 10
