"""The orchard: puppets and scenes of our own, built through the same services as everybody's."""

from gaitwire.demo.orchard import build_orchard

__all__ = ["build_orchard"]
