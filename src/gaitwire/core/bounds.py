"""What numbers, names and ids may be, once for pages, files, live messages and the command line alike.

Models take these as the types of their fields, so that nothing beyond them can be made, and the store
refuses what was made around them.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints

LATEST = 40_000.0
"""Frames from 0 within which every key, span and mark lies, whatever the length of its scene."""

FARTHEST = 1e6
"""Pixels from the origin within which everything lies."""

GREATEST = 1e6
"""The greatest value of a key and of anything added to one, in its own unit."""

_PLAIN = r"^[^\x00-\x1f\x7f]*$"
"""No letters that only steer a terminal; half a surrogate pair is refused with them."""

Id = Annotated[str, StringConstraints(max_length=100, pattern=_PLAIN)]
"""An id or a hash; '' where a model allows for none."""

Name = Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=_PLAIN)]
Label = Annotated[str, StringConstraints(max_length=80, pattern=_PLAIN)]
"""A name that may be missing."""

Frame = Annotated[float, Field(allow_inf_nan=False, ge=-LATEST, le=LATEST)]
Length = Annotated[float, Field(allow_inf_nan=False, ge=0, le=2 * LATEST)]
"""A number of frames."""

Place = Annotated[float, Field(allow_inf_nan=False, ge=-FARTHEST, le=FARTHEST)]
Extent = Annotated[float, Field(allow_inf_nan=False, ge=0, le=FARTHEST)]
"""A length in pixels."""

Degrees = Annotated[float, Field(allow_inf_nan=False, ge=-36_000, le=36_000)]
Value = Annotated[float, Field(allow_inf_nan=False, ge=-GREATEST, le=GREATEST)]
Share = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1)]
Seconds = Annotated[float, Field(allow_inf_nan=False, ge=0, le=3600)]

Rank = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]
Number = Annotated[int, Field(ge=0, le=1_000_000)]
