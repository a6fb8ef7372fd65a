"""Generated text from the template files that are beside the modules using them."""

from __future__ import annotations

import json
import re
from functools import cached_property
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from jinja2 import Environment


def xml_comment(text: str) -> str:
    """Return text as it may stand in an XML comment, where nothing is escaped and two hyphens are not allowed."""
    from markupsafe import Markup

    safe = re.sub(r"-(?=-)|-$", "- ", text)
    return Markup(safe)


class Templates:
    """The `templates/` folder of one package. Values put into XML templates are escaped; a missing value is an error."""

    def __init__(self, package: str) -> None:
        self._package = package

    @cached_property
    def _environment(self) -> Environment:
        from jinja2 import Environment, PackageLoader, StrictUndefined, select_autoescape

        environment = Environment(
            loader=PackageLoader(self._package),
            autoescape=select_autoescape(("xml.j2", "storyboard.j2", "html.j2")),
            undefined=StrictUndefined,
            trim_blocks=True,
            lstrip_blocks=True,
            keep_trailing_newline=True,
        )
        environment.filters["comment"] = xml_comment
        environment.filters["toml_text"] = lambda text: json.dumps(text, ensure_ascii=False)
        return environment

    def render(self, template: str, **values: Any) -> str:
        """Return the text that `template` gives with `values`."""
        return self._environment.get_template(template).render(**values)
