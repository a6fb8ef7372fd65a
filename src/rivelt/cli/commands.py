"""The sub-commands: listed with a line each, and loaded when one of them is asked for, so that no other costs its start-up time."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Mapping
from enum import StrEnum
from functools import partial
from importlib import import_module
from pathlib import Path
from types import MappingProxyType
from typing import Any, get_args

import typer
from typer.core import TyperCommand, TyperGroup
from typer.main import get_command

_USUAL_WIDTH = 80
_COLUMNS = shutil.get_terminal_size().columns
HELP: Mapping[str, Any] = MappingProxyType(
    # Left to itself, the library writes lines of 50 characters and more.
    {"help_option_names": ["--help", "-h"], **({"terminal_width": _COLUMNS} if _COLUMNS < _USUAL_WIDTH else {})}
)

SUMMARIES: Mapping[str, str] = MappingProxyType(
    {
        "survey": "See what is there.",
        "brief": "Write a commented starter brief.",
        "measure": "Measure the art.",
        "plates": "Make the images alone.",
        "proof": "Draw what the devices will show.",
        "apply": "Make it so in the project.",
        "undo": "Take the last apply back, to the byte; or the last N of them.",
        "remove": "Take out everything that Rivelt made, in a fresh clone too.",
        "check": "Judge the launch screens of a project by numbered rules.",
        "replay": "Tell from a screen recording what a real launch showed.",
        "fleet": "Make many brands from one table, on all cores or on a cluster.",
        "explain": "Say what a finding means, why it matters, and how to fix it.",
        "demo": "Do the whole job on a sample app.",
    }
)
"""The first line of each command's help, in the order of the list: a command is the function of its name in the module of its name here."""


def command(name: str) -> Any:
    """Return a sub-command with its parameters; its module is loaded by this."""
    function: Callable[..., object] = getattr(import_module(f"rivelt.cli.{name}"), name)
    alone = typer.Typer(
        rich_markup_mode=None, pretty_exceptions_enable=False, add_completion=False, context_settings=dict(HELP)
    )
    alone.command(name, cls=_Command)(function)
    return get_command(alone)


class _Light:
    """A command whose parameters load no library for what is simple, the library's own ones included."""

    def get_params(self, ctx: Any) -> list[Any]:
        """Return the parameters."""
        found: list[Any] = super().get_params(ctx)  # type: ignore[misc]  # of the command that this is mixed into
        for parameter in found:
            if hasattr(parameter, "type_descriptor") and not isinstance(parameter.process_value, partial):
                parameter.process_value = partial(_processed, parameter, parameter.process_value)
        return found


class _Command(_Light, TyperCommand):
    pass


def _processed(parameter: Any, usual: Callable[[Any, Any], Any], context: Any, value: Any) -> Any:
    """What `usual`, the library's own method, makes of the value of a parameter.

    Since 0.29 it loads Pydantic for that, which takes as long as the start-up of all else. So what needs no more than a type is made
    here: texts, paths, words of an enumeration, and what is not given.
    """
    is_many = parameter.multiple or parameter.nargs == -1
    annotation = parameter.type_descriptor.annotation
    kind = next(iter(get_args(annotation)), None) if is_many else annotation
    if parameter.required and not value:
        return usual(context, value)
    if value is None:
        made: Any = () if is_many else None
    elif kind in {str, Path}:
        made = [kind(one) for one in value] if is_many else kind(value)
    elif not is_many and isinstance(kind, type) and issubclass(kind, StrEnum):
        if value not in list(kind):
            words = ", ".join(f"'{one}'" for one in kind)
            raise typer.BadParameter(f"'{value}' is not one of {words}", ctx=context, param=parameter)
        made = kind(value)
    else:
        return usual(context, value)
    return made if parameter.callback is None else parameter.callback(context, parameter, made)


class Commands(_Light, TyperGroup):
    """The group of sub-commands: those that are only listed or completed are known by name and summary alone."""

    def __init__(self, **attributes: Any) -> None:
        listed = {name: TyperCommand(name, help=summary, rich_markup_mode=None) for name, summary in SUMMARIES.items()}
        super().__init__(**{**attributes, "commands": listed})

    def resolve_command(self, ctx: Any, args: list[str]) -> tuple[str | None, Any, list[str]]:
        """Load the command that an argument names; what the library does with a name that is unknown stays as it is."""
        name, found, rest = super().resolve_command(ctx, args)
        return name, command(name) if name is not None and name in SUMMARIES else found, rest
