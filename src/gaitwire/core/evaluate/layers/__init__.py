"""The layers of values in their order: what lies on the keys of a puppet, one on top of the other.

A new one is a module with a class like these and its line here; evaluation, posing on top of it, mending of a rest,
notes and files ask this list and never repeat the order.
"""

from gaitwire.core.evaluate.layers.drift import Drifts
from gaitwire.core.evaluate.layers.layer import Layer, OnTop, Overrides, Sampling
from gaitwire.core.evaluate.layers.led import Led
from gaitwire.core.evaluate.layers.offsets import Offsets
from gaitwire.core.evaluate.layers.pads import Pads
from gaitwire.core.evaluate.layers.phrases import Phrases
from gaitwire.core.evaluate.layers.roll import Rolls
from gaitwire.core.evaluate.layers.turning import Turns
from gaitwire.core.evaluate.layers.walks import Walks
from gaitwire.core.evaluate.layers.wanted import Wanted

LAYERS: tuple[Layer, ...] = (Walks(), Phrases(), Pads(), Turns(), Led(), Offsets(), Wanted(), Rolls(), Drifts())

__all__ = ["LAYERS", "Layer", "OnTop", "Overrides", "Sampling"]
