"""Models with new values: validated again, with an error for the person who typed them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.explaining import explained

Model = TypeVar("Model", bound=BaseModel)


def revised(item: Model, values: Mapping[str, Any]) -> Model:
    """The model with new values; raises InvalidInputError, by field, for one that does not fit."""
    for name in values:
        if name not in type(item).model_fields:
            raise InvalidInputError(f"A {type(item).__name__.lower()} has no {name.replace('_', ' ')}.")
    fields = {name: getattr(item, name) for name in type(item).model_fields}
    try:
        return type(item).model_validate({**fields, **values})
    except ValidationError as error:
        raise InvalidInputError(*explained(error)) from None
