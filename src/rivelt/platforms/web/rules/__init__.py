"""The rules of web apps; their words and severities are in `words.toml`."""

from rivelt.platforms.web.site import WebSite
from rivelt.rules.rulebook import Rulebook, Subject

BOOK: Rulebook[Subject[WebSite]] = Rulebook(__name__, ("web",), modules=("app",))
