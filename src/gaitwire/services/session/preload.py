"""What worker processes have loaded before they start."""

import gaitwire.formats.raster
import gaitwire.formats.sinks
import gaitwire.formats.sound_files
import gaitwire.formats.svg  # noqa: F401
