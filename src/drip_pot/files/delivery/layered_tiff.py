# SPDX-License-Identifier: GPL-3.0-or-later
"""A page as a TIFF with a picture for each layer, named. Knows what a page is painted from, and its layers."""

from pathlib import Path

from drip_pot.files.delivery.kinds import Delivered, kind
from drip_pot.files.delivery.layers import layers_of

_PAGE_NAME, _DEFLATE = 285, 8  # as the TIFF standard numbers them


@kind("tiff-layers", "TIFF, a picture a layer", "-layers.tif", place=26)
def write_layered_tiff(path: Path, page: Delivered, part: int = 0) -> None:
    """Write the page as it is seen, then every layer from the paper up; its name, and in the description its mode."""
    import tifffile

    dpi = page.sources.page.dpi
    with tifffile.TiffWriter(path, bigtiff=False) as out:

        def put(name: str, mode: str, pixels: object) -> None:
            text = name.encode("ascii", "replace").decode()
            out.write(
                pixels, photometric="rgb", extrasamples=["unassalpha"], compression=_DEFLATE, predictor=True,
                resolution=(dpi, dpi), resolutionunit="INCH", metadata=None, description=f"{text}; {mode}",
                extratags=[(_PAGE_NAME, "s", 0, text, True)], software="Drip Pot",
            )  # fmt: skip

        put("As it is seen", "normal", page.ready.screen())
        for layer in layers_of(page):
            put(layer.name, "normal" if layer.mode == "src-over" else layer.mode, layer.pixels)
