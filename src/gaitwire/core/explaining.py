"""What is wrong with a value, in words for the person who gave it."""

from __future__ import annotations

from pydantic import ValidationError

_HINTS = {
    "greater_than_equal": "Type {ge:g} or more.",
    "greater_than": "Type more than {gt:g}.",
    "less_than_equal": "Type {le:g} or less.",
    "literal_error": "Choose {expected}.",
    "string_too_short": "Type one.",
    "string_too_long": "Make it shorter than {max_length} letters.",
    "int_parsing": "Type a whole number.",
    "int_from_float": "Type a whole number.",
    "float_parsing": "Type a number.",
    "finite_number": "Type a number.",
}
"""What to do, by Pydantic's name of what is wrong."""


def explained(error: ValidationError) -> tuple[str, str]:
    """The first thing wrong, as a message and a hint for the person who typed it."""
    first = error.errors()[0]
    context = first.get("ctx", {})
    if not first["loc"]:  # about the whole: the model's own words
        said = str(context.get("error", first["msg"]))
        return f"{said[:1].upper()}{said[1:]}.", ""
    field = " ".join(str(part) for part in first["loc"]).replace("_", " ")
    hint = _HINTS[first["type"]].format(**context) if first["type"] in _HINTS else f"{first['msg']}."
    return f"That {field} cannot be used.", hint
