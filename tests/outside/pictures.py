"""Pictures that Chromium takes, and how far two pictures are apart."""

import io

import numpy as np
from PIL import Image


def screenshot(page):
    """What the page shows, over nothing: (height, width, 4)."""
    with Image.open(io.BytesIO(page.screenshot(omit_background=True))) as shot:
        return np.asarray(shot.convert("RGBA"), np.int16)


def show_svg(page, svg, size):
    """The SVG alone on a page of that size."""
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.set_content(
        f"<style>body{{margin:0}}body>svg{{display:block;width:{size[0]}px;height:{size[1]}px}}</style>{svg}"
    )


def over_grey(pixels):
    """Colours over a middle grey (3, height, width), so that a difference of alpha counts as it is seen."""
    planes = np.ascontiguousarray(np.moveaxis(pixels, -1, 0), np.float32)
    alpha = planes[3] / np.float32(255)
    return planes[:3] * alpha + 128 * (1 - alpha)


def gap(ours, theirs, off):
    """(mean difference in 1/255, share of pixels off by more than `off`)."""
    apart = np.abs(over_grey(ours) - over_grey(theirs)).max(axis=0)
    return float(apart.mean()), float((apart > off).mean())
