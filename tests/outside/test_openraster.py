"""OpenRaster against a registry reader and writer of it. Source: pyora 0.3, on the specification 0.0.6."""

import io

import numpy as np
import pytest
from PIL import Image
from pyora import Project

from gaitwire.formats.art_readers import read_art


@pytest.fixture
def theirs(tmp_path):
    """A file written by pyora: a group, offsets, opacity, a hidden layer."""
    project = Project.new(120, 90)
    colors = iter([(200, 60, 40, 255), (40, 120, 60, 255), (60, 60, 160, 255)])

    def blob(size):
        picture = Image.new("RGBA", size)
        picture.paste(next(colors), (3, 2, size[0] - 4, size[1] - 5))
        return picture

    project.add_layer(blob((60, 50)), "back", offsets=(10, 20))
    group = project.add_group("near arm")
    project.add_layer(blob((40, 30)), "near arm/hand", offsets=(55, 8), opacity=0.5)
    project.add_layer(blob((20, 20)), "hidden", offsets=(0, 0), visible=False)
    assert group.name == "near arm"
    path = tmp_path / "theirs.ora"
    project.save(str(path))
    return path


def test_layers_read_by_both_agree(theirs):
    ours = read_art(theirs.read_bytes(), "theirs")
    project = Project.load(str(theirs))
    layers = {layer.name: layer for layer in project.children_recursive if not layer.is_group}
    assert {p.name for p in ours.parts} == set(layers)
    for part in ours.parts:
        layer = layers[part.name]
        (node,) = part.art.nodes
        _, data = ours.pictures[node.hash]
        page = Image.new("RGBA", (120, 90))
        page.paste(Image.open(io.BytesIO(data)), (int(node.matrix[4]), int(node.matrix[5])))
        assert np.array_equal(np.asarray(page), np.asarray(layer.get_image_data(raw=False)))
        assert node.opacity == pytest.approx(layer.opacity)
        assert part.hidden is (not layer.visible)
