"""From a scene and its puppets to `Frames`.

Channels are sampled and composed by layers (`layers`), bones and limbs are laid segment by segment (`posed`),
controls correct parts and pins, soft parts are bent, and `evaluate` puts it all together as `Frames`.
"""

from gaitwire.core.evaluate.compiled_scene import CompiledScene, compile_scene
from gaitwire.core.evaluate.evaluate import evaluate
from gaitwire.core.evaluate.frames import Frames

__all__ = ["CompiledScene", "Frames", "compile_scene", "evaluate"]
