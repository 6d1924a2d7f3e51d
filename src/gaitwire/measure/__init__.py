"""Figures of speed, measured on scenes that the measure makes itself; printed, never asserted."""

from gaitwire.measure.figures import all_figures, earlier_figures

__all__ = ["all_figures", "earlier_figures"]
