"""The chores of the project, each in an environment of its own: `nox` runs the quick ones, `nox -s slow` one of the others."""

import nox

nox.options.sessions = ["lint", "types", "tests", "docs"]
nox.options.default_venv_backend = "uv|virtualenv"
nox.options.error_on_missing_interpreters = False
PYTHONS = ["3.11", "3.12", "3.13", "3.14"]


@nox.session(python=PYTHONS)
def tests(session: nox.Session) -> None:
    """Run the tests that take minutes, with coverage; arguments go to pytest."""
    session.install(".[test]", "pytest-cov>=6.0")
    session.run("pytest", "--cov=rivelt", "--cov-report=term:skip-covered", *session.posargs)


@nox.session(python=PYTHONS[0])
def slow(session: nox.Session) -> None:
    """Run all tests: also those that kill processes, watch folders, open terminals or do the whole demo."""
    session.install(".[test]", ".[quality]")
    session.run("pytest", "-m", "", *session.posargs)


@nox.session(python=PYTHONS[0])
def lint(session: nox.Session) -> None:
    """Check style."""
    session.install("ruff>=0.14")
    session.run("ruff", "format", "--check", ".")
    session.run("ruff", "check", ".")


@nox.session(python=PYTHONS[0])
def types(session: nox.Session) -> None:
    """Check types."""
    session.install(".[test]", ".[quality]")
    session.run("mypy")


@nox.session(python=PYTHONS[0])
def docs(session: nox.Session) -> None:
    """Write the pages that are made from the code, and fail where they were not current."""
    session.install("-e", ".")
    session.run("python", "docs/make_pages.py")
    session.run("git", "diff", "--exit-code", "--stat", "docs", "src/rivelt/brief/rivelt.schema.json", external=True)


@nox.session(python=PYTHONS[0])
def bench(session: nox.Session) -> None:
    """Measure CPU time and memory on the demo; see `benchmarks/`."""
    session.install(".", "matplotlib>=3.9")
    session.run("python", "benchmarks/cpu.py", *session.posargs)
