"""The rules of .NET single projects; their words and severities are in `words.toml`."""

from rivelt.platforms.dotnet.site import DotnetSite
from rivelt.rules.rulebook import Rulebook, Subject

BOOK: Rulebook[Subject[DotnetSite]] = Rulebook(__name__, ("dotnet",), modules=("item",))
