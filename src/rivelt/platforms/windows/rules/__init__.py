"""The rules of Windows; their words and severities are in `words.toml`."""

from rivelt.platforms.windows.site import WindowsSite
from rivelt.rules.rulebook import Rulebook, Subject

BOOK: Rulebook[Subject[WindowsSite]] = Rulebook(__name__, ("windows",), modules=("package",))
