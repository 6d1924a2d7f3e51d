"""What nothing leads is as at rest."""

from __future__ import annotations

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.layers.layer import Layer, Sampling
from gaitwire.core.timing.channel import LED


class Led(Layer):
    tables = frozenset({"part"})

    def compose(self, name: str, table: FloatArray, at: Sampling) -> None:
        shows = at.puppet.parts.shows
        rest = np.stack([np.ones(len(shows)), shows, np.zeros(len(shows)), np.ones(len(shows))], axis=1)
        table[:] = np.where(table == LED, rest.reshape(-1, 1), table)
