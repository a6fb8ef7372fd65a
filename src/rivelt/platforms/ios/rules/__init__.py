"""The rules of iOS and iPadOS; their words and severities are in `words.toml`."""

from rivelt.platforms.ios.site import IosSite
from rivelt.rules.rulebook import Rulebook, Subject

BOOK: Rulebook[Subject[IosSite]] = Rulebook(
    __name__, ("ios",), modules=("declared", "screen", "resources", "deployment")
)
