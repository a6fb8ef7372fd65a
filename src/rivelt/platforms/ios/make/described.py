"""Projects that are made from a description: its edit where it is YAML, else the exact lines as a manual step."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from rivelt.edit.plist import Value
from rivelt.plan.model import EditFile, ManualStep
from rivelt.platforms.ios.make.declare import Declaring
from rivelt.platforms.ios.site import IosSite
from rivelt.project.project import Project

if TYPE_CHECKING:  # few projects have a description, and the parser takes time to load
    from rivelt.edit.yamltext import Keys, YamlValue

_SETTINGS = ("base", "configs", "groups")


def described_edit(project: Project, site: IosSite, declaring: Declaring) -> list[EditFile]:
    """Return the edit of a description in YAML: the keys of the list that it makes, and build settings; none where all is there."""
    document = project.yaml(site.project_file)
    target = ("targets", site.target_name)
    changes: dict[Keys, YamlValue] = {
        (*target, "info", "properties", key): _as_yaml(value) for key, value in declaring.properties.items()
    }
    settings = document.value(*target, "settings")
    is_split = isinstance(settings, dict) and any(key in settings for key in _SETTINGS)
    holder = (*target, "settings", "base") if is_split else (*target, "settings")
    for setting in declaring.settings:
        own = (*target, "settings", "configs", setting.configuration, setting.key)
        changes[own if is_split and document.value(*own) is not None else (*holder, setting.key)] = setting.value
    before = document.data
    after = document.edited(changes)
    if after == before:
        return []
    return [EditFile(site.project_file, before, after, f"the launch screen of target {site.target_name}")]


def _as_yaml(value: Value) -> YamlValue:
    if isinstance(value, dict):
        return {key: _as_yaml(one) for key, one in value.items()}
    if isinstance(value, list):
        return [_as_yaml(one) for one in value]
    return value if isinstance(value, str | bool) or value is None else str(value)


def described_steps(site: IosSite, screen: Mapping[str, Value]) -> list[ManualStep]:
    """Return the lines that a description needs which is not edited, for a launch screen by its keys of Info.plist."""
    name = screen.get("UILaunchStoryboardName")
    title = f"Add the launch screen to target {site.target_name}, and make the Xcode project again"
    home = site.home.removeprefix(f"{site.folder}/") if site.folder else site.home
    match site.generator:
        case "Project.swift":
            lines = [f"infoPlist: .extendingDefault(with: [{_swift(screen)}]),", f'resources: ["{home or "."}/**"],']
        case "Package.swift":
            lines = [
                'additionalInfoPlistContentFilePath: "LaunchInfo.plist",  // with these keys:',
                *_plist_lines(screen),
            ]
            lines.append(f'resources: [.process("{home or "."}")],')
        case _:
            lines = [f'launch_storyboard = "{_below(home, f"{name}.storyboard")}",'] if name else []
            lines += [] if name else ["infoplists = [...],  # with these keys:", *_plist_lines(screen)]
            lines += [f'resources = glob(["{_below(home, "*.xcassets/**")}"]),']
    return [ManualStep(title, site.project_file, tuple(lines))]


def _below(folder: str, path: str) -> str:
    return f"{folder}/{path}" if folder else path


def _swift(screen: Mapping[str, Value]) -> str:
    """A dictionary's content in Swift."""
    shown = []
    for key, value in screen.items():
        text = f"[{_swift(value)}]" if isinstance(value, dict) else f'"{value}"'
        shown.append(f'"{key}": {text}')
    return ", ".join(shown)


def _plist_lines(screen: Mapping[str, Value]) -> list[str]:
    lines = []
    for key, value in screen.items():
        lines.append(f"<key>{key}</key>")
        lines += (
            ["<dict>", *(f"    {line}" for line in _plist_lines(value)), "</dict>"]
            if isinstance(value, dict)
            else [f"<string>{value}</string>"]
        )
    return lines
