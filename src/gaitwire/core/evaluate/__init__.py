"""From a scene and its puppets to `Frames`.

The order of stages is fixed: sample, drive, skeleton, bearing, limbs, dynamics, fixes, deform,
frames. Present today: sample, skeleton, frames.
"""

from gaitwire.core.evaluate.compiled_scene import CompiledScene, compile_scene
from gaitwire.core.evaluate.evaluate import evaluate
from gaitwire.core.evaluate.frames import Frames

__all__ = ["CompiledScene", "Frames", "compile_scene", "evaluate"]
