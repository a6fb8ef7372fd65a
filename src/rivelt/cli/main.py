"""The command `rivelt`: its sub-commands, and the one place that catches errors and chooses the exit code."""

from __future__ import annotations

import atexit
import itertools
import os
import sys
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path
from typing import Annotated, Any

import typer
from typer.main import get_command

from rivelt import __version__
from rivelt.about import documentation
from rivelt.cli import interrupt, output
from rivelt.cli.commands import HELP, Commands
from rivelt.errors import BadInput, ExitCode, Place, RiveltError

_HELP = """One logo and one background in; launch screens on every platform out: written into the app's own project, and proved
by pictures of what each device will show."""

_EPILOG = f"`rivelt help COMMAND` describes a command, `rivelt help CODE` a rule. Documentation: {documentation()}"

app = typer.Typer(
    name="rivelt",
    cls=Commands,
    help=_HELP,
    epilog=_EPILOG,
    context_settings=dict(HELP),
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    add_completion=True,
)


def _show_version(value: bool) -> None:
    if value:
        output.say(f"rivelt {__version__}")
        raise typer.Exit


@app.callback()
def _rivelt(
    _version: Annotated[
        bool, typer.Option("--version", "-V", callback=_show_version, is_eager=True, help="Print the version and stop.")
    ] = False,
) -> None:
    pass


def main(arguments: Sequence[str] | None = None) -> None:
    """Run a command and end the process with its exit code."""
    _open_standard_streams()
    output.begin()
    interrupt.listen()
    code = run(sys.argv[1:] if arguments is None else arguments)
    interrupt.ignore()
    output.end()
    if code == ExitCode.INTERRUPTED:
        atexit._run_exitfuncs()  # what processes of ours shared is let go of  # noqa: SLF001
        # Where an interrupt has passed through an import, the interpreter would end itself by the signal instead.
        os._exit(code)
    sys.exit(code)


def _open_standard_streams() -> None:
    """Take the descriptors of streams that were closed, so that no file is opened as one of them and printed into."""
    for descriptor in range(3):
        try:
            os.fstat(descriptor)
        except OSError:
            os.open(os.devnull, os.O_RDWR)


@cache
def _built() -> Callable[..., Any]:
    """The group of commands, made once in a process."""
    return get_command(app)


def run(arguments: Sequence[str]) -> int:
    """Run a command; every error becomes a message on stderr and an exit code."""
    output.settings.is_json = "--json" in itertools.takewhile(lambda one: one != "--", arguments)
    try:
        code = int(_built()(_helped(arguments), prog_name="rivelt", standalone_mode=False) or ExitCode.OK)
        return _stopped() if code == ExitCode.INTERRUPTED else code
    except RiveltError as error:
        if output.settings.is_debug:
            raise
        return output.failure(error, max(part.exit_code for part in error.parts))
    except typer.TyperException as error:
        return _usage_error(error)
    except (KeyboardInterrupt, typer.Abort):
        return _stopped()
    except BrokenPipeError:  # of help, which is not printed by us
        return ExitCode.OK
    except OSError as error:
        if output.settings.is_debug:
            raise
        return output.failure(_refused_by_system(error), ExitCode.BAD_INPUT)
    except Exception as error:
        if output.settings.is_debug:
            raise
        hint = "This is a bug of Rivelt's. Run it again with --debug, and report what it prints."
        return output.failure(RiveltError(f"{type(error).__name__}: {error}", hint=hint), ExitCode.INTERNAL)


def _helped(arguments: Sequence[str]) -> list[str]:
    """The arguments, with `help COMMAND` as `COMMAND --help` and `help CODE` as `explain CODE`."""
    if arguments[:1] != ["help"]:
        return list(arguments)
    topic, rest = arguments[1:2], arguments[2:]
    is_code = any(letter.isdigit() for one in topic for letter in one)
    return ["explain", *topic, *rest] if is_code else [*topic, "--help", *rest]


def _stopped() -> int:
    stopped = RiveltError("stopped; the project is as it was, or `rivelt undo` makes it so")
    return output.failure(stopped, ExitCode.INTERRUPTED)


def _usage_error(error: typer.TyperException) -> int:
    context = getattr(error, "ctx", None)
    path = context.command_path if context is not None else "rivelt"
    message = getattr(error, "format_message", lambda: str(error))()
    if not message or type(error).__name__ == "NoArgsIsHelpError":
        for line in (context.get_help() if context is not None else str(error)).split("\n"):
            output.say(line, is_verbatim=True)
        return ExitCode.BAD_INPUT
    text = message.rstrip(".")
    return output.failure(BadInput(text[:1].lower() + text[1:], hint=f"See: {path} --help"), ExitCode.BAD_INPUT)


def _refused_by_system(error: OSError) -> BadInput:
    """The error for a person that says what the system refused."""
    try:
        Path.cwd()
    except OSError:
        return BadInput("the current folder is not there any more", hint="Go to a folder that is: cd ..")
    at = Place(str(error.filename)) if error.filename else None
    return BadInput(f"the system refused it: {error.strerror or error}", place=at, hint="Nothing more was changed.")
