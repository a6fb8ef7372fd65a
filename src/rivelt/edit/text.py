"""The text of a file."""

from __future__ import annotations

from rivelt.errors import BadInput, Place

BOM = "\ufeff"


def read_text(data: bytes, path: str, hint: str = "Save it as UTF-8.") -> str:
    """Return the text of a UTF-8 file, its byte order mark included.

    Raises:
        BadInput: it is not UTF-8, with the place of the first byte that is not.
    """
    try:
        return data.decode()
    except UnicodeDecodeError as error:
        raise BadInput("the file is not UTF-8 text", place=Place.at(path, data, error.start), hint=hint) from error
